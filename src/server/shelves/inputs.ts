import { shelfSetOf } from "@/core/account/records/labels";
import { HEATS } from "@/core/evidence/heat";
import { paidPrices } from "@/core/catalogue/margins";
import { asText, type Column } from "@/core/kit/columns";
import { windowEnding, type Window } from "@/core/kit/days";
import { emptyRowSums, type RowSums } from "@/core/results/window-sums";
import type { ShelfInputs } from "@/core/shelves/assign";
import { metricNeeds, metricOfName, metricValues, type MetricInputs } from "@/core/shelves/shelf-metrics";
import { namesIn, type Cut, type ShelfSet } from "@/core/shelves/shelf-set";
import type { Database } from "@/db/client";
import { FAULT_PREFIX, faultColumn, noteColumn } from "../catalogue/made-columns";
import { loadCatalogue } from "../catalogue/load";
import { type Stamp } from "../read/memo";
import { rememberReady } from "../read/ready";
import { loadMeasures, loadWindow, resultDays, type WindowResults } from "../results/load";
import { daysSeenFirst, loadEvidence, loadHeat } from "../evidence/items";
import { pickedRows, picksVersion } from "./picks";
import { findShelfSet } from "./sets";
import { storedColumn } from "./members";

/** What cuts by ad results alone look at. */
const AD_MEASURES = ["impressions", "clicks", "orders", "units", "cost", "revenue"] as const;
/** The least that any set looks at: its read rule, and weights of quantiles. */
const FEW_MEASURES = ["clicks", "orders", "cost", "revenue"] as const;

/** Metric columns kept beside each other. */
const MOST_METRICS = 24;

/** The last quarter of a window, whole days. */
const LATE_SHARE = 0.25;

export interface LoadedInputs extends ShelfInputs {
  /** What it was made of: the same again is no new data. */
  stamp: string;
  numbers: Float64Array;
  results: WindowResults | null;
}

/** The window a set is computed on: its length, ending on the last day with results, or on a day. Null without results. */
export async function windowOf(db: Database, set: ShelfSet, to?: number): Promise<Window | null> {
  const days = await resultDays(db);
  return days ? windowEnding(to ?? days.to, set.windowDays) : null;
}

function isRank(cut: Cut | null): boolean {
  return cut?.by === "count" || cut?.by === "share";
}

/** All that a set is computed from, over a window. */
export async function loadShelfInputs(db: Database, set: ShelfSet, window: Window | null): Promise<LoadedInputs> {
  const names = namesIn(set);
  const metrics = names.filter((name) => metricOfName(name) !== null);
  const needs = metricNeeds(metrics);
  // IDs settle ties of ranks only, and reading a hundred thousand of them takes longer than all the rest.
  const isRanked = set.shelves.some((shelf) => shelf.kind === "band" && isRank(shelf.cut));
  const fields = names.filter((name) => !metrics.includes(name));
  const catalogue = await loadCatalogue(db, isRanked ? ["id", ...fields] : fields);
  const numbers =
    catalogue.columns["itemNo"]?.kind === "number" ? catalogue.columns["itemNo"].values : new Float64Array(0);
  const isRead = metrics.every((name) => name === "roas");
  const results =
    window &&
    (needs.store || needs.evidence
      ? await loadWindow(db, window)
      : await loadMeasures(db, window, isRead ? FEW_MEASURES : AD_MEASURES));
  const sums = results?.rows ?? emptyRowSums(catalogue.length);
  const stamp = [
    catalogue.revision,
    results?.stamp[1],
    window?.to,
    set.windowDays,
    await picksVersion(db, set.key),
    await factsVersion(db, names),
  ].join("/");
  const columns = new Map<string, Column>();
  const inputs = metrics.length > 0 ? await metricInputs(db, set, window, results, sums, needs) : null;
  for (const name of names) {
    const column =
      inputs && metrics.includes(name)
        ? await metricColumn(db, name, inputs, results, set.goal)
        : await factColumn(db, set, window, name, sums, catalogue.columns);
    if (column) columns.set(name, column);
  }
  const evidence = needs.evidence && results ? await loadEvidence(db, results) : null;
  const picked = await pickedRows(db, set, window?.to ?? null);
  return {
    ...{ stamp, numbers, results, sums },
    expected: evidence?.expected ?? null,
    column: (name) => columns.get(name),
    picked: (shelf) => picked.get(shelf),
    byId: () => rowsById(catalogue.columns["id"], catalogue.length),
  };
}

/** What notes and other sets' shelves hang on, where rules ask about them. */
async function factsVersion(db: Database, names: string[]): Promise<string> {
  const parts: string[] = [];
  if (names.includes("note")) {
    const { rows } = await db.$client.execute("SELECT count(*), coalesce(max(id), 0) FROM notes");
    parts.push(`n${Number(rows[0]![0])}.${Number(rows[0]![1])}`);
  }
  for (const name of names) {
    const other = shelfSetOf(name);
    const kept = other === null ? null : await findShelfSet(db, other);
    if (kept) parts.push(`${other}.${kept.computedAt ?? 0}`);
  }
  return parts.join();
}

/** Heat as a column: what every other screen shows, over the set's own window. */
async function heatColumn(db: Database, set: ShelfSet, window: Window | null): Promise<Column | undefined> {
  if (!window) return undefined;
  const heat = await loadHeat(db, await loadWindow(db, window), set.goal);
  const values = ["", ...HEATS];
  return { kind: "text", values, codes: Uint32Array.from(heat, (step) => values.indexOf(step)) };
}

/** Fields and sets that a set's rules ask for and that there are not any more. */
export async function missingNames(db: Database, set: ShelfSet, sets: string[]): Promise<string[]> {
  const names = namesIn(set).filter(
    (name) => metricOfName(name) === null && name !== "note" && name !== "heat" && !name.startsWith(FAULT_PREFIX),
  );
  const { columns } = await loadCatalogue(db, names);
  return names.filter((name) => {
    const other = shelfSetOf(name);
    return other === null ? !columns[name] : !sets.includes(other);
  });
}

async function factColumn(
  db: Database,
  set: ShelfSet,
  window: Window | null,
  name: string,
  sums: RowSums,
  known: Record<string, Column>,
): Promise<Column | undefined> {
  if (name === "note") return noteColumn(db);
  if (name === "heat") return heatColumn(db, set, window);
  if (name.startsWith(FAULT_PREFIX)) return faultColumn(db, name.slice(FAULT_PREFIX.length), sums);
  const other = shelfSetOf(name);
  return other === null ? known[name] : storedColumn(db, other);
}

function metricColumn(
  db: Database,
  name: string,
  inputs: MetricInputs,
  results: WindowResults | null,
  goal: number,
): Promise<Column> {
  const values = () => ({
    kind: "number" as const,
    values: metricValues(name, inputs) ?? new Float64Array(inputs.sums.clicks.length).fill(NaN),
  });
  if (!results) return Promise.resolve(values());
  const own = name === "chance" || name.endsWith("goodOrders") ? goal : 0;
  return rememberReady(db, "shelf metric", [...results.stamp, name, own], values, MOST_METRICS);
}

async function metricInputs(
  db: Database,
  set: ShelfSet,
  window: Window | null,
  results: WindowResults | null,
  sums: RowSums,
  needs: ReturnType<typeof metricNeeds>,
): Promise<MetricInputs> {
  const catalogue = await loadCatalogue(db, needs.fields);
  const span = await resultDays(db);
  const days = window && span ? window.to - Math.max(window.from, span.from) + 1 : 0;
  const lateDays = Math.max(1, Math.floor(days * LATE_SHARE));
  const number = (name: string) => {
    const column = catalogue.columns[name];
    return column?.kind === "number" ? column.values : null;
  };
  const firsts = needs.age ? await daysSeenFirst(db, catalogue) : null;
  const today = window?.to ?? 0;
  return {
    sums,
    late:
      needs.late && window && days > 1
        ? { sums: (await loadWindow(db, windowEnding(window.to, lateDays))).rows, days: lateDays }
        : null,
    days,
    goal: set.goal,
    family: catalogue.columns["family"] ? asText(catalogue.columns["family"]) : null,
    evidence: needs.evidence && results ? await loadEvidence(db, results) : null,
    paid: needs.fields.includes("price") ? paidPrices(catalogue) : null,
    margin: number("margin"),
    breakEven: number("breakEven"),
    stock: number("stock"),
    age: firsts && firsts.map((first) => (Number.isNaN(first) ? NaN : Math.max(0, today - first))),
  };
}

const orders = new WeakMap<Column, Uint32Array>();

/** Rows in the order of their item IDs, worked out once a column and only where somebody asks. */
function rowsById(id: Column | undefined, length: number): Uint32Array {
  const found = id && orders.get(id);
  if (found) return found;
  const rows = new Uint32Array(length);
  for (let row = 0; row < length; row++) rows[row] = row;
  if (id?.kind === "text") {
    const text = (row: number) => id.values[id.codes[row]!]!;
    rows.sort((a, b) => (text(a) < text(b) ? -1 : text(a) > text(b) ? 1 : a - b));
    orders.set(id, rows);
  }
  return rows;
}

/** What evidence and windows of a set hang on, for keeping what was made of it. */
export function stampOf(set: ShelfSet, inputs: Pick<LoadedInputs, "stamp">): Stamp {
  return [inputs.stamp, JSON.stringify(set)];
}
