import { describe, expect, it } from "vitest";
import { Account } from "../account/account";
import { leastAssets, testShop } from "../market/test-shop";
import { recordsOf } from "../account/testing";
import { planCatalogue } from "./plan";
import { plannedCampaigns } from "./planned-campaigns";
import { plannedRecords } from "./planned-records";
import { planogramSchema, type Planogram } from "./planogram";
import { proveAccount } from "./testing";

const shop = testShop();
const { type: _, key: __, adGroup: ___, ...assets } = leastAssets("");
const planogram = (change: object): Planogram =>
  planogramSchema.parse({
    ...{ key: "p", name: "P", ladder: [{ by: "brand", largest: null }], campaignLine: 1, adGroupLine: 1 },
    ...{ inStockOnly: true, campaignName: [{ kind: "level", level: 1 }], adGroupName: [{ kind: "campaign" }] },
    ...{ purpose: "scale", bidding: "fixed", goal: null, totalBudget: 115_000, shareBy: "evenly" },
    ...{ startingBid: 300, serveOrder: 4, replaces: [] },
    ...change,
  });
const recordsFor = (change: object) => {
  const one = planogram(change);
  return plannedRecords(one, planCatalogue(one, shop, {}), shop);
};
const budgets = (change: object) => {
  const one = planogram(change);
  const rows = { cost: new Float64Array(24), revenue: new Float64Array(24) };
  // The brands stand in turn: all spent the same, the first sold twice as much as each of the others.
  for (let row = 0; row < 24; row++) {
    rows.cost[row] = 100;
    rows.revenue[row] = row % 3 === 0 ? 600 : 300;
  }
  return plannedCampaigns(one, planCatalogue(one, shop, rows)).campaigns.map(({ dailyBudget }) => dailyBudget);
};

describe("a planogram's kind", () => {
  it("gives every ad group what its kind needs, and nothing to others", () => {
    expect(recordsOf(recordsFor({}), "campaign").map(({ kind }) => kind)).toEqual(["feed", "feed", "feed"]);
    const asset = recordsFor({ kind: "asset", assets });
    expect(recordsOf(asset, "assets").map(({ adGroup }) => adGroup)).toEqual(
      recordsOf(asset, "adGroup").map(({ key }) => key),
    );
    const discovery = recordsFor({ kind: "discovery", reach: ["tight-terms", "rival-pages"] });
    expect(recordsOf(discovery, "reach").map(({ kind }) => kind)).toEqual([
      "tight-terms",
      "rival-pages",
      "tight-terms",
      "rival-pages",
      "tight-terms",
      "rival-pages",
    ]);
    expect([...recordsOf(recordsFor({}), "assets"), ...recordsOf(asset, "reach")]).toEqual([]);
  });

  it("of assets needs some, and serves every item once like any other", () => {
    expect(planogramSchema.safeParse({ ...planogram({}), kind: "asset" }).error?.issues[0]?.message).toBe(
      "Asset groups need assets.",
    );
    const { proof } = proveAccount(planogram({ kind: "asset", assets }), shop, Account.EMPTY);
    expect([proof.one, proof.none, proof.several]).toEqual([24, 0, 0]);
    // With assets that the channel can't show nothing is served, and the proof says so.
    const bare = proveAccount(planogram({ kind: "asset", assets: { ...assets, pictures: [] } }), shop, Account.EMPTY);
    expect(bare.proof.none).toBe(24);
  });
});

describe("a planogram's money and settings", () => {
  it("is shared by shares of one's own, the last for all after it, to the last mill", () => {
    expect(budgets({ shareBy: "shares", shares: [50, 50, 15] })).toEqual([50_000, 50_000, 15_000]);
    expect(budgets({ shareBy: "shares", shares: [3, 1] })).toEqual([69_000, 23_000, 23_000]);
    expect(budgets({ shareBy: "shares", shares: [1], totalBudget: 100_000 })).toEqual([33_334, 33_333, 33_333]);
  });

  it("is shared by what the next euro brings: more than by sales to who returns more", () => {
    const [first, second, third] = budgets({ shareBy: "marginal" }) as [number, number, number];
    const bySales = budgets({ shareBy: "revenue" });
    expect(first + second + third).toBe(115_000);
    expect(second).toBe(third);
    expect(first).toBeGreaterThan(bySales[0]!);
  });

  it("are the same for every campaign", () => {
    const settings = { flex: { mode: "ease", limit: 0 }, slots: { "lead-row": 1.5 }, startsOn: "2026-12-01" };
    for (const campaign of recordsOf(recordsFor({ settings }), "campaign")) expect(campaign).toMatchObject(settings);
  });
});
