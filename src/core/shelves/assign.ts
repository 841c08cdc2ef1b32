import { DEFAULT_HEAT_RULES } from "../evidence/heat";
import type { Column } from "../kit/columns";
import type { RowSums } from "../results/window-sums";
import { bandDegrees, type CutInputs } from "./cuts";
import { both, CLEARLY, degreesAbove, either, JUST, NOT, whereDegrees } from "./degrees";
import type { BandShelf, ShelfSet } from "./shelf-set";

/** What a set remembers of each item between recomputes: its shelf, and where it has been heading for how long. */
export interface ShelfMemory {
  /** Place of the shelf in the set, or `NEVER_SEEN` for an item not seen before. */
  shelf: Uint8Array;
  /** Place of the shelf it would be on without memory. */
  heading: Uint8Array;
  /** Recomputes with new data in a row that it has been heading there. */
  rounds: Uint8Array;
}

export const NEVER_SEEN = 255;

/** Memory of nothing, for `length` rows. */
export function blankMemory(length: number): ShelfMemory {
  return {
    shelf: new Uint8Array(length).fill(NEVER_SEEN),
    heading: new Uint8Array(length).fill(NEVER_SEEN),
    rounds: new Uint8Array(length),
  };
}

/** What a set is computed from: a row a catalogue item. */
export interface ShelfInputs {
  sums: RowSums;
  /** Orders that clicks would have brought at the rate of their kind; null where a set's own least clicks and orders are all. */
  expected: Float64Array | null;
  /** A field, metric, note, fault or other set's shelves by name; undefined for what there is not. */
  column: (name: string) => Column | undefined;
  /** Rows on hand-picked shelves, by shelf key, as ones. */
  picked: (shelf: string) => Uint8Array | undefined;
  /** Rows in the order of their item IDs. */
  byId?: () => Uint32Array;
}

/** How surely enough is known of each row to say anything (`isRead` of heat, with the set's numbers and the margin). */
export function readDegrees(
  set: Pick<ShelfSet, "leastClicks" | "leastOrders" | "margin">,
  { sums, expected }: Pick<ShelfInputs, "sums" | "expected">,
): Uint8Array {
  const { clicks, orders } = sums;
  const some = degreesAbove(clicks, set.leastClicks, set.margin);
  if (expected) {
    const told = expected.map((value, row) => Math.max(value, orders[row]!));
    both(some, degreesAbove(told, DEFAULT_HEAT_RULES.leastOrders, set.margin));
  }
  return either(some, degreesAbove(orders, set.leastOrders, set.margin));
}

/** Values of the read only, kept with the values and the marks they were made of, so that several cuts share one sorting. */
const readValues = new WeakMap<Float64Array, WeakMap<Uint8Array, Float64Array>>();

/** A metric's values of the rows that are read; NaN for the others. */
export function onlyRead(all: Float64Array, read: Uint8Array): Float64Array {
  let byRead = readValues.get(all);
  if (!byRead) readValues.set(all, (byRead = new WeakMap()));
  let values = byRead.get(read);
  if (!values) {
    values = new Float64Array(all.length);
    for (let row = 0; row < all.length; row++) values[row] = read[row]! >= JUST ? all[row]! : NaN;
    byRead.set(read, values);
  }
  return values;
}

/** A metric's values for a band: none where too little is known of the row to count. */
export function bandInputs(band: BandShelf, read: Uint8Array, { column, sums, byId }: ShelfInputs): CutInputs {
  const found = column(band.metric);
  const all = found?.kind === "number" ? found.values : new Float64Array(read.length).fill(NaN);
  const values = band.evidence ? onlyRead(all, read) : all;
  return { values, cost: sums.cost, revenue: sums.revenue, ...(byId ? { byId } : {}) };
}

/** How surely each row matches each shelf of a set but the last. Whether it does hangs on no other shelf. */
export function shelfDegrees(set: ShelfSet, inputs: ShelfInputs): Uint8Array[] {
  const length = inputs.sums.clicks.length;
  const read = readDegrees(set, inputs);
  return set.shelves.map((shelf) => {
    if (shelf.kind === "rule") return whereDegrees(inputs.column, shelf.where, length, set.margin);
    if (shelf.kind === "pick") {
      const picked = inputs.picked(shelf.key);
      return picked ? picked.map((hit) => (hit ? CLEARLY : NOT)) : new Uint8Array(length);
    }
    const column = inputs.column(shelf.metric);
    const all = column?.kind === "number" ? column.values : new Float64Array(length).fill(NaN);
    const degrees = bandDegrees(shelf.side, shelf.cut, bandInputs(shelf, read, inputs), set.margin, all);
    return shelf.evidence ? both(degrees, read) : degrees;
  });
}

/** Why an item moved. */
export const WHY = { first: 0, clear: 1, patience: 2, edited: 3, arrived: 4, left: 5 } as const;

/** The memory after a recompute, and why each row that moved did. */
export interface Assigned extends ShelfMemory {
  why: Uint8Array;
}

/**
 * Puts every row on exactly one shelf: first match wins, the last takes what is left. An item on a shelf leaves it only for
 * one before it that it clearly matches, or when it clearly no longer matches its own, or after `patience` recomputes with
 * new data in a row on the other side (`docs/formulas.md` 3).
 * @param isNewData whether this recompute sees other data than the last; only then do rounds count
 */
export function assignShelves(
  degrees: Uint8Array[],
  memory: ShelfMemory,
  { patience, isNewData = true }: { patience: number; isNewData?: boolean },
): Assigned {
  const length = memory.shelf.length;
  const rest = degrees.length;
  const next: Assigned = {
    shelf: new Uint8Array(length),
    heading: new Uint8Array(length),
    rounds: new Uint8Array(length),
    why: new Uint8Array(length),
  };
  for (let row = 0; row < length; row++) {
    let target = 0;
    while (target < rest && degrees[target]![row]! < JUST) target++;
    const before = memory.shelf[row]!;
    const same = memory.heading[row] === target;
    const rounds = same ? Math.min(254, memory.rounds[row]! + (isNewData ? 1 : 0)) : 1;
    next.heading[row] = target;
    next.rounds[row] = rounds;
    next.shelf[row] = target;
    if (before === target) continue;
    if (before === NEVER_SEEN) {
      next.why[row] = WHY.arrived;
    } else if (isClear(degrees, row, before, rest)) {
      next.why[row] = WHY.clear;
    } else if (rounds >= patience) {
      next.why[row] = WHY.patience;
    } else {
      next.shelf[row] = before;
    }
  }
  return next;
}

/** Whether a row has clearly gone from where it stands: it clearly matches a shelf before it, or clearly not its own. */
function isClear(degrees: Uint8Array[], row: number, before: number, rest: number): boolean {
  if (before < rest && degrees[before]![row] === NOT) return true;
  const last = Math.min(before, rest);
  for (let shelf = 0; shelf < last; shelf++) if (degrees[shelf]![row] === CLEARLY) return true;
  return false;
}
