import { asText, type TextColumn } from "@/core/kit/columns";
import type { Window } from "@/core/kit/days";
import type { Sums } from "@/core/kit/metrics";
import { ok, type Outcome } from "@/core/kit/outcome";
import { emptyRowSums, totalOf } from "@/core/results/window-sums";
import { shelfFigures, type ShelfSums } from "@/core/shelves/figures";
import { takeBack } from "@/core/shelves/moves";
import { shelvesOf, type Shelf, type ShelfSet } from "@/core/shelves/shelf-set";
import type { Database } from "@/db/client";
import type { HeldMoves } from "@/db/schema";
import { loadCatalogue } from "../catalogue/load";
import { loadWindow, type WindowResults } from "../results/load";
import { freshMembership } from "./compute";
import { columnOf, decodeMembers, itemNumbers, placesColumn, storedPlaces } from "./members";
import { loadShelfInputs, missingNames, windowOf } from "./inputs";
import { movesAfter } from "./history";
import { findShelfSet, listShelfSets, unknownSet, type KeptSet } from "./sets";
import { paidPrices } from "@/core/catalogue/margins";

/** One shelf with what stands on it. */
export interface ShelfFigures extends Shelf, ShelfSums {}

/** How today's catalogue differs from that of an earlier day, whose shelves are shown with today's items. */
export interface SinceThen {
  /** Items that stood on a shelf then and have left the catalogue: they are not shown. */
  left: number;
  /** Items that came after that day: they are shown on the last shelf. */
  came: number;
}

export interface ShelfSetView {
  definition: ShelfSet;
  computedAt: number | null;
  held: HeldMoves | null;
  /** Fields that rules ask for and nothing has. */
  missing: string[];
  window: Window | null;
  total: Sums;
  shelves: ShelfFigures[];
  /** Place of the shelf of every catalogue row. */
  shelfOf: Uint8Array;
  /** What the catalogue of an earlier day had otherwise; null for the set as it stands. */
  since: SinceThen | null;
  results: WindowResults | null;
}

/** Where each row of the catalogue stands, by place: as last computed, or where it would if it were computed now. */
async function placesOf(db: Database, kept: KeptSet): Promise<Uint8Array> {
  if (kept.members) return storedPlaces(db, kept);
  const { definition } = kept;
  return freshMembership(db, definition, await loadShelfInputs(db, definition, await windowOf(db, definition)));
}

/**
 * A set with its figures. With `definition` given, what that would make of the latest results without memory, and nothing is
 * kept: a preview. With `on`, the set as it stood at the end of that day.
 */
export async function viewShelfSet(
  db: Database,
  key: string,
  definition?: ShelfSet,
  on?: number,
): Promise<Outcome<ShelfSetView>> {
  const kept = await findShelfSet(db, key);
  const set = definition ?? kept?.definition;
  if (!set) return unknownSet(key);
  const computedTo = definition ? null : (kept?.computedTo ?? null);
  const window = await windowOf(db, set, on ?? computedTo ?? undefined);
  const sets = (await listShelfSets(db)).map((one) => one.definition.key);
  let shelfOf: Uint8Array;
  let since: SinceThen | null = null;
  if (definition || !kept) {
    const inputs = await loadShelfInputs(db, set, window);
    shelfOf = await freshMembership(db, set, inputs);
  } else if (on === undefined) {
    shelfOf = await placesOf(db, kept);
  } else {
    ({ places: shelfOf, since } = await placesOn(db, kept, on));
  }
  const results = window ? await loadWindow(db, window) : null;
  const catalogue = await loadCatalogue(db, ["price", "salePrice", "family"]);
  const rows = results?.rows ?? emptyRowSums(catalogue.length);
  const shelves = shelvesOf(set);
  const family = catalogue.columns["family"] ? asText(catalogue.columns["family"]) : null;
  const figures = shelfFigures(rows, shelfOf, shelves.length, family, paidPrices(catalogue));
  return ok({
    ...{ definition: set, window, results, shelfOf, since, missing: await missingNames(db, set, sets) },
    computedAt: definition ? null : (kept?.computedAt ?? null),
    held: definition ? null : (kept?.held ?? null),
    total: totalOf(rows),
    shelves: shelves.map((shelf, i) => ({ ...shelf, ...figures[i]! })),
  });
}

/** Where the rows of today's catalogue stood at the end of an earlier day. */
async function placesOn(db: Database, kept: KeptSet, day: number): Promise<{ places: Uint8Array; since: SinceThen }> {
  const { item, shelf } = decodeMembers(kept.members);
  const stood = new Map<number, number>();
  for (let i = 0; i < item.length; i++) stood.set(item[i]!, shelf[i]!);
  for (const { moves } of await movesAfter(db, kept.definition.key, day)) takeBack(stood, moves);
  const placeOf = new Map(shelvesOf(kept.definition).map(({ key }, place) => [kept.codes[key]!, place]));
  const rest = kept.definition.shelves.length;
  const numbers = await itemNumbers(db);
  const places = Uint8Array.from(numbers, (no) => placeOf.get(stood.get(no) ?? -1) ?? rest);
  const still = numbers.reduce((sum, no) => sum + Number(stood.has(no)), 0);
  return { places, since: { left: stood.size - still, came: numbers.length - still } };
}

/** The membership of a set as a column: its shelves' values, labelled with their names; undefined for a set there is not. */
export async function membershipColumn(db: Database, key: string): Promise<TextColumn | undefined> {
  const kept = await findShelfSet(db, key);
  if (!kept) return undefined;
  return kept.members ? columnOf(db, kept) : placesColumn(kept.definition, await placesOf(db, kept));
}

/** Membership of every set as columns named `shelf:<set>`. */
export async function shelfColumns(db: Database): Promise<Record<string, TextColumn>> {
  const columns: Record<string, TextColumn> = {};
  for (const { definition } of await listShelfSets(db)) {
    const column = await membershipColumn(db, definition.key);
    if (column) columns[`shelf:${definition.key}`] = column;
  }
  return columns;
}
