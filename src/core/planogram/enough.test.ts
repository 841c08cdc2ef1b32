import { describe, expect, it } from "vitest";
import { enoughWarnings, ordersAMonth } from "./enough";
import type { PlannedAdGroup, PlannedCampaign } from "./planned-campaigns";
import type { Planogram } from "./planogram";

const planogram = {
  ...{ goal: 4, campaignLine: 0, adGroupLine: 1, ladder: [{ by: "category1", largest: null }] },
} as Planogram;
const group = (name: string, orders: number, roas: number): PlannedAdGroup => ({
  ...{ key: `g:${name}`, name, value: name.toLowerCase(), node: 0, items: 10, productGroups: 1 },
  ...{ orders, cost: 100_000, revenue: roas * 100_000, bid: 300 },
});
const campaign = (name: string, ...adGroups: PlannedAdGroup[]): PlannedCampaign => {
  const sum = (of: (one: PlannedAdGroup) => number) => adGroups.reduce((total, one) => total + of(one), 0);
  return {
    ...{
      ...group(
        name,
        sum(({ orders }) => orders),
        3,
      ),
      key: `c:${name}`,
      variant: null,
      dailyBudget: 10_000,
    },
    ...{ isSetByHand: false, adGroups },
  };
};

describe("enough to learn from", () => {
  it("is three orders a month; the largest are proposed to stand alone", () => {
    // In 90 days eight orders are 2.67 a month, nine are three.
    expect(ordersAMonth({ orders: 8 }, 90)).toBeCloseTo(2.667, 3);
    const campaigns = [campaign("A", group("A", 9, 5)), campaign("B", group("B", 8, 5))];
    const [thin, ...more] = enoughWarnings({ ...planogram, campaignLine: 1 }, campaigns, 90);
    expect(thin!.text).toBe("1 campaign can expect fewer than 3 orders a month: too little to learn from.");
    expect(thin!.repair?.change.ladder?.[0]).toMatchObject({ largest: { count: 1, measure: "revenue" } });
    expect(more).toEqual([]);
  });

  it("with plenty at a poor return among others is proposed to stand alone, by its value", () => {
    // Sixty orders in 90 days are twenty a month; 2.3 lies below 0.6 of 4, 2.5 does not.
    const all = campaign(
      "All",
      group("Seeds", 60, 2.3),
      group("Hoses", 60, 2.5),
      group("Pots", 59, 1),
      group("Lamps", 90, 5),
    );
    const [poor, ...more] = enoughWarnings(planogram, [all], 90);
    expect(poor!.text).toContain("Seeds (2.30) has plenty of orders");
    expect(poor!.repair?.change).toMatchObject({
      ...{ campaignLine: 1, adGroupLine: 1 },
      ladder: [{ by: "category1", values: ["seeds"], others: "pooled" }],
    });
    expect(more).toEqual([]);
    // Alone in its campaign it is steered by itself already; without a goal nothing is poor.
    expect(enoughWarnings(planogram, [campaign("Seeds", group("Seeds", 60, 2.3))], 90)).toEqual([]);
    expect(enoughWarnings({ ...planogram, goal: null }, [all], 90)).toEqual([]);
  });
});
