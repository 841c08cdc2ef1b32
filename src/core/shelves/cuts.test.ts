import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { bandDegrees, cutValue, type CutInputs } from "./cuts";
import { JUST } from "./degrees";
import { histogram, placeOf, valueAt } from "./histogram";
import type { Cut } from "./shelf-set";

function inputs(values: number[], cost = values.map(() => 1), revenue = cost): CutInputs {
  return { values: Float64Array.from(values), cost: Float64Array.from(cost), revenue: Float64Array.from(revenue) };
}
const held = (side: "above" | "below" | "any", cut: Cut | null, given: CutInputs) =>
  [...bandDegrees(side, cut, given, 0)].flatMap((degree, row) => (degree >= JUST ? row : []));

describe("cuts", () => {
  it("fall where hand-worked numbers say", () => {
    const given = inputs([10, 1, 4, 3, 2, NaN]);
    // Sorted 1 2 3 4 10: type 7 at a quarter is the second, at 0.9 it lies 0.6 of the way from 4 to 10.
    expect(cutValue({ by: "quantile", q: 0.25, weight: "items" }, given)).toBe(2);
    expect(cutValue({ by: "quantile", q: 0.9, weight: "items" }, given)).toBeCloseTo(7.6, 12);
    expect(cutValue({ by: "middle", of: "median", times: 2 }, given)).toBe(6);
    expect(cutValue({ by: "middle", of: "mean", times: 1 }, given)).toBe(4);
    expect(cutValue({ by: "middle", of: "range", times: 1 }, given)).toBe(5.5);
  });

  it("by spend or sales part the weights and not the heads", () => {
    // 60 of 100 lies on the dearest item alone: half of the spend is reached only with it.
    const given = inputs([1, 2, 3, 4], [10, 10, 20, 60], [70, 10, 10, 10]);
    expect(cutValue({ by: "quantile", q: 0.5, weight: "cost" }, given)).toBe(4);
    expect(cutValue({ by: "quantile", q: 0.5, weight: "revenue" }, given)).toBe(1);
    expect(cutValue({ by: "quantile", q: 0.5, weight: "cost" }, inputs([1, 3], [0, 0]))).toBe(2);
  });

  it("by rank take so many, ties by item ID", () => {
    // By item ID the rows come in the order 4, 3, 2, 1, 0: from the top 1, 3, 2, 0.
    const given = { ...inputs([5, 9, 5, 5, NaN]), byId: () => Uint32Array.from([4, 3, 2, 1, 0]) };
    expect(held("above", { by: "count", n: 2 }, given)).toEqual([1, 3]);
    expect(held("below", { by: "count", n: 2 }, given)).toEqual([0, 2]);
    expect(held("below", { by: "share", share: 0.25 }, given)).toEqual([0]);
  });

  it("by rank agree with sorting, at every degree", () => {
    const value = fc.oneof(fc.integer({ min: 0, max: 6 }), fc.constantFrom(NaN, Infinity));
    fc.assert(
      fc.property(
        fc.array(value, { maxLength: 30 }),
        fc.integer({ min: 1, max: 12 }),
        fc.constantFrom("above", "below"),
        (values, n, side) => {
          const order = [...values.keys()].filter((row) => !Number.isNaN(values[row]!));
          order.sort((a, b) => (values[a] === values[b] ? a - b : values[b]! > values[a]! ? 1 : -1));
          if (side === "below") order.reverse();
          const degrees = bandDegrees(side, { by: "count", n }, inputs(values), 0.5);
          const slow = values.map((_, row) => {
            const rank = order.indexOf(row) + 1;
            return rank === 0 || rank > n * 1.5 ? 0 : rank > n ? 1 : rank > n / 1.5 ? 2 : 3;
          });
          expect([...degrees]).toEqual(slow);
        },
      ),
    );
  });

  it("by spend agree with walking up the sorted rows", () => {
    const line = fc.tuple(fc.integer({ min: 0, max: 9 }), fc.integer({ min: 0, max: 5 }));
    fc.assert(
      fc.property(
        fc.array(line, { minLength: 1, maxLength: 25 }),
        fc.double({ min: 0, max: 0.99, noNaN: true }),
        (lines, q) => {
          const all = lines.reduce((sum, [, weight]) => sum + weight, 0);
          fc.pre(all > 0);
          let sum = 0;
          const slow = lines.toSorted(([a], [b]) => a - b).find(([, weight]) => (sum += weight) > q * all)![0];
          const given = inputs(
            lines.map(([value]) => value),
            lines.map(([, weight]) => weight),
          );
          expect(cutValue({ by: "quantile", q, weight: "cost" }, given)).toBe(slow);
        },
      ),
    );
  });

  it("of nothing, of one item and of equals hold as they should", () => {
    const median: Cut = { by: "middle", of: "median", times: 1 };
    expect(held("above", median, inputs([NaN, NaN]))).toEqual([]);
    expect(held("below", median, inputs([NaN, NaN]))).toEqual([]);
    expect(held("above", median, inputs([7]))).toEqual([0]);
    expect(held("above", median, inputs([7, 7, 7]))).toEqual([0, 1, 2]);
    expect(held("below", median, inputs([7, 7, 7]))).toEqual([]);
    expect(cutValue({ by: "quantile", q: 0.5, weight: "items" }, inputs([Infinity, Infinity]))).toBe(Infinity);
  });

  it("above and below one cut share out all that have the metric", () => {
    const cut = fc.oneof(
      fc.record({ by: fc.constant("value" as const), at: fc.double({ min: -20, max: 20, noNaN: true }) }),
      fc.record({
        by: fc.constant("middle" as const),
        of: fc.constantFrom("median" as const, "mean" as const, "range" as const),
        times: fc.double({ min: 0.1, max: 3, noNaN: true }),
      }),
      fc.record({
        by: fc.constant("quantile" as const),
        q: fc.double({ min: 0, max: 1, noNaN: true }),
        weight: fc.constantFrom("items" as const, "cost" as const, "revenue" as const),
      }),
    );
    const value = fc.oneof(fc.integer({ min: -10, max: 10 }), fc.constant(NaN), fc.constant(Infinity));
    fc.assert(
      fc.property(cut, fc.array(value, { maxLength: 30 }), (at, values) => {
        const given = inputs(values);
        const both = [...held("above", at, given), ...held("below", at, given)].sort((a, b) => a - b);
        expect(both).toEqual(held("any", null, given));
      }),
    );
  });
});

describe("the distribution", () => {
  it("counts every item that has the metric in one bar, with what it cost", () => {
    const value = fc.oneof(
      fc.double({ min: -1e6, max: 1e6, noNaN: true }),
      fc.constantFrom(NaN, Infinity, -Infinity, 0),
    );
    fc.assert(
      fc.property(fc.array(value, { maxLength: 60 }), (values) => {
        const bars = histogram(
          Float64Array.from(values),
          Float64Array.from(values, () => 3),
          12,
        );
        const known = values.filter((one) => !Number.isNaN(one)).length;
        expect(bars.known).toBe(known);
        expect(bars.items.reduce((sum, count) => sum + count, 0)).toBe(known);
        expect(bars.cost.reduce((sum, count) => sum + count, 0)).toBe(known * 3);
      }),
    );
  });

  it("takes a logarithmic scale where values reach over several sizes, and finds its way back", () => {
    const wide = histogram(
      Float64Array.from({ length: 200 }, (_, i) => 1.05 ** i),
      new Float64Array(200),
    );
    expect(wide.isLog).toBe(true);
    for (const value of [2, 50, 900]) expect(valueAt(wide, placeOf(wide, value))).toBeCloseTo(value, 6);
    const even = histogram(
      Float64Array.from({ length: 200 }, (_, i) => i),
      new Float64Array(200),
    );
    expect(even.isLog).toBe(false);
    expect(valueAt(even, placeOf(even, 70))).toBeCloseTo(70, 9);
  });
});
