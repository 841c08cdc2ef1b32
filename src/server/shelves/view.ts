import { asText, type TextColumn } from "@/core/kit/columns";
import type { Window } from "@/core/kit/days";
import type { Sums } from "@/core/kit/metrics";
import { ok, type Outcome } from "@/core/kit/outcome";
import { emptyRowSums, totalOf } from "@/core/results/window-sums";
import { NEVER_SEEN } from "@/core/shelves/assign";
import { shelfFigures, type ShelfSums } from "@/core/shelves/figures";
import { takeBack } from "@/core/shelves/moves";
import { shelvesOf, type Shelf, type ShelfSet } from "@/core/shelves/shelf-set";
import type { Database } from "@/db/client";
import type { HeldMoves } from "@/db/schema";
import { loadCatalogue } from "../catalogue/load";
import { remember } from "../read/memo";
import { loadWindow, type WindowResults } from "../results/load";
import { decodeMembers, freshMembership, memoryOf } from "./compute";
import { loadShelfInputs, missingNames, windowOf } from "./inputs";
import { movesAfter } from "./history";
import { findShelfSet, listShelfSets, unknownSet, type KeptSet } from "./sets";
import { paidPrices } from "@/core/catalogue/margins";

/** One shelf with what stands on it. */
export interface ShelfFigures extends Shelf, ShelfSums {}

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
  results: WindowResults | null;
}

async function itemNumbers(db: Database): Promise<Float64Array> {
  const column = (await loadCatalogue(db, [])).columns["itemNo"];
  return column?.kind === "number" ? column.values : new Float64Array(0);
}

/** Where each row of the catalogue stands, by place: as last computed; what came later stands with what is left. */
async function placesOf(db: Database, kept: KeptSet): Promise<Uint8Array> {
  const numbers = await itemNumbers(db);
  const rest = kept.definition.shelves.length;
  const memory = kept.members
    ? memoryOf(kept, numbers).shelf
    : await freshMembership(
        db,
        kept.definition,
        await loadShelfInputs(db, kept.definition, await windowOf(db, kept.definition)),
      );
  return memory.map((place) => (place === NEVER_SEEN ? rest : place));
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
  if (definition || !kept) {
    const inputs = await loadShelfInputs(db, set, window);
    shelfOf = await freshMembership(db, set, inputs);
  } else {
    shelfOf = on === undefined ? await placesOf(db, kept) : await placesOn(db, kept, on);
  }
  const results = window ? await loadWindow(db, window) : null;
  const catalogue = await loadCatalogue(db, ["price", "salePrice", "family"]);
  const rows = results?.rows ?? emptyRowSums(catalogue.length);
  const shelves = shelvesOf(set);
  const family = catalogue.columns["family"] ? asText(catalogue.columns["family"]) : null;
  const figures = shelfFigures(rows, shelfOf, shelves.length, family, paidPrices(catalogue));
  return ok({
    ...{ definition: set, window, results, shelfOf, missing: await missingNames(db, set, sets) },
    computedAt: definition ? null : (kept?.computedAt ?? null),
    held: definition ? null : (kept?.held ?? null),
    total: totalOf(rows),
    shelves: shelves.map((shelf, i) => ({ ...shelf, ...figures[i]! })),
  });
}

/** Where the rows of today's catalogue stood at the end of an earlier day. */
async function placesOn(db: Database, kept: KeptSet, day: number): Promise<Uint8Array> {
  const { item, shelf } = decodeMembers(kept.members);
  const stood = new Map<number, number>();
  for (let i = 0; i < item.length; i++) stood.set(item[i]!, shelf[i]!);
  for (const { moves } of await movesAfter(db, kept.definition.key, day)) takeBack(stood, moves);
  const placeOf = new Map(shelvesOf(kept.definition).map(({ key }, place) => [kept.codes[key]!, place]));
  const rest = kept.definition.shelves.length;
  return Uint8Array.from(await itemNumbers(db), (no) => placeOf.get(stood.get(no) ?? -1) ?? rest);
}

/** The membership of a set as a column: its shelves' values, labelled with their names; undefined for a set there is not. */
export async function membershipColumn(db: Database, key: string): Promise<TextColumn | undefined> {
  const kept = await findShelfSet(db, key);
  if (!kept) return undefined;
  const { revision } = await loadCatalogue(db, []);
  const stamp = [key, revision, kept.computedAt, kept.stamp, kept.members?.length, JSON.stringify(kept.definition)];
  const make = async (): Promise<TextColumn> => {
    const shelves = shelvesOf(kept.definition);
    return {
      kind: "text",
      codes: Uint32Array.from(await placesOf(db, kept), (place) => place + 1),
      values: ["", ...shelves.map((shelf) => shelf.value)],
      labels: ["", ...shelves.map((shelf) => shelf.name)],
    };
  };
  // A set never computed hangs on results and lists too, so it is worked out each time; that is remembered by itself.
  return kept.members ? remember(db, "membership", stamp, make, 40) : make();
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
