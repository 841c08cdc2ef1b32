import { eq } from "drizzle-orm";
import { SOLD_OUT } from "@/core/account/walk";
import { asText, type Columns, type TextColumn } from "@/core/kit/columns";
import { paidPrices } from "@/core/catalogue/margins";
import { windowEnding, type Window } from "@/core/kit/days";
import { shareGap, type Sums } from "@/core/kit/metrics";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { emptyRowSums, rowIndex, sumsByCode, totalOf } from "@/core/results/window-sums";
import { assignShelves, blankMemory, NEVER_SEEN, type ShelfMemory } from "@/core/shelves/assign";
import type { Heat } from "@/core/evidence/heat";
import { heatOfLine } from "@/core/evidence/lines";
import { chanceOfGoal, type Evidence } from "@/core/evidence/evidence";
import { itemEvidence } from "@/core/evidence/item-evidence";
import { shelvesOf, type Shelf, type ShelfSet } from "@/core/shelves/shelf-set";
import type { Database } from "@/db/client";
import { shelfSets, workspace } from "@/db/schema";
import { firstDays } from "../catalogue/first-days";
import { loadCatalogue } from "../catalogue/load";
import { remember } from "../read/memo";
import { loadMeasures, loadWindow, resultDays, type WindowResults } from "../results/load";
import { seenClicks } from "../results/told";
import { changedMeanwhile } from "../meanwhile";
import { noteChange } from "../workspaces";

/** Membership by catalogue row, from the bytes a set keeps by item number. */
function decodeMembers(bytes: Buffer | null, itemNos: ArrayLike<number>): ShelfMemory {
  const memory = blankMemory(itemNos.length);
  if (!bytes) return memory;
  const copy = new Uint8Array(bytes);
  const count = copy.length / 7;
  const numbers = new Uint32Array(copy.buffer, 0, count);
  const index = rowIndex(itemNos);
  for (let i = 0; i < count; i++) {
    const no = numbers[i]!;
    const row = no < index.length ? index[no]! : -1;
    if (row < 0) continue;
    memory.shelf[row] = copy[count * 4 + i]!;
    memory.heading[row] = copy[count * 5 + i]!;
    memory.rounds[row] = copy[count * 6 + i]!;
  }
  return memory;
}

function encodeMembers(memory: ShelfMemory, itemNos: ArrayLike<number>): Buffer {
  const count = itemNos.length;
  const bytes = new Uint8Array(count * 7);
  new Uint32Array(bytes.buffer, 0, count).set(Uint32Array.from(itemNos));
  bytes.set(memory.shelf, count * 4);
  bytes.set(memory.heading, count * 5);
  bytes.set(memory.rounds, count * 6);
  return Buffer.from(bytes.buffer);
}

async function itemNumbers(db: Database): Promise<Float64Array> {
  const column = (await loadCatalogue(db, [])).columns["itemNo"];
  return column?.kind === "number" ? column.values : new Float64Array(0);
}

/** Windows whose evidence is kept beside each other. */
const MOST_EVIDENCE = 3;

/** The pooled evidence of a window, by catalogue row. Shared; must not be written to. */
export async function loadEvidence(db: Database, results: WindowResults): Promise<Evidence> {
  return remember(db, "evidence of items", results.stamp, () => makeEvidence(db, results), MOST_EVIDENCE);
}

async function makeEvidence(db: Database, results: WindowResults): Promise<Evidence> {
  const names = ["category", "family", "price", "salePrice", "breakEven", "availability"];
  const catalogue = await loadCatalogue(db, names);
  const { columns, length } = catalogue;
  const text = (name: string) => (columns[name] ? asText(columns[name]) : null);
  const availability = text("availability");
  const soldOut = new Uint8Array(length);
  availability?.codes.forEach((code, row) => (soldOut[row] = availability.values[code] === SOLD_OUT ? 1 : 0));
  const evidence = itemEvidence(results.rows, {
    ...{ family: text("family"), category: text("category"), paid: paidPrices(catalogue), soldOut },
    newness: await newness(db, results.window.to, catalogue),
    seenClicks: await seenClicks(db, results),
  });
  return columns["breakEven"]?.kind === "number" ? { ...evidence, breakEven: columns["breakEven"].values } : evidence;
}

/** Days after which an item counts as having been there always. */
const NEW_DAYS = 60;

/** How new each item is on a day: 1 for one of that day, 0 for one of the first reading or long there. */
async function newness(db: Database, day: number, { columns, length }: Columns): Promise<Float64Array> {
  const [workspaceRow] = await db.select({ timeZone: workspace.timeZone }).from(workspace);
  const numbers = columns["itemNo"]?.kind === "number" ? columns["itemNo"].values : new Float64Array(length);
  const since = await firstDays(db, workspaceRow?.timeZone ?? "UTC", numbers);
  return since.map((first) => (Number.isNaN(first) ? 0 : Math.max(0, 1 - Math.max(0, day - first) / NEW_DAYS)));
}

/** The heat of every row in a window against a goal. Shared; must not be written to. */
export function loadHeat(db: Database, results: WindowResults, goal: number): Promise<Heat[]> {
  return remember(db, "heat", [...results.stamp, goal], () => makeHeat(db, results, goal), MOST_EVIDENCE);
}

async function makeHeat(db: Database, results: WindowResults, goal: number): Promise<Heat[]> {
  const evidence = await loadEvidence(db, results);
  const { clicks, orders } = results.rows;
  return Array.from(clicks, (count, row) =>
    heatOfLine(chanceOfGoal(evidence, row, goal), count, orders[row]!, evidence.expected[row]!),
  );
}

export interface ShelfSetInfo {
  definition: ShelfSet;
  computedAt: number | null;
  computedTo: number | null;
}

/** All shelf sets. */
export async function listShelfSets(db: Database): Promise<ShelfSetInfo[]> {
  const rows = await db.select().from(shelfSets);
  return rows.map(({ definition, computedAt, computedTo }) => ({ definition, computedAt, computedTo }));
}

/** Keeps a set under its key, new or changed. Changed cuts start without memory; shelves go on under the values they had. */
export async function saveShelfSet(db: Database, given: ShelfSet, since?: string): Promise<Outcome<null>> {
  const [known] = await db.select().from(shelfSets).where(eq(shelfSets.key, given.key));
  const seen = await changedMeanwhile(db, since, {
    what: `The shelf set "${(known?.definition ?? given).name}"`,
    logged: `Shelf set "${(known?.definition ?? given).name}"`,
    ...{ stored: known?.definition ?? null, given },
  });
  if (!seen.ok) return seen;
  const values = new Map(known?.definition.tiers.map(({ key, value }) => [key, value]));
  const tiers = given.tiers.map((tier) => ({ ...tier, value: tier.value ?? values.get(tier.key) }));
  const definition = { ...given, tiers };
  const blank = { definition, members: null, computedAt: null, computedTo: null };
  await db
    .insert(shelfSets)
    .values({ key: definition.key, ...blank })
    .onConflictDoUpdate({ target: shelfSets.key, set: blank });
  await noteChange(db, `Shelf set "${definition.name}" saved`, "", "shelves");
  return seen;
}

/** The window a set is computed on: its length, ending on the last day with results. */
async function windowOf(db: Database, set: ShelfSet): Promise<Window | null> {
  const days = await resultDays(db);
  return days ? windowEnding(days.to, set.windowDays) : null;
}

async function compute(db: Database, set: ShelfSet, memory: ShelfMemory, results: WindowResults) {
  const evidence = set.measure === "probability" ? await loadEvidence(db, results) : undefined;
  return assignShelves(set, results.rows, memory, evidence);
}

/** What cuts by the return itself look at. */
const THRESHOLD_MEASURES = ["clicks", "orders", "cost", "revenue"] as const;

/** Recomputes a set's membership from the latest results, with its memory, and keeps it. */
export async function recomputeShelfSet(db: Database, key: string): Promise<Outcome<{ items: number; moved: number }>> {
  const [row] = await db.select().from(shelfSets).where(eq(shelfSets.key, key));
  if (!row) return fail("shelf-set-unknown", `There is no shelf set "${key}".`);
  const window = await windowOf(db, row.definition);
  const numbers = await itemNumbers(db);
  if (!window || numbers.length === 0) {
    return fail(
      "shelves-no-results",
      "There are no results to compute shelves from yet.",
      "Run the test market first.",
    );
  }
  const before = decodeMembers(row.members, numbers);
  const results =
    row.definition.measure === "threshold"
      ? await loadMeasures(db, window, THRESHOLD_MEASURES)
      : await loadWindow(db, window);
  const memory = await compute(db, row.definition, before, results);
  let moved = 0;
  memory.shelf.forEach((shelf, i) => {
    if (before.shelf[i] !== shelf && before.shelf[i] !== NEVER_SEEN) moved++;
  });
  await db
    .update(shelfSets)
    .set({ members: encodeMembers(memory, numbers), computedAt: Date.now(), computedTo: window.to })
    .where(eq(shelfSets.key, key));
  return ok({ items: numbers.length, moved });
}

/** One shelf with what stands on it. */
export interface ShelfFigures extends Shelf {
  items: number;
  sums: Sums;
  spendShare: number | null;
  salesShare: number | null;
  gap: number | null;
  priceFrom: number | null;
  priceTo: number | null;
}

export interface ShelfSetView {
  definition: ShelfSet;
  computedAt: number | null;
  window: Window | null;
  total: Sums;
  shelves: ShelfFigures[];
  /** Shelf of every catalogue row. */
  shelfOf: Uint8Array;
  results: WindowResults | null;
}

/**
 * A set with its figures. With `definition` given, what that definition would make of the latest results without memory,
 * and nothing is kept: a preview. Without results every item is unread.
 */
export async function viewShelfSet(db: Database, key: string, definition?: ShelfSet): Promise<Outcome<ShelfSetView>> {
  const [row] = await db.select().from(shelfSets).where(eq(shelfSets.key, key));
  const set = definition ?? row?.definition;
  if (!set) return fail("shelf-set-unknown", `There is no shelf set "${key}".`);
  const shelves = shelvesOf(set);
  const unread = shelves.length - 1;
  const catalogue = await loadCatalogue(db, ["price"]);
  const numbers = await itemNumbers(db);
  const latest = await windowOf(db, set);
  const keptTo = definition ? null : (row?.computedTo ?? null);
  const window = keptTo === null ? latest : windowEnding(keptTo, set.windowDays);
  const results = window ? await loadWindow(db, window) : null;
  let memory = definition || !row ? blankMemory(numbers.length) : decodeMembers(row.members, numbers);
  if (results && (definition || !row?.members)) memory = await compute(db, set, memory, results);
  // Items that came after the last recompute stand with the unread until the next one.
  const shelfOf = memory.shelf.map((shelf) => (shelf === NEVER_SEEN ? unread : shelf));
  const price = catalogue.columns["price"];
  const counts = new Uint32Array(shelves.length);
  const low = new Float64Array(shelves.length).fill(Infinity);
  const high = new Float64Array(shelves.length).fill(-Infinity);
  shelfOf.forEach((shelf, i) => {
    counts[shelf] = counts[shelf]! + 1;
    if (price?.kind !== "number") return;
    const value = price.values[i]!;
    low[shelf] = Math.min(low[shelf]!, value);
    high[shelf] = Math.max(high[shelf]!, value);
  });
  const rows = results?.rows ?? emptyRowSums(numbers.length);
  const total = totalOf(rows);
  const sums = sumsByCode(rows, shelfOf, shelves.length);
  return ok({
    definition: set,
    computedAt: definition ? null : (row?.computedAt ?? null),
    window,
    total,
    shelves: shelves.map((shelf, i) => ({
      ...shelf,
      items: counts[i]!,
      sums: sums[i]!,
      ...shareGap(sums[i]!, total),
      priceFrom: counts[i] ? low[i]! : null,
      priceTo: counts[i] ? high[i]! : null,
    })),
    shelfOf,
    results,
  });
}

/** Membership of every set as text columns named `shelf:<set>`: the shelves' values, labelled with their names. */
export async function shelfColumns(db: Database): Promise<Record<string, TextColumn>> {
  const columns: Record<string, TextColumn> = {};
  for (const { definition } of await listShelfSets(db)) {
    const view = await viewShelfSet(db, definition.key);
    if (!view.ok) continue;
    columns[`shelf:${definition.key}`] = {
      kind: "text",
      codes: Uint32Array.from(view.value.shelfOf, (shelf) => shelf + 1),
      values: ["", ...view.value.shelves.map((shelf) => shelf.value)],
      labels: ["", ...view.value.shelves.map((shelf) => shelf.name)],
    };
  }
  return columns;
}
