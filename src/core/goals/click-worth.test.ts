import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { BID_TOWARDS, bidByWorth } from "./click-worth";

describe("a bid by what a click is worth", () => {
  it("is sales ÷ goal, or four fifths of what is left of them", () => {
    // 1.75 of sales a click at a goal of 3.5 is 0.50; at a margin of 40 % it leaves 0.70, of which 0.56 is bid.
    const worth = { sales: 1_750, margin: 0.4, goal: 3.5 };
    expect(bidByWorth(worth, "goal", 450, 0.5, 10)).toBe(500);
    expect(bidByWorth(worth, "contribution", 450, 0.5, 10)).toBe(560);
    expect(bidByWorth({ ...worth, margin: null }, "contribution", 450, 0.5, 10)).toBeNull();
    expect(bidByWorth({ ...worth, margin: null }, "goal", 450, 0.5, 10)).toBe(500);
  });

  it("moves no further than one step, and not below the least", () => {
    expect(bidByWorth({ sales: 90_000, margin: 0.4, goal: 3 }, "goal", 400, 0.5, 10)).toBe(600);
    expect(bidByWorth({ sales: 0, margin: 0.4, goal: 3 }, "goal", 400, 0.5, 10)).toBe(270);
    expect(bidByWorth({ sales: 500, margin: -0.2, goal: 3 }, "contribution", 400, 1, 10)).toBe(200);
    expect(bidByWorth({ sales: 0, margin: 0.4, goal: 3 }, "goal", 12, 3, 10)).toBe(10);
    // A goal that no return reaches is worth no bid.
    expect(bidByWorth({ sales: 900, margin: 0, goal: Infinity }, "goal", 400, 0.25, 10)).toBe(320);
  });

  it("never falls where a click is worth more, all else equal", () => {
    const mills = fc.integer({ min: 0, max: 50_000 });
    fc.assert(
      fc.property(
        mills,
        mills,
        fc.constantFrom(...BID_TOWARDS),
        fc.integer({ min: 10, max: 5_000 }),
        (a, b, towards, present) => {
          const bid = (sales: number) => bidByWorth({ sales, margin: 0.3, goal: 3 }, towards, present, 0.5, 10)!;
          expect(bid(Math.max(a, b))).toBeGreaterThanOrEqual(bid(Math.min(a, b)));
        },
      ),
    );
  });
});
