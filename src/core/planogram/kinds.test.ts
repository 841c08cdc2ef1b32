import { describe, expect, it } from "vitest";
import { Account } from "../account/account";
import { leastAssets, testShop } from "../market/test-shop";
import { recordsOf } from "../account/testing";
import { cellText, numberColumn } from "../kit/columns";
import { categoriesOver, pagesOf } from "./kinds/pages";
import { planCatalogue } from "./plan";
import { plannedCampaigns } from "./planned-campaigns";
import { plannedRecords } from "./planned-records";
import { planogramSchema, type Planogram } from "./planogram";
import { previewPlan } from "./preview";
import { proveAccount } from "./testing";

const shop = testShop();
const { type: _, key: __, adGroup: ___, ...assets } = leastAssets("");
const planogram = (change: object): Planogram =>
  planogramSchema.parse({
    ...{ key: "p", name: "P", ladder: [{ by: "brand", largest: null }], campaignLine: 1, adGroupLine: 1 },
    ...{
      inStockOnly: true,
      campaignName: [{ kind: "field", field: "level-1" }],
      adGroupName: [{ kind: "field", field: "campaign" }],
    },
    ...{ purpose: "scale", bidding: "fixed", goal: null, totalBudget: 115_000, shareBy: "evenly" },
    ...{ startingBid: 300, serveOrder: 4, replaces: [] },
    ...change,
  });
const recordsFor = (change: object) => {
  const one = planogram(change);
  return Object.fromEntries(plannedRecords(one, planCatalogue(one, shop, {}), shop));
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
    const discovery = recordsFor({ kind: "discovery", reach: ["searches-alike", "pages-alike"] });
    expect(recordsOf(discovery, "reach").map(({ kind }) => kind)).toEqual([
      "searches-alike",
      "pages-alike",
      "searches-alike",
      "pages-alike",
      "searches-alike",
      "pages-alike",
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
  it("is shared by shares of one's own, the last for all after it, in whole cents", () => {
    expect(budgets({ shareBy: "shares", shares: [50, 50, 15] })).toEqual([50_000, 50_000, 15_000]);
    expect(budgets({ shareBy: "shares", shares: [3, 1] })).toEqual([69_000, 23_000, 23_000]);
    expect(budgets({ shareBy: "shares", shares: [1], totalBudget: 100_000 })).toEqual([33_340, 33_330, 33_330]);
  });

  it("is shared by what the next euro brings: more than by sales to who returns more", () => {
    const [first, second, third] = budgets({ shareBy: "marginal" }) as [number, number, number];
    const bySales = budgets({ shareBy: "revenue" });
    expect(first + second + third).toBe(115_000);
    // Alike but for the odd cent.
    expect(second - third).toBe(10);
    expect(first).toBeGreaterThan(bySales[0]!);
  });

  it("are the same for every campaign", () => {
    const settings = { flex: { below: 0.6, above: 0 }, slots: { "lead-row": 1.5 }, startsOn: "2026-12-01" };
    for (const campaign of recordsOf(recordsFor({ settings }), "campaign")) expect(campaign).toMatchObject(settings);
  });
});

const level = (at: number) => ({ kind: "field", field: `level-${at}` });

describe("a planogram that aims", () => {
  const keywords = {
    patterns: [
      [level(2), { kind: "text", text: " " }, level(1)],
      [{ kind: "text", text: "Best — " }, level(1)],
    ],
    matches: ["exact", "broad"],
  };
  const ladder = [
    { by: "brand", largest: { count: 1, measure: "items" } },
    { by: "availability", largest: null },
  ];

  it("gives every ad group a keyword a pattern and match type, but none where a split says nothing", () => {
    const change = { kind: "keyword", keywords, ladder, adGroupLine: 2, inStockOnly: false };
    const records = recordsFor(change);
    const named = recordsOf(records, "adGroup").filter(({ key }) => !key.includes("~rest"));
    const [first] = named;
    const texts = (adGroup: string) =>
      recordsOf(records, "keyword")
        .filter((keyword) => keyword.adGroup === adGroup)
        .map(({ text, match }) => `${text} ${match}`);
    expect(texts(first!.key)).toEqual([
      "in stock brand0 exact",
      "in stock brand0 broad",
      "best brand0 exact",
      "best brand0 broad",
    ]);
    // What is pooled is nothing that anybody searches for.
    const pooled = recordsOf(records, "adGroup").find(({ key }) => key.includes("~rest"))!;
    expect(texts(pooled.key)).toEqual([]);
    const one = planogram(change);
    const { warnings, aims } = previewPlan(one, planCatalogue(one, shop, {}), shop);
    expect(aims.total).toBe(recordsOf(records, "keyword").length);
    expect(warnings.map(({ text }) => text)).toContainEqual(expect.stringContaining("without a keyword"));
  });

  it("makes a campaign for each match type or reach where they stand apart, with names and keys of their own", () => {
    const apart = {
      apart: true,
      campaignName: [level(1), { kind: "text", text: " · " }, { kind: "field", field: "match" }],
    };
    const records = recordsFor({ kind: "keyword", keywords, ...apart });
    const campaigns = recordsOf(records, "campaign");
    expect(campaigns).toHaveLength(6);
    expect(new Set(campaigns.map(({ name }) => name)).size).toBe(6);
    expect(campaigns.filter(({ name }) => name.endsWith(" · broad"))).toHaveLength(3);
    expect(campaigns.reduce((sum, { dailyBudget }) => sum + dailyBudget, 0)).toBe(115_000);
    for (const { key, adGroup, match } of recordsOf(records, "keyword")) {
      expect(key).toContain(`/${match}/`);
      expect(adGroup.endsWith(`~${match}`)).toBe(true);
    }
    const reach = recordsFor({ kind: "discovery", reach: ["searches-alike", "pages-alike"], ...apart });
    for (const { adGroup, kind } of recordsOf(reach, "reach")) expect(adGroup.endsWith(`~${kind}`)).toBe(true);
    // A plan from before reaches had grounds and rings goes on with its campaigns.
    const old = recordsFor({ kind: "discovery", reach: ["searches-alike"], oldReachKeys: true, ...apart });
    for (const { key } of [...recordsOf(old, "campaign"), ...recordsOf(old, "adGroup")]) {
      expect(key.endsWith("~tight-terms")).toBe(true);
    }
    const names = recordsOf(reach, "campaign").map(({ name }) => name.split(" · ")[1]);
    expect(new Set(names)).toEqual(new Set(["searches, alike", "item pages, alike"]));
  });

  it("aims at the items' own pages, or at windows of their categories from a share of what they cost", () => {
    const page = (change: object) => ({ aim: "categories", dearerFrom: null, ratingTo: null, ...change });
    const own = recordsOf(recordsFor({ kind: "listing", pages: page({ aim: "own" }) }), "listingTarget");
    const ids = Array.from({ length: shop.length }, (_, row) => cellText(shop.columns["id"]!, row));
    expect(own.map(({ aim }) => (aim.by === "listing" ? aim.listing : "")).sort()).toEqual(ids.sort());
    const windows = recordsOf(recordsFor({ kind: "listing", pages: page({ ratingTo: 4 }) }), "listingTarget");
    expect(windows.length).toBeGreaterThan(0);
    for (const { aim } of windows) expect(aim).toMatchObject({ by: "category", ratingTo: 4, priceFrom: null });
    expect(categoriesOver(["A > B > C", "A > B > D"])).toEqual(["A > B"]);
    expect(categoriesOver(["A > B", "A > BC"])).toEqual(["A"]);
    expect(categoriesOver(["B > C", "A", "A > D", ""])).toEqual(["A", "B"]);
    const columns = { ...shop.columns, price: numberColumn(Array.from({ length: 24 }, (_, i) => i * 1000)) };
    // Of 0, 1, 2, 3 euros the nought is no price; the middle of the others is 2.
    const [dear] = pagesOf(
      { aim: "categories", dearerFrom: 1.5, ratingTo: null },
      { length: 24, columns },
      [0, 1, 2, 3],
    );
    expect(dear).toMatchObject({ what: "window", window: { priceFrom: 3000 } });
  });

  it("says what is missing", () => {
    const fault = (change: object) =>
      planogramSchema.safeParse({ ...planogram({}), ...change }).error?.issues[0]?.message;
    expect(fault({ kind: "keyword" })).toBe("Campaigns that aim at terms need patterns for their keywords.");
    expect(fault({ kind: "listing" })).toBe("Campaigns that aim at listings need to know whose pages.");
    expect(fault({ each: { "c:x": { bidding: "return" } } })).toBe(
      "A campaign that bids towards a return needs a goal.",
    );
  });
});

describe("settings of single campaigns", () => {
  it("stand over those of all, bids of ad groups over those of their campaign", () => {
    const [first, second] = recordsOf(recordsFor({}), "campaign");
    const groups = recordsOf(recordsFor({}), "adGroup");
    const each = {
      [first!.key]: { purpose: "rank", bidding: "return", goal: 4, startingBid: 450, serveOrder: 1 },
      [groups[1]!.key]: { startingBid: 120 },
      "c:gone": { purpose: "rank" },
    };
    const records = recordsFor({ each });
    const campaigns = recordsOf(records, "campaign");
    expect(campaigns[0]).toMatchObject({ purpose: "rank", bidding: "return", goal: 4, serveOrder: 1 });
    expect(campaigns[0]).not.toHaveProperty("startingBid");
    expect(campaigns[1]).toEqual(second);
    expect(recordsOf(records, "adGroup").map(({ bid }) => bid)).toEqual([450, 120, 300]);
    const one = planogram({ each });
    expect(previewPlan(one, planCatalogue(one, shop, {}), shop).warnings.map(({ text }) => text)).toContain(
      "Settings of 1 campaign or ad group that the plan no longer makes.",
    );
  });
});
