import type { DayResult } from "@/core/market/day-types";
import { emptyRowSums, type RowSums } from "@/core/results/window-sums";

export { emptyRowSums, type RowSums };

const AD = ["impressions", "clicks", "cost", "orders", "units", "revenue"] as const;

/** Adds what a day's reports show to sums by row, of a shop whose items are numbered from 1 on in the order of its rows. */
export function addSeen(sums: RowSums, { facts, arrived, store }: DayResult): void {
  for (const fact of facts) for (const key of AD) sums[key][fact.itemNo - 1]! += fact[key];
  for (const order of arrived)
    for (const key of ["orders", "units", "revenue"] as const) sums[key][order.itemNo - 1]! += order[key];
  for (const { itemNo, orders, revenue } of store) {
    sums.storeOrders[itemNo - 1]! += orders;
    sums.storeRevenue[itemNo - 1]! += revenue;
  }
}
