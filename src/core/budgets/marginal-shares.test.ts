import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { marginalShares, USUAL_RESPONSE } from "./marginal-shares";

describe("shares by marginal return", () => {
  it("are even where nothing is known, and where all did the same", () => {
    expect(
      marginalShares([
        { cost: 0, revenue: 0 },
        { cost: 5, revenue: 0 },
      ]),
    ).toEqual([1, 1]);
    const [a, b] = marginalShares([
      { cost: 10, revenue: 40 },
      { cost: 10, revenue: 40 },
    ]);
    expect(a).toBeCloseTo(b!, 12);
  });

  it("follow the return steeply: twice the sales for the same spend earn 2^(1/(1−b)) times the money, a little less pooled", () => {
    const [a, b] = marginalShares([
      { cost: 100, revenue: 600 },
      { cost: 100, revenue: 300 },
    ]) as [number, number];
    expect(a / b).toBeLessThan(2 ** (1 / (1 - USUAL_RESPONSE)));
    expect(a / b).toBeGreaterThan(2);
  });

  it("are what one works out by hand for a response of a half, where sales go with the root of spend", () => {
    // A quarter of the mean spend of 100 is put to each at the return of all, 900 for 200: 125 spent, 712.5 and 412.5 sold.
    // Sales over the root of 125, squared: 712.5² ÷ 125 and 412.5² ÷ 125.
    const past = [
      { cost: 100, revenue: 600 },
      { cost: 100, revenue: 300 },
    ];
    const [a, b] = marginalShares(past, 0.5) as [number, number];
    expect(a).toBeCloseTo(4061.25, 8);
    expect(b).toBeCloseTo(1361.25, 8);
    // So of 100 a day 74.90 and 25.10; a cent moved from one to the other then gains as much as it loses.
    const spend = (100 * a) / (a + b);
    expect(spend).toBeCloseTo(74.9, 2);
    const gain = (sold: number, of: number) => (sold / Math.sqrt(125)) * (Math.sqrt(of + 0.01) - Math.sqrt(of));
    expect(gain(712.5, spend) / gain(412.5, 100 - spend)).toBeCloseTo(1, 3);
  });

  it("bring no less than any other way to share, under the response that they suppose (property)", () => {
    const campaign = fc.record({
      cost: fc.double({ min: 1, max: 1000, noNaN: true }),
      revenue: fc.double({ min: 1, max: 5000, noNaN: true }),
    });
    fc.assert(
      fc.property(fc.array(campaign, { minLength: 2, maxLength: 5 }), fc.integer(), (past, seed) => {
        const weights = marginalShares(past);
        const total = 1000;
        const sum = weights.reduce((x, y) => x + y, 0);
        const [cost, revenue] = past.reduce(([c, r], one) => [c + one.cost, r + one.revenue], [0, 0]);
        const pooled = (0.25 * cost) / past.length;
        const level = past.map(
          (one) => (one.revenue + (pooled * revenue) / cost) / (one.cost + pooled) ** USUAL_RESPONSE,
        );
        const sales = (spend: number[]) => spend.reduce((all, x, i) => all + level[i]! * x ** USUAL_RESPONSE, 0);
        const best = sales(weights.map((weight) => (total * weight) / sum));
        const other = past.map((_, i) => 1 + (Math.abs(seed >> i) % 7));
        const otherSum = other.reduce((x, y) => x + y, 0);
        expect(best).toBeGreaterThanOrEqual(sales(other.map((part) => (total * part) / otherSum)) * (1 - 1e-9));
      }),
    );
  });
});
