import type { DayRollup, DayStore, DayTerms, ItemSpan } from "./day-columns";

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

/** A day of the term report as columns; its rows are told apart already. */
export function rollUpTerms(facts: (Omit<CodedFact, "itemNo"> & { target: number; term: number })[]): DayTerms {
  const column = (key: keyof (typeof facts)[number]) => Float64Array.from(facts, (fact) => fact[key]);
  return {
    campaign: Uint32Array.from(facts, (fact) => fact.campaign),
    adGroup: Uint32Array.from(facts, (fact) => fact.adGroup),
    target: Uint32Array.from(facts, (fact) => fact.target),
    term: Uint32Array.from(facts, (fact) => fact.term),
    impressions: column("impressions"),
    clicks: column("clicks"),
    cost: column("cost"),
    orders: column("orders"),
    units: column("units"),
    revenue: column("revenue"),
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

/** Days in a span; spans begin at multiples of it. With 16, a window of 90 days reads some 5 spans and 20 days. */
export const SPAN_DAYS = 16;

/** The first day of the span that a day lies in. */
export function spanStart(day: number): number {
  return Math.floor(day / SPAN_DAYS) * SPAN_DAYS;
}

/** Sums the rows of several tables by item; every other column is added up. */
function sumByItem<T extends Record<string, ArrayLike<number>>>(tables: T[], measures: (keyof T & string)[]) {
  const rowOf = new Map<number, number>();
  const sums = Object.fromEntries(measures.map((key) => [key, [] as number[]]));
  for (const table of tables) {
    const items = table["item"]!;
    for (let i = 0; i < items.length; i++) {
      const item = items[i]!;
      let row = rowOf.get(item);
      if (row === undefined) {
        row = rowOf.size;
        rowOf.set(item, row);
        for (const key of measures) sums[key]!.push(0);
      }
      for (const key of measures) sums[key]![row]! += table[key]![i]!;
    }
  }
  // In the order of items, so that adding a span walks the rows from first to last.
  const order = [...rowOf].sort((a, b) => a[0] - b[0]);
  return {
    item: Uint32Array.from(order, ([item]) => item),
    ...Object.fromEntries(measures.map((key) => [key, Float64Array.from(order, ([, row]) => sums[key]![row]!)])),
  };
}

/** The ad results of several days summed by item. */
export function sumSpan(days: DayRollup[]): ItemSpan {
  const measures = ["impressions", "clicks", "cost", "orders", "units", "revenue"] as const;
  return sumByItem(days as unknown as Record<string, ArrayLike<number>>[], [...measures]) as unknown as ItemSpan;
}

/** The store sales of several days summed by item. */
export function sumStoreSpan(days: DayStore[]): DayStore {
  const tables = days as unknown as Record<string, ArrayLike<number>>[];
  return sumByItem(tables, ["orders", "units", "revenue"]) as unknown as DayStore;
}
