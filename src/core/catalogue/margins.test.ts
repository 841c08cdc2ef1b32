import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { numberColumn, textColumn, type Columns } from "../kit/columns";
import { goalInForce } from "../goals/goals";
import { paidPrices, workMargins } from "./margins";

type Row = { price: number | null; sale: number | null; cost: number | null; fee: number | null };

function table(rows: Row[]): Columns {
  return {
    length: rows.length,
    columns: {
      id: textColumn(rows.map((_, i) => `I${i}`)),
      price: numberColumn(rows.map(({ price }) => price)),
      salePrice: numberColumn(rows.map(({ sale }) => sale)),
      cost: numberColumn(rows.map(({ cost }) => cost)),
      fee: numberColumn(rows.map(({ fee }) => fee)),
    },
  };
}

describe("the price paid", () => {
  it("is the lower of price and sale price, and none where there is no price", () => {
    const rows = [
      [10_000, null],
      [10_000, 8_000],
      [10_000, 12_000],
      [null, 8_000],
    ].map(([price, sale]): Row => ({ price: price!, sale: sale!, cost: null, fee: null }));
    expect([...paidPrices(table(rows))]).toEqual([10_000, 8_000, 10_000, NaN]);
  });

  it("is what margins and break-even are worked from, by hand", () => {
    const { margin, breakEven } = workMargins(
      table([
        { price: 20_000, sale: 10_000, cost: 6_000, fee: 1_500 },
        { price: 20_000, sale: 30_000, cost: 6_000, fee: null },
        { price: 5_000, sale: null, cost: 5_000, fee: null },
        { price: 5_000, sale: null, cost: null, fee: null },
      ]),
      new Map(),
    );
    // (10 − 6 − 1.50) ÷ 10 and (20 − 6) ÷ 20.
    expect([...margin.values]).toEqual([0.25, 0.7, 0, NaN]);
    expect([...breakEven.values]).toEqual([4, 1 / 0.7, Infinity, NaN]);
  });

  it("is worked from amounts without tax, at the item's own rate where it has one, by hand", () => {
    const rows = [1, 2].map((): Row => ({ price: 11_900, sale: null, cost: 5_000, fee: 1_190 }));
    const two = table(rows);
    two.columns["tax"] = numberColumn([null, 0.07]);
    const rule = { rate: 0.19, price: true, cost: false, fee: true };
    const { margin } = workMargins(two, new Map(), rule);
    // 11.90 with 19 % is 10.00 without, and the fee of 1.19 is 1.00: (10 − 5 − 1) ÷ 11.90.
    expect(margin.values[0]).toBeCloseTo(4 / 11.9, 12);
    expect(margin.values[1]).toBeCloseTo((11.9 / 1.07 - 5 - 1.19 / 1.07) / 11.9, 12);
    // With everything as it is written, it is too high.
    expect(workMargins(two, new Map()).margin.values[0]).toBeCloseTo((11.9 - 5 - 1.19) / 11.9, 12);
  });

  it("pays for the ad and the goods exactly at the break-even return, whatever the figures", () => {
    const amount = fc.integer({ min: 1, max: 1_000_000 });
    fc.assert(
      fc.property(amount, amount, fc.integer({ min: 1, max: 500_000 }), (price, sale, cost) => {
        const { breakEven } = workMargins(table([{ price, sale, cost, fee: null }]), new Map());
        const paid = Math.min(price, sale);
        const needed = breakEven.values[0]!;
        if (cost >= paid) {
          expect(needed).toBe(Infinity);
          return;
        }
        // One order at a spend of paid ÷ break-even leaves nothing.
        expect(Math.abs(paid - cost - paid / needed)).toBeLessThan(1e-6 * paid);
        expect(goalInForce({ workspace: 3, breakEven: needed }).goal).toBe(Math.max(3, needed));
      }),
    );
  });
});
