import { addSums, noSums, SUM_KEYS, type Sums } from "../kit/metrics";
import { mills } from "../kit/money";
import type { DayRollup, DayStore } from "./rollup";

/** Sums of a window for every row of the catalogue, one typed array a measure. Money in mills. */
export type RowSums = Record<keyof Sums, Float64Array>;

/** Empty sums for `length` rows. */
export function emptyRowSums(length: number): RowSums {
  return Object.fromEntries(SUM_KEYS.map((key) => [key, new Float64Array(length)])) as RowSums;
}

/** From an item number to its catalogue row; -1 for an item that is no longer in the catalogue. */
export function rowIndex(itemNos: ArrayLike<number>): Int32Array {
  let highest = 0;
  for (let row = 0; row < itemNos.length; row++) highest = Math.max(highest, itemNos[row] as number);
  const index = new Int32Array(highest + 1).fill(-1);
  for (let row = 0; row < itemNos.length; row++) index[itemNos[row] as number] = row;
  return index;
}

/** Adds one day of ad results to the rows. Items that left the catalogue go into `gone`. */
export function addRollup(sums: RowSums, gone: Sums, rollup: DayRollup, index: Int32Array): void {
  const { impressions, clicks, cost, orders, units, revenue } = sums;
  for (let i = 0; i < rollup.item.length; i++) {
    const no = rollup.item[i] as number;
    const row = no < index.length ? (index[no] as number) : -1;
    if (row < 0) {
      addSums(gone, rollupSums(rollup, i));
      continue;
    }
    impressions[row] = (impressions[row] as number) + (rollup.impressions[i] as number);
    clicks[row] = (clicks[row] as number) + (rollup.clicks[i] as number);
    cost[row] = (cost[row] as number) + (rollup.cost[i] as number);
    orders[row] = (orders[row] as number) + (rollup.orders[i] as number);
    units[row] = (units[row] as number) + (rollup.units[i] as number);
    revenue[row] = (revenue[row] as number) + (rollup.revenue[i] as number);
  }
}

/** Adds one day of store sales to the rows. */
export function addStore(sums: RowSums, gone: Sums, store: DayStore, index: Int32Array): void {
  for (let i = 0; i < store.item.length; i++) {
    const no = store.item[i] as number;
    const row = no < index.length ? (index[no] as number) : -1;
    const orders = store.orders[i] as number;
    const revenue = store.revenue[i] as number;
    if (row < 0) {
      gone.storeOrders += orders;
      gone.storeRevenue = mills(gone.storeRevenue + revenue);
      continue;
    }
    sums.storeOrders[row] = (sums.storeOrders[row] as number) + orders;
    sums.storeRevenue[row] = (sums.storeRevenue[row] as number) + revenue;
  }
}

function rollupSums(rollup: DayRollup, i: number): Sums {
  return {
    ...noSums(),
    impressions: rollup.impressions[i] as number,
    clicks: rollup.clicks[i] as number,
    cost: rollup.cost[i] as number as Sums["cost"],
    orders: rollup.orders[i] as number,
    units: rollup.units[i] as number,
    revenue: rollup.revenue[i] as number as Sums["revenue"],
  };
}

/** Adds one day of ad results by the codes of campaigns or ad groups. */
export function addRollupByCode(sums: Map<number, Sums>, rollup: DayRollup, level: "campaign" | "adGroup"): void {
  for (let i = 0; i < rollup.item.length; i++) {
    const code = rollup[level][i] as number;
    let found = sums.get(code);
    if (!found) sums.set(code, (found = noSums()));
    addSums(found, rollupSums(rollup, i));
  }
}

/** The sums of one row as an object. */
export function sumsOfRow(sums: RowSums, row: number): Sums {
  const result = noSums();
  for (const key of SUM_KEYS) (result[key] as number) = sums[key][row] as number;
  return result;
}

/** The sums over all rows, or over those a code column gives to each code. */
export function totalOf(sums: RowSums): Sums {
  const total = noSums();
  for (const key of SUM_KEYS) {
    let sum = 0;
    for (const value of sums[key]) sum += value;
    (total[key] as number) = sum;
  }
  return total;
}

/** Sums by a code a row, for example the shelf of each item. `codes[row]` below `count`. */
export function sumsByCode(sums: RowSums, codes: ArrayLike<number>, count: number): Sums[] {
  const parts = Array.from({ length: count }, noSums);
  for (const key of SUM_KEYS) {
    const values = sums[key];
    for (let row = 0; row < values.length; row++) {
      const part = parts[codes[row] as number]!;
      (part[key] as number) += values[row] as number;
    }
  }
  return parts;
}
