import { describe, expect, it } from "vitest";
import { noSums } from "@/core/kit/metrics";
import { mills } from "@/core/kit/money";
import { planogramSchema } from "@/core/planogram/planogram";
import type { AccountLine } from "@/server/planogram/workbench";
import type { SplitField } from "@/server/planogram/planograms";
import { newPlanogram } from "./new-planogram";

const field = (by: string, distinct: number, label = by): SplitField => ({
  by,
  label,
  filled: 100,
  distinct,
  total: 100,
});

const line = (change: Partial<AccountLine>): AccountLine => ({
  key: "c:a",
  level: "campaign",
  parent: null,
  name: "A",
  status: "on",
  items: 10,
  dailyBudget: 40_000,
  bid: null,
  kind: "feed",
  purpose: "scale",
  bidding: "fixed",
  serveOrder: 3,
  ...{ goal: null, inStockOnly: true, startsOn: null, endsOn: null },
  slots: null,
  hours: null,
  flex: null,
  pool: null,
  folder: null,
  country: null,
  clash: null,
  pausedFor: "",
  reviewOn: null,
  leaks: 0,
  waiting: null,
  off: null,
  past: null,
  sums: noSums(),
  heat: null,
  ...change,
});

const FIELDS = [
  field("shelf:return-tiers", 6, "Shelf set: Return tiers"),
  field("category1", 8, "Category, level 1"),
  field("category2", 30),
  field("brand", 9),
  field("id", 100),
];

describe("a planogram to begin with", () => {
  it("splits by the top category, then the next, and is always valid", () => {
    const plan = newPlanogram(FIELDS, [], 3, [], "");
    expect(plan.ladder.map(({ by }) => by)).toEqual(["category1", "category2"]);
    expect([plan.campaignLine, plan.adGroupLine, plan.name, plan.shareBy]).toEqual([1, 2, "By category", "items"]);
    expect(planogramSchema.safeParse(plan).success).toBe(true);
  });

  it("passes over a level that all items share, and goes by brand where there are no categories", () => {
    const flat = newPlanogram([field("category1", 1), field("category2", 5), field("brand", 4)], [], 3, [], "");
    expect(flat.ladder.map(({ by }) => by)).toEqual(["category2", "brand"]);
    const brands = newPlanogram([field("brand", 4), field("id", 9)], [], 3, [], "");
    expect(brands.ladder.map(({ by }) => by)).toEqual(["brand"]);
    expect(planogramSchema.safeParse(brands).success).toBe(true);
    // An ad group that is all of its campaign follows it.
    expect(brands.adGroupName).toEqual([{ kind: "field", field: "campaign" }]);
  });

  it("begins with the field asked for", () => {
    const plan = newPlanogram(FIELDS, [], 3, [], "shelf:return-tiers");
    expect(plan.ladder.map(({ by }) => by)).toEqual(["shelf:return-tiers", "category1"]);
    expect(plan.name).toBe("By return tiers");
  });

  it("takes budget and bid from what runs, which it takes the place of", () => {
    const account = [
      line({ sums: { ...noSums(), cost: mills(5) } }),
      line({ key: "c:b", dailyBudget: 10_000 }),
      line({ key: "c:old", status: "paused", dailyBudget: 99_000 }),
      // Campaigns that aim at terms go on beside it.
      line({ key: "c:words", kind: "keyword", dailyBudget: 7_000 }),
      line({ key: "g:a", level: "adGroup", dailyBudget: null, bid: 520 }),
    ];
    const plan = newPlanogram(FIELDS, account, 3, ["structure", "structure-2"], "");
    expect([plan.totalBudget, plan.startingBid, plan.shareBy, plan.key]).toEqual([
      50_000,
      520,
      "revenue",
      "structure-3",
    ]);
    expect(plan.replaces).toEqual(["c:a", "c:b"]);
  });
});
