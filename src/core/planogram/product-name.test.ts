import { describe, expect, it } from "vitest";
import { textColumn } from "../kit/columns";
import { keywordsOf } from "./kinds/keywords";
import { namesByLevels, usualNames } from "./names";
import { planCatalogue } from "./plan";
import { plannedCampaigns } from "./planned-campaigns";
import { field } from "../parts/part";
import { planogramSchema } from "./planogram";
import { productName } from "./product-name";

const ITEMS: [family: string, title: string][] = [
  ["F1", "Thornlea garden hose, 20 m"],
  ["F1", "Thornlea Garden Hose 30 m"],
  ["F1", "Thornlea garden hose – reinforced"],
  ["F2", "Gloves for children, size 4"],
  ["F2", "Gloves for adults"],
  ["F3", "Rake"],
  ["F3", "Spade"],
  ["", "A lamp without a family whose title goes on and on until nobody reads it any more"],
];
const catalogue = {
  length: ITEMS.length,
  columns: {
    id: textColumn(ITEMS.map((_, i) => `Q${i}`)),
    family: textColumn(ITEMS.map(([family]) => family)),
    title: textColumn(ITEMS.map(([, title]) => title)),
  },
};
const ladder = [{ by: "family", largest: null }];
const planogram = planogramSchema.parse({
  ...{ key: "p", name: "Families", ladder, campaignLine: 1, adGroupLine: 1, inStockOnly: false, goal: null },
  ...{ ...usualNames(1, 1, ladder), purpose: "scale", bidding: "fixed", totalBudget: 100_000, shareBy: "evenly" },
  ...{ startingBid: 300, serveOrder: 3, replaces: [] },
});
const plan = planCatalogue(planogram, catalogue);

describe("a product's name", () => {
  it("is how the titles of a family begin alike, without what then hangs in the air", () => {
    expect([0, 1, 2].map((node) => productName(plan, node))).toEqual(["Thornlea garden hose", "Gloves", ""]);
    expect(productName(plan, -1)).toBe("");
  });

  it("of one item is its title, cut at a word", () => {
    expect(productName(plan, 3)).toBe("A lamp without a family whose title goes on and on until");
    const single = planCatalogue({ ...planogram, ladder: [{ by: "id", largest: null }] }, catalogue);
    expect(productName(single, 1)).toBe("Thornlea Garden Hose 30 m");
  });

  it("says nothing where the plan has no titles", () => {
    const { title: _, ...columns } = catalogue.columns;
    expect(productName(planCatalogue(planogram, { length: ITEMS.length, columns }), 0)).toBe("");
  });

  it("stands in the usual name in place of a family's or an item's code, and the code where titles have nothing alike", () => {
    expect(namesByLevels(0, 2, [{ by: "category1" }, { by: "family" }])).toEqual([
      { kind: "field", field: "level-1" },
      { kind: "text", text: " · " },
      { kind: "field", field: "product" },
    ]);
    expect(namesByLevels(0, 2, [{ by: "family" }, { by: "id" }])).toEqual([{ kind: "field", field: "product" }]);
    const { campaigns } = plannedCampaigns(planogram, plan);
    expect(campaigns.map(({ name }) => name)).toEqual([
      "Thornlea garden hose",
      "Gloves",
      "F3",
      "A lamp without a family whose title goes on and on until",
    ]);
    expect(campaigns.every(({ name, adGroups }) => adGroups[0]!.name === name)).toBe(true);
  });

  it("is a keyword where people would search for it, and none where it says nothing", () => {
    const keywords = { patterns: [[field("product")]], matches: ["exact" as const] };
    expect(keywordsOf(plan, 0, keywords)).toEqual({ texts: ["thornlea garden hose"], empty: 0, unfit: 0 });
    expect(keywordsOf(plan, 2, keywords)).toEqual({ texts: [], empty: 1, unfit: 0 });
  });
});
