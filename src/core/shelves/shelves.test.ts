import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { mills } from "../kit/money";
import {
  emptyRowSums,
  rowIndex,
  addRollup,
  addStore,
  sumsByCode,
  sumsOfRow,
  totalOf,
  type RowSums,
} from "../results/window-sums";
import { decodeRollup, decodeSpan, decodeStore, encodeRollup, encodeSpan, encodeStore } from "../results/day-columns";
import { rollUp, storeColumns, sumSpan } from "../results/roll-up-days";
import { noSums } from "../kit/metrics";
import { assignShelves, blankMemory } from "./assign";
import { returnTiers, shelfSetSchema, shelvesOf } from "./shelf-set";

function sumsOf(rows: { clicks: number; orders: number; cost: number; revenue: number }[]): RowSums {
  const sums = emptyRowSums(rows.length);
  rows.forEach((row, i) => {
    sums.clicks[i] = row.clicks;
    sums.orders[i] = row.orders;
    sums.units[i] = row.orders;
    sums.cost[i] = row.cost;
    sums.revenue[i] = row.revenue;
  });
  return sums;
}

const set = returnTiers(3);

describe("shelves", () => {
  const at = (roas: number, clicks = 100) => ({ clicks, orders: 0, cost: 1000, revenue: roas * 1000 });

  it("take the first tier whose cut is reached; too little evidence is no verdict", () => {
    // Cuts at goal 3: 5.4, 3.45, 2.4, 1.2.
    const rows = [at(6), at(5.4), at(5.39), at(3), at(1.2), at(1.19), at(0), at(9, 19), { ...at(9, 5), orders: 3 }];
    const { shelf } = assignShelves(set, sumsOf(rows), blankMemory(rows.length));
    expect([...shelf]).toEqual([0, 0, 1, 2, 3, 4, 4, 5, 0]);
    expect(shelvesOf(set).map(({ key }) => key)).toEqual(["hot", "warm", "mild", "cool", "cold", "unread"]);
  });

  it("are a partition, and agree with a slow obvious version", () => {
    const row = fc.record({
      clicks: fc.integer({ min: 0, max: 60 }),
      orders: fc.integer({ min: 0, max: 5 }),
      cost: fc.integer({ min: 0, max: 5000 }),
      revenue: fc.integer({ min: 0, max: 30_000 }),
    });
    fc.assert(
      fc.property(fc.array(row, { maxLength: 50 }), (rows) => {
        const { shelf } = assignShelves(set, sumsOf(rows), blankMemory(rows.length));
        const slow = rows.map(({ clicks, orders, cost, revenue }) => {
          if (clicks < 20 && orders < 3) return 5;
          const roas = cost > 0 ? revenue / cost : revenue > 0 ? Infinity : 0;
          return set.tiers.findIndex(({ least }) => least === null || roas >= least);
        });
        expect([...shelf]).toEqual(slow);
        const total = totalOf(sumsOf(rows));
        const parts = sumsByCode(sumsOf(rows), shelf, 6);
        expect(parts.reduce((sum, part) => sum + part.cost, 0)).toBe(total.cost);
        expect(parts.reduce((sum, part) => sum + part.revenue, 0)).toBe(total.revenue);
      }),
    );
  });

  it("let an item leave only past the margin, or after three recomputes on the other side", () => {
    const move = (roas: number[]) => {
      let memory = blankMemory(1);
      return roas.map((value) => {
        memory = assignShelves(set, sumsOf([at(value)]), memory);
        return memory.shelf[0];
      });
    };
    // Warm from 3.45 up; 10 % past it is 3.795 upwards and 3.105 downwards.
    expect(move([3, 3.5, 3.5, 3.5])).toEqual([2, 2, 2, 1]);
    expect(move([3, 3.8])).toEqual([2, 1]);
    expect(move([3.6, 3.4, 3.5, 3.4, 3.4, 3.4])).toEqual([1, 1, 1, 1, 1, 2]);
    expect(move([3.6, 3.1])).toEqual([1, 2]);
  });

  it("refuse cuts that are no cuts", () => {
    const tiers = set.tiers.map((tier, i) => (i === 1 ? { ...tier, least: 9 } : tier));
    expect(shelfSetSchema.safeParse({ ...set, tiers }).success).toBe(false);
    expect(shelfSetSchema.safeParse({ ...set, measure: "probability" }).success).toBe(false);
    expect(shelfSetSchema.safeParse(set).success).toBe(true);
  });
});

describe("rollups", () => {
  const fact = fc.record({
    campaign: fc.integer({ min: 1, max: 3 }),
    adGroup: fc.integer({ min: 1, max: 3 }),
    itemNo: fc.integer({ min: 1, max: 6 }),
    impressions: fc.integer({ min: 0, max: 99 }),
    clicks: fc.integer({ min: 0, max: 9 }),
    cost: fc.integer({ min: 0, max: 999 }),
    orders: fc.integer({ min: 0, max: 3 }),
    units: fc.integer({ min: 0, max: 3 }),
    revenue: fc.integer({ min: 0, max: 9999 }),
  });

  it("keep every sum, through bytes and back, also for items that are gone", () => {
    fc.assert(
      fc.property(fc.array(fact, { maxLength: 40 }), (facts) => {
        const rollup = decodeRollup(encodeRollup(rollUp(facts)));
        const index = rowIndex([2, 4, 1]);
        const sums = emptyRowSums(3);
        const gone = noSums();
        addRollup(sums, gone, rollup, index);
        const revenueOf = (no: number) => facts.filter((f) => f.itemNo === no).reduce((sum, f) => sum + f.revenue, 0);
        expect([...sums.revenue]).toEqual([revenueOf(2), revenueOf(4), revenueOf(1)]);
        const all = facts.reduce((sum, f) => sum + f.cost, 0);
        expect(totalOf(sums).cost + gone.cost).toBe(all);
      }),
    );
  });

  it("sum days into a span that gives the same sums", () => {
    fc.assert(
      fc.property(fc.array(fc.array(fact, { maxLength: 12 }), { minLength: 1, maxLength: 5 }), (days) => {
        const rollups = days.map(rollUp);
        const index = rowIndex([1, 3, 5, 6]);
        const bySpan = emptyRowSums(4);
        const byDay = emptyRowSums(4);
        const gone = [noSums(), noSums()] as const;
        addRollup(bySpan, gone[0], decodeSpan(encodeSpan(sumSpan(rollups))), index);
        for (const rollup of rollups) addRollup(byDay, gone[1], rollup, index);
        expect(bySpan).toEqual(byDay);
        expect(gone[0]).toEqual(gone[1]);
      }),
    );
  });

  it("add store sales by item", () => {
    const store = decodeStore(
      encodeStore(
        storeColumns([
          { itemNo: 4, orders: 2, units: 3, revenue: 500 },
          { itemNo: 9, orders: 1, units: 1, revenue: 70 },
        ]),
      ),
    );
    const sums = emptyRowSums(2);
    const gone = noSums();
    addStore(sums, gone, store, rowIndex([1, 4]));
    expect(sumsOfRow(sums, 1)).toEqual({ ...noSums(), storeOrders: 2, storeRevenue: mills(500) });
    expect(gone.storeRevenue).toBe(70);
  });
});
