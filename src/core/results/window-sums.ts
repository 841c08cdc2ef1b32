import { AD_MEASURES, addSums, noSums, SUM_KEYS, type AdMeasure, type Sums } from "../kit/metrics";
import { mills } from "../kit/money";
import { squareOf, toldNothing, type Told } from "./told";
import type { DayRollup, DayStore, ItemSpan, Numbers } from "./day-columns";

/** Sums of a window for every row of the catalogue, one typed array a measure. Money in mills. */
export type RowSums = Record<keyof Sums, Float64Array>;

/** Empty sums for `length` rows. */
export function emptyRowSums(length: number): RowSums {
  return Object.fromEntries(SUM_KEYS.map((key) => [key, new Float64Array(length)])) as RowSums;
}

/** From an item number to its catalogue row; -1 for an item that is no longer in the catalogue. */
export function rowIndex(itemNos: ArrayLike<number>): Int32Array {
  let highest = 0;
  for (let row = 0; row < itemNos.length; row++) highest = Math.max(highest, itemNos[row]!);
  const index = new Int32Array(highest + 1).fill(-1);
  for (let row = 0; row < itemNos.length; row++) index[itemNos[row]!] = row;
  return index;
}

/** The catalogue row of each line of a day, -1 for items that are gone. */
function rowsOf(items: Numbers, index: Int32Array): Int32Array {
  const rows = new Int32Array(items.length);
  for (let i = 0; i < items.length; i++) {
    const no = items[i]!;
    rows[i] = no < index.length ? index[no]! : -1;
  }
  return rows;
}

let scratch = new Float64Array(0);

/**
 * Adds one column of a day into its rows. The column is widened to doubles first (one native copy), so that the loop
 * only ever sees one kind of array, which runs a third faster than reading four kinds.
 */
function addColumn(target: Float64Array, values: Numbers, rows: Int32Array): void {
  if (scratch.length < values.length) scratch = new Float64Array(values.length);
  scratch.set(values);
  addWidened(target, scratch, rows);
}

/** A function of its own with nothing but arguments, so that it is compiled for exactly these arrays. */
function addWidened(target: Float64Array, values: Float64Array, rows: Int32Array): void {
  for (let i = 0; i < rows.length; i++) {
    const row = rows[i]!;
    if (row >= 0) target[row] = target[row]! + values[i]!;
  }
}

/** Adds a day or span of ad results to the rows. Items that left the catalogue go into `gone`. */
export function addRollup(
  sums: RowSums,
  gone: Sums,
  rollup: ItemSpan,
  index: Int32Array,
  measures: readonly AdMeasure[] = AD_MEASURES,
): void {
  const rows = rowsOf(rollup.item, index);
  for (const key of measures) addColumn(sums[key], rollup[key], rows);
  for (let i = 0; i < rows.length; i++) if (rows[i]! < 0) addSums(gone, rollupSums(rollup, i));
}

/** Adds a day or span of store sales to the rows. */
export function addStore(sums: RowSums, gone: Sums, store: DayStore, index: Int32Array): void {
  const rows = rowsOf(store.item, index);
  addColumn(sums.storeOrders, store.orders, rows);
  addColumn(sums.storeRevenue, store.revenue, rows);
  for (let i = 0; i < rows.length; i++) {
    if (rows[i]! >= 0) continue;
    gone.storeOrders += store.orders[i]!;
    gone.storeRevenue = mills(gone.storeRevenue + store.revenue[i]!);
  }
}

function rollupSums(rollup: ItemSpan, i: number): Sums {
  return {
    ...noSums(),
    impressions: rollup.impressions[i]!,
    clicks: rollup.clicks[i]!,
    cost: rollup.cost[i]! as Sums["cost"],
    orders: rollup.orders[i]!,
    units: rollup.units[i]!,
    revenue: rollup.revenue[i]! as Sums["revenue"],
  };
}

/** The sums of a line and what it tells of its return. */
export interface LineSums {
  sums: Sums;
  told: Told;
}

/**
 * Adds one day of ad results by the codes of campaigns or ad groups.
 * @param seen share of the day's final orders that have come in
 */
export function addRollupByCode(
  lines: Map<number, LineSums>,
  rollup: DayRollup,
  level: "campaign" | "adGroup",
  seen: number,
): void {
  for (let i = 0; i < rollup.item.length; i++) {
    const code = rollup[level][i]!;
    let found = lines.get(code);
    if (!found) lines.set(code, (found = { sums: noSums(), told: toldNothing() }));
    const sums = rollupSums(rollup, i);
    addSums(found.sums, sums);
    const { told } = found;
    told.clicks += sums.clicks;
    told.seenClicks += sums.clicks * seen;
    told.cost += sums.cost;
    told.orders += sums.orders;
    told.revenue += sums.revenue;
    told.squares += squareOf(sums.orders, sums.revenue);
  }
}

/** The sums of one row as an object. */
export function sumsOfRow(sums: RowSums, row: number): Sums {
  const result = noSums();
  for (const key of SUM_KEYS) (result[key] as number) = sums[key][row]!;
  return result;
}

/** The sums over all rows, or over those a code column gives to each code. */
export function totalOf(sums: RowSums): Sums {
  const total = noSums();
  for (const key of SUM_KEYS) {
    let sum = 0;
    const values = sums[key];
    for (let row = 0; row < values.length; row++) sum += values[row]!;
    (total[key] as number) = sum;
  }
  return total;
}

/** Sums by a code a row, for example the shelf of each item. `codes[row]` below `count`. */
export function sumsByCode(sums: RowSums, codes: ArrayLike<number>, count: number): Sums[] {
  const parts = Array.from({ length: count }, noSums);
  for (const key of SUM_KEYS) {
    const byCode = addByCode(sums[key], codes, count);
    parts.forEach((part, code) => ((part[key] as number) = byCode[code]!));
  }
  return parts;
}

/** A function of its own with nothing but arrays: writing to objects by name takes ten times as long. */
function addByCode(values: Float64Array, codes: ArrayLike<number>, count: number): Float64Array {
  const byCode = new Float64Array(count);
  for (let row = 0; row < values.length; row++) {
    const code = codes[row]!;
    byCode[code] = byCode[code]! + values[row]!;
  }
  return byCode;
}
