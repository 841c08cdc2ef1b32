import { AD_MEASURES } from "@/core/kit/metrics";
import type { Transaction } from "@libsql/client";
import type { Day } from "@/core/kit/days";
import { SEEN_BY } from "@/core/market/arrivals";
import { type Counts, type DayResult, type LateOrder } from "@/core/market/day-types";
import { spanStart } from "@/core/results/roll-up-days";
import { campaignDays, orderArrivals } from "@/db/schema";
import { bulkInsert } from "../bulk";
import type { Coder } from "../results/coder";
import { addToRollups, type LateRow } from "../results/late-rows";
import { addToReport, insertReport, noteResults, rollDay, storeSpan } from "../results/report-store";

/** Sums lines by their keys into rows of a report: day, keys, counts. */
class RowSums {
  private readonly rows = new Map<string, number[]>();

  constructor(private readonly day: Day) {}

  add(keys: number[], counts: Partial<Counts>): void {
    const key = keys.join("/");
    let row = this.rows.get(key);
    if (!row) this.rows.set(key, (row = [this.day, ...keys, 0, 0, 0, 0, 0, 0]));
    const at = 1 + keys.length;
    AD_MEASURES.forEach((name, i) => (row[at + i] = row[at + i]! + (counts[name] ?? 0)));
  }

  /** Money is in whole mills. */
  get list(): number[][] {
    return [...this.rows.values()].map((row) => row.map(Math.round));
  }
}

/** After so many days no order of a click is outstanding. */
const SETTLED_AFTER = SEEN_BY.length - 1;

/** Stores a day of the market as its reports give it, restates earlier days by the orders that came in late. */
export async function storeDay(tx: Transaction, coder: Coder, day: Day, result: DayResult): Promise<void> {
  const [item, term, slot, hour, placement] = [0, 1, 2, 3, 4].map(() => new RowSums(day)) as [
    RowSums,
    RowSums,
    RowSums,
    RowSums,
    RowSums,
  ];
  const spent = new Map<string, number>();
  let orders = 0;
  let revenue = 0;
  for (const fact of result.facts) {
    const campaign = coder.code("campaign", fact.campaign);
    const adGroup = coder.code("adGroup", fact.adGroup);
    const target = coder.code("target", fact.target);
    item.add([campaign, adGroup, target, fact.itemNo], fact);
    term.add([campaign, adGroup, target, coder.code("term", fact.term)], fact);
    slot.add([campaign, adGroup, fact.slot], fact);
    spent.set(fact.campaign, (spent.get(fact.campaign) ?? 0) + fact.cost);
    orders += fact.orders;
    revenue += fact.revenue;
  }
  for (const line of result.hours) hour.add([coder.code("campaign", line.campaign), line.hour], line);
  for (const line of result.placements) {
    const keys = [coder.code("campaign", line.campaign), coder.code("placement", line.placement)];
    placement.add(keys, { impressions: line.impressions });
  }
  const store = result.store.map(({ itemNo, orders: n, units, revenue: r }) => [day, itemNo, n, units, Math.round(r)]);
  const campaigns = result.campaigns.map(({ campaign, budget, dryAt }) => [
    day,
    coder.code("campaign", campaign),
    budget,
    Math.round(spent.get(campaign) ?? 0),
    dryAt,
  ]);
  const late = lateRows(coder, result.arrived);
  await coder.save(tx);
  const [itemRows, termRows] = [item.list, term.list];
  await insertReport(tx, "item", itemRows);
  await insertReport(tx, "term", termRows);
  await insertReport(tx, "slot", slot.list);
  await insertReport(tx, "hour", hour.list);
  await insertReport(tx, "placement", placement.list);
  await insertReport(tx, "store", store);
  await bulkInsert(tx, campaignDays, ["day", "campaign", "budget", "cost", "dryAt"], campaigns);
  await rollDay(tx, day, { item: itemRows, term: termRows, store });
  await bulkInsert(tx, orderArrivals, ["day", "age", "orders", "revenue"], [[day, 0, orders, Math.round(revenue)]]);
  await restate(tx, day, late);
  // A span is made when its last day no longer changes.
  const settled = day - SETTLED_AFTER;
  if (spanStart(settled + 1) === settled + 1) await storeSpan(tx, spanStart(settled));
  await noteResults(tx);
  await tx.execute({
    sql: "INSERT INTO market_state (id, day, state) VALUES (1, ?1, ?2) ON CONFLICT (id) DO UPDATE SET day = ?1, state = ?2",
    args: [day, JSON.stringify(result.state)],
  });
}

function lateRows(coder: Coder, orders: LateOrder[]): LateRow[] {
  return orders.map((order) => ({
    day: order.day,
    campaign: coder.code("campaign", order.campaign),
    adGroup: coder.code("adGroup", order.adGroup),
    target: coder.code("target", order.target),
    itemNo: order.itemNo,
    term: coder.code("term", order.term),
    slot: order.slot,
    hour: order.hour,
    orders: order.orders,
    units: order.units,
    revenue: Math.round(order.revenue),
  }));
}

async function restate(tx: Transaction, today: Day, late: LateRow[]): Promise<void> {
  if (late.length === 0) return;
  const byDay = new Map<number, LateRow[]>();
  for (const row of late) byDay.set(row.day, [...(byDay.get(row.day) ?? []), row]);
  for (const [day, rows] of byDay) {
    const sums = { item: new RowSums(day), term: new RowSums(day), slot: new RowSums(day), hour: new RowSums(day) };
    for (const row of rows) {
      const { orders, units, revenue, campaign, adGroup, target } = row;
      const counts = { orders, units, revenue };
      sums.item.add([campaign, adGroup, target, row.itemNo], counts);
      sums.term.add([campaign, adGroup, target, row.term], counts);
      sums.slot.add([campaign, adGroup, row.slot], counts);
      sums.hour.add([campaign, row.hour], counts);
    }
    for (const kind of ["item", "term", "slot", "hour"] as const) await addToReport(tx, kind, sums[kind].list);
    await addToRollups(tx, day, rows);
  }
  const arrivals = [...byDay].map(([day, rows]) => [
    day,
    today - day,
    rows.reduce((sum, row) => sum + row.orders, 0),
    rows.reduce((sum, row) => sum + row.revenue, 0),
  ]);
  await bulkInsert(tx, orderArrivals, ["day", "age", "orders", "revenue"], arrivals);
}
