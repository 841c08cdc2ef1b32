import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { noSums } from "../kit/metrics";
import { mills } from "../kit/money";
import { decodeRollup, decodeSpan, decodeStore, encodeRollup, encodeSpan, encodeStore } from "./day-columns";
import { rollUp, storeColumns, sumSpan } from "./roll-up-days";
import { addRollup, addStore, emptyRowSums, rowIndex, sumsOfRow, totalOf } from "./window-sums";

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
