import { asc, between, eq, sql } from "drizzle-orm";
import type { Window } from "@/core/kit/days";
import type { Columns } from "@/core/kit/columns";
import { AD_MEASURES, noSums, type AdMeasure, type Sums } from "@/core/kit/metrics";
import {
  decodeRollup,
  decodeSpan,
  decodeStore,
  type DayRollup,
  type DayStore,
  type ItemSpan,
} from "@/core/results/day-columns";
import { SPAN_DAYS } from "@/core/results/roll-up-days";
import { addRollup, addStore, emptyRowSums, rowIndex, type RowSums } from "@/core/results/window-sums";
import type { Database } from "@/db/client";
import { codes, dayRollups, hourFacts, placementFacts, slotFacts, spanRollups, workspace } from "@/db/schema";
import type { CodeKind } from "./coder";
import { recall, remember, type Stamp } from "../read/memo";
import { rememberReady } from "../read/ready";
import { loadCatalogue } from "../catalogue/load";
import { windowRows, windowSpan } from "./window-rows";

/** The first and last day with results, or null when there are none. */
export async function resultDays(db: Database): Promise<Window | null> {
  // Slots, hours and placements are not rolled up by day, and may be all there is.
  const tables = [dayRollups, slotFacts, hourFacts, placementFacts];
  const spans = await Promise.all(
    tables.map((table) =>
      // Each end by itself: the database looks up one end of the key, but reads all of it for both at once.
      db.all<{ from: number | null; to: number | null }>(
        sql`SELECT (SELECT min(day) FROM ${table}) AS "from", (SELECT max(day) FROM ${table}) AS "to"`,
      ),
    ),
  );
  const whole = await windowSpan(db);
  if (whole) spans.push([whole]);
  const known = spans.flatMap(([span]) => (span?.from == null || span.to == null ? [] : [span as Window]));
  if (known.length === 0) return null;
  return { from: Math.min(...known.map(({ from }) => from)), to: Math.max(...known.map(({ to }) => to)) };
}

export interface WindowResults {
  /** What they are of; what is worked out from them holds as long. */
  stamp: Stamp;
  window: Window;
  rows: RowSums;
  /** Results of items that are no longer in the catalogue. */
  gone: Sums;
}

/** The number of the last change of results: what was made of them holds while it stays. */
export async function resultsVersion(db: Database): Promise<number> {
  const [row] = await db.select({ version: workspace.resultsVersion }).from(workspace);
  return row?.version ?? 0;
}

/** Windows kept beside each other: those of a screen and of what it compares with. */
const KEPT_WINDOWS = 6;

/** Days read by one statement: few enough to keep each short at 100,000 items, many enough that statements cost little. */
const DAYS_AT_ONCE = 8;

/** The results of a window for every row of the catalogue in force. Shared; must not be written to. */
export async function loadWindow(db: Database, window: Window): Promise<WindowResults> {
  return loadMeasures(db, window, "all");
}

/** Only some ad measures of a window, for work that needs no others; the rest stays zero. */
export async function loadMeasures(
  db: Database,
  window: Window,
  measures: readonly AdMeasure[] | "all",
): Promise<WindowResults> {
  const catalogue = await loadCatalogue(db, []);
  const base = [catalogue.revision, await resultsVersion(db), window.from, window.to];
  const whole = recall<WindowResults>(db, "window", [...base, "all"]);
  if (whole) return whole;
  const stamp = [...base, measures === "all" ? "all" : measures.join()];
  return rememberReady(db, "window", stamp, () => sumWindow(db, catalogue, window, measures, stamp), KEPT_WINDOWS);
}

async function sumWindow(
  db: Database,
  catalogue: Columns,
  window: Window,
  measures: readonly AdMeasure[] | "all",
  stamp: Stamp,
): Promise<WindowResults> {
  const itemNo = catalogue.columns["itemNo"];
  const index = rowIndex(itemNo?.kind === "number" ? itemNo.values : []);
  const results: WindowResults = { stamp, window, rows: emptyRowSums(catalogue.length), gone: noSums() };
  const add = ({ ads, store }: { ads: ItemSpan; store?: DayStore }) => {
    addRollup(results.rows, results.gone, ads, index, measures === "all" ? AD_MEASURES : measures);
    if (store) addStore(results.rows, results.gone, store, index);
  };
  const withStore = measures === "all";
  const { spans, days: single } = await coverWindow(db, window);
  for (const from of spans) {
    const columns = { ads: spanRollups.ads, ...(withStore ? { store: spanRollups.store } : {}) };
    const [row] = await db.select(columns).from(spanRollups).where(eq(spanRollups.fromDay, from));
    if (row) add({ ads: decodeSpan(row.ads), store: row.store && decodeStore(row.store) });
  }
  for (const { from, to } of single) {
    const columns = { ads: dayRollups.ads, ...(withStore ? { store: dayRollups.store } : {}) };
    for (const row of await db
      .select(columns)
      .from(dayRollups)
      .where(between(dayRollups.day, from, to))) {
      add({ ads: decodeRollup(row.ads), store: row.store && decodeStore(row.store) });
    }
    // Other requests get their turn between the pieces.
    await new Promise((resolve) => setImmediate(resolve));
  }
  // What files tell only of the whole window.
  const whole = columnsOf(await windowRows(db, "item", window), ITEM_COLUMNS);
  if (whole.item.length > 0) add({ ads: whole as unknown as ItemSpan });
  if (withStore) {
    const store = columnsOf(await windowRows(db, "store", window), STORE_COLUMNS);
    if (store.item.length > 0) addStore(results.rows, results.gone, store as unknown as DayStore, index);
  }
  return results;
}

const ITEM_COLUMNS = ["campaign", "adGroup", "target", "item", ...AD_MEASURES] as const;
const STORE_COLUMNS = ["item", "orders", "units", "revenue"] as const;

/** Rows as columns. */
function columnsOf<Name extends string>(rows: number[][], names: readonly Name[]): Record<Name, Float64Array> {
  return Object.fromEntries(names.map((name, at) => [name, Float64Array.from(rows, (row) => row[at]!)])) as Record<
    Name,
    Float64Array
  >;
}

/** The stored spans that lie wholly in a window, and the runs of days that they leave over, a few days each. */
async function coverWindow(db: Database, window: Window): Promise<{ spans: number[]; days: Window[] }> {
  const inside = between(spanRollups.fromDay, window.from, window.to - SPAN_DAYS + 1);
  const stored = await db.select({ from: spanRollups.fromDay }).from(spanRollups).where(inside);
  const spans = new Set(stored.map(({ from }) => from));
  const days: Window[] = [];
  for (let day = window.from; day <= window.to;) {
    if (spans.has(day)) {
      day += SPAN_DAYS;
      continue;
    }
    const from = day;
    while (day <= window.to && !spans.has(day) && day - from < DAYS_AT_ONCE) day++;
    days.push({ from, to: day - 1 });
  }
  return { spans: [...spans], days };
}

/** Runs over the ad rollups of a window, day by day. */
export async function forEachDay(
  db: Database,
  window: Window,
  visit: (day: number, ads: DayRollup, store: ReturnType<typeof decodeStore>) => void,
): Promise<void> {
  for (let from = window.from; from <= window.to; from += DAYS_AT_ONCE) {
    const some = between(dayRollups.day, from, Math.min(window.to, from + DAYS_AT_ONCE - 1));
    const days = await db.select().from(dayRollups).where(some).orderBy(asc(dayRollups.day));
    for (const { day, ads, store } of days) visit(day, decodeRollup(ads), decodeStore(store));
  }
}

/** All codes with their texts, and back. */
interface Codes {
  version: number;
  texts: Map<number, string>;
  byText: Map<string, number>;
}

/** The texts of codes, and the code of a kind and text as `kind/text`. */
export async function loadCodes(db: Database): Promise<Codes> {
  const version = await resultsVersion(db);
  return remember(db, "codes", [version], async () => {
    const rows = await db.select().from(codes);
    return {
      version,
      texts: new Map(rows.map((row) => [row.no, row.text])),
      byText: new Map(rows.map((row) => [`${row.kind}/${row.text}`, row.no])),
    };
  });
}

/** The texts of all codes of a kind. */
export async function codeTexts(db: Database, kind: CodeKind) {
  const rows = await db
    .select()
    .from(codes)
    .where(sql`${codes.kind} = ${kind}`);
  return new Map(rows.map((row) => [row.no, row.text]));
}
