import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { CHANNEL_LIMITS } from "../channel/limits";
import { numberColumn, textColumn } from "../kit/columns";
import { planCatalogue } from "./plan";
import { plannedCampaigns } from "./planned-campaigns";
import type { Planogram } from "./planogram";
import { worthBid } from "./worth-bid";

describe("a bid by what a click is worth", () => {
  it("is worth ÷ goal on steps of an eighth, within a third and three times the starting bid", () => {
    // 1.80 a click at a goal of 3 is 0.60: two steps over 0.48 are 0.48 × 1.12² = 0.602, in whole cents 0.60.
    expect(worthBid(1_800, 3, 480)).toBe(600);
    expect(worthBid(90_000, 3, 480)).toBe(1_490);
    expect(worthBid(0, 3, 480)).toBe(150);
    expect(worthBid(NaN, 3, 480)).toBe(480);
    expect(worthBid(1, 3, 20)).toBe(CHANNEL_LIMITS.lowestBid);
  });

  it("never falls where a click is worth more, and a slightly other worth seldom moves it", () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 20_000 }), fc.integer({ min: 0, max: 20_000 }), (a, b) => {
        const [less, more] = [Math.min(a, b), Math.max(a, b)];
        expect(worthBid(more, 3, 300)).toBeGreaterThanOrEqual(worthBid(less, 3, 300));
      }),
    );
    const moved = Array.from({ length: 400 }, (_, i) => 600 + i).filter(
      (worth) => worthBid(worth, 3, 300) !== worthBid(worth * 1.01, 3, 300),
    );
    expect(moved.length).toBeLessThan(60);
  });
});

describe("plans that bid by worth", () => {
  const catalogue = {
    length: 5,
    columns: {
      itemNo: numberColumn([1, 2, 3, 4, 5]),
      id: textColumn(["a", "b", "c", "d", "e"]),
      family: textColumn(["F", "F", "G", "", "G"]),
      availability: textColumn(["in stock", "in stock", "in stock", "in stock", "in stock"]),
    },
  };
  // F: (9 + 1) clicks' weight on 1.20 and 1 on 3.00; G: one unknown, one worth 0.60; without a family: 2.40.
  const measures = {
    clicks: Float64Array.from([9, 0, 4, 2, 0]),
    revenue: Float64Array.from([50, 0, 20, 90, 0]),
    worth: Float64Array.from([1_200, 3_000, NaN, 2_400, 600]),
  };
  const base: Planogram = {
    ...{ key: "worth", name: "Worth", ladder: [{ by: "family", largest: null }], campaignLine: 1, adGroupLine: 1 },
    ...{ inStockOnly: false, campaignName: [], adGroupName: [], purpose: "scale", bidding: "fixed", goal: 3 },
    ...{ totalBudget: 100_000, shareBy: "evenly", startingBid: 300, serveOrder: 3, replaces: [] },
  };
  const bidsOf = (change: object) => {
    const made = { ...base, startingBid: 300, ...change };
    const { campaigns } = plannedCampaigns(made, planCatalogue(made, catalogue, measures));
    return Object.fromEntries(campaigns.map(({ value, adGroups }) => [value, adGroups[0]!.bid]));
  };

  it("give each ad group the mean of its items by clicks and one more; one set by hand stays", () => {
    expect(bidsOf({})).toEqual({ F: 300, G: 300, "": 300 });
    const f = (10 * 1_200 + 3_000) / 11;
    const worth = { F: worthBid(f, 3, 300), G: worthBid(600, 3, 300), "": worthBid(2_400, 3, 300) };
    expect(bidsOf({ bidBy: "worth" })).toEqual(worth);
    const [key] = plannedCampaigns(base, planCatalogue(base, catalogue, measures)).campaigns.map(({ key: of }) => of);
    expect(bidsOf({ bidBy: "worth", each: { [key!]: { startingBid: 777 } } })).toEqual({ ...worth, F: 777 });
    expect(bidsOf({ bidBy: "worth", goal: null })).toEqual({ F: 300, G: 300, "": 300 });
  });

  it("make no campaign of what has no value where only the largest are taken", () => {
    const largest = { by: "family", largest: { count: 5, measure: "revenue" } };
    expect(Object.keys(bidsOf({ ladder: [{ ...largest, others: "closed" }] }))).toEqual(["F", "G"]);
    expect(Object.keys(bidsOf({ ladder: [{ ...largest, others: "pooled" }] }))).toEqual(["F", "G", ""]);
    const plan = planCatalogue(
      { ...base, ladder: [{ by: "family", largest: { count: 5, measure: "revenue" }, others: "closed" }] },
      catalogue,
      measures,
    );
    expect(plan.leftOutBy).toEqual([{ rule: "not taken", split: 1, items: 1 }]);
  });
});
