import type { TextColumn } from "@/core/kit/columns";
import { rowIndex } from "@/core/results/window-sums";
import { blankMemory, NEVER_SEEN, type ShelfMemory } from "@/core/shelves/assign";
import { sameItems, type Members } from "@/core/shelves/moves";
import { shelvesOf, type ShelfSet } from "@/core/shelves/shelf-set";
import type { Database } from "@/db/client";
import { loadCatalogue } from "../catalogue/load";
import { remember } from "../read/memo";
import { findShelfSet, type KeptSet } from "./sets";

/** A membership as it is kept: item numbers, codes of shelves, codes of where they head, rounds. */
interface KeptMembers extends Members {
  item: Uint32Array;
  shelf: Uint8Array;
  heading: Uint8Array;
  rounds: Uint8Array;
}

export function decodeMembers(stored: Buffer | null): KeptMembers {
  const bytes = new Uint8Array(stored ?? []);
  const count = bytes.length / 7;
  return {
    item: new Uint32Array(bytes.buffer, 0, count),
    shelf: bytes.subarray(count * 4, count * 5),
    heading: bytes.subarray(count * 5, count * 6),
    rounds: bytes.subarray(count * 6, count * 7),
  };
}

export function encodeMembers({ shelf, heading, rounds }: ShelfMemory, itemNos: ArrayLike<number>): Buffer {
  const count = itemNos.length;
  const bytes = new Uint8Array(count * 7);
  new Uint32Array(bytes.buffer, 0, count).set(Uint32Array.from(itemNos));
  bytes.set(shelf, count * 4);
  bytes.set(heading, count * 5);
  bytes.set(rounds, count * 6);
  return Buffer.from(bytes.buffer);
}

/** What a set remembers of the rows of the catalogue, shelves by their places; those that are gone from the set are forgotten. */
export function memoryOf({ members, codes, definition }: KeptSet, numbers: ArrayLike<number>): ShelfMemory {
  const memory = blankMemory(numbers.length);
  if (!members) return memory;
  const placeOf = new Uint8Array(256).fill(NEVER_SEEN);
  shelvesOf(definition).forEach(({ key }, place) => (placeOf[codes[key]!] = place));
  const { item, shelf, heading, rounds } = decodeMembers(members);
  if (sameItems(item, numbers)) {
    for (let row = 0; row < item.length; row++) {
      memory.shelf[row] = placeOf[shelf[row]!]!;
      memory.heading[row] = placeOf[heading[row]!]!;
    }
    memory.rounds.set(rounds);
    return memory;
  }
  const index = rowIndex(numbers);
  for (let i = 0; i < item.length; i++) {
    const no = item[i]!;
    const row = no < index.length ? index[no]! : -1;
    if (row < 0) continue;
    memory.shelf[row] = placeOf[shelf[i]!]!;
    memory.heading[row] = placeOf[heading[i]!]!;
    memory.rounds[row] = rounds[i]!;
  }
  return memory;
}

/** Item numbers of the catalogue in force. */
export async function itemNumbers(db: Database): Promise<Float64Array> {
  const column = (await loadCatalogue(db, [])).columns["itemNo"];
  return column?.kind === "number" ? column.values : new Float64Array(0);
}

/** Places as a column: the shelves' values, labelled with their names. */
export function placesColumn(set: ShelfSet, places: Uint8Array): TextColumn {
  const shelves = shelvesOf(set);
  return {
    kind: "text",
    codes: Uint32Array.from(places, (place) => place + 1),
    values: ["", ...shelves.map((shelf) => shelf.value)],
    labels: ["", ...shelves.map((shelf) => shelf.name)],
  };
}

/** Where each row of the catalogue stands as last computed, by place; what came later, or all before that, stands with what is left. */
export async function storedPlaces(db: Database, kept: KeptSet): Promise<Uint8Array> {
  const rest = kept.definition.shelves.length;
  return memoryOf(kept, await itemNumbers(db)).shelf.map((place) => (place === NEVER_SEEN ? rest : place));
}

/** The membership of a set as last computed, as a column; undefined for a set there is not. */
export async function storedColumn(db: Database, key: string): Promise<TextColumn | undefined> {
  const kept = await findShelfSet(db, key);
  return kept ? columnOf(db, kept) : undefined;
}

/** Memberships kept beside each other. */
const MOST_SETS = 40;

/** The membership of a set that was computed, as a column, kept as long as it stays. */
export async function columnOf(db: Database, kept: KeptSet): Promise<TextColumn> {
  const { revision } = await loadCatalogue(db, []);
  const { definition, computedAt, stamp } = kept;
  const make = async () => placesColumn(definition, await storedPlaces(db, kept));
  return remember(db, "membership", [revision, computedAt, stamp, JSON.stringify(definition)], make, MOST_SETS);
}
