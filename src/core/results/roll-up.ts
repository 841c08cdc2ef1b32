import type { DayRollup, DayStore } from "./rollup";

/** A fact by codes, as the database holds it. */
export interface CodedFact {
  campaign: number;
  adGroup: number;
  itemNo: number;
  impressions: number;
  clicks: number;
  cost: number;
  orders: number;
  units: number;
  revenue: number;
}

/** Sums a day's facts by campaign, ad group and item. */
export function rollUp(facts: CodedFact[]): DayRollup {
  const sums = new Map<string, CodedFact>();
  for (const fact of facts) {
    const key = `${fact.campaign}/${fact.adGroup}/${fact.itemNo}`;
    const found = sums.get(key);
    if (!found) {
      sums.set(key, { ...fact });
      continue;
    }
    found.impressions += fact.impressions;
    found.clicks += fact.clicks;
    found.cost += fact.cost;
    found.orders += fact.orders;
    found.units += fact.units;
    found.revenue += fact.revenue;
  }
  const list = [...sums.values()];
  return {
    campaign: Uint32Array.from(list, (fact) => fact.campaign),
    adGroup: Uint32Array.from(list, (fact) => fact.adGroup),
    item: Uint32Array.from(list, (fact) => fact.itemNo),
    impressions: Float64Array.from(list, (fact) => fact.impressions),
    clicks: Float64Array.from(list, (fact) => fact.clicks),
    cost: Float64Array.from(list, (fact) => fact.cost),
    orders: Float64Array.from(list, (fact) => fact.orders),
    units: Float64Array.from(list, (fact) => fact.units),
    revenue: Float64Array.from(list, (fact) => fact.revenue),
  };
}

/** A day's store sales as columns. */
export function storeColumns(store: { itemNo: number; orders: number; units: number; revenue: number }[]): DayStore {
  return {
    item: Uint32Array.from(store, (fact) => fact.itemNo),
    orders: Float64Array.from(store, (fact) => fact.orders),
    units: Float64Array.from(store, (fact) => fact.units),
    revenue: Float64Array.from(store, (fact) => fact.revenue),
  };
}
