import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { placeSchema } from "../channel/place";
import { budgetsOf, isDear, planKit, standsWell, type KitGround, type LaunchedItem } from "./launch-kit";

const query = (name: string, monthlyViews: number) => placeSchema.parse({ kind: "query", name, monthlyViews });
const rival = (name: string, price: number | null, rating: number | null, monthlyViews: number) =>
  placeSchema.parse({ kind: "listing", role: "rival", name, price, rating, monthlyViews });

const HOSE: LaunchedItem = {
  ...{ id: "A1", title: "Thornlea Long Garden Hose 25 m", brand: "Thornlea", category: "Watering > Hoses" },
  ...{ price: 40_000, rating: 4.4, reviews: 12 },
};
const ground = (more: Partial<KitGround> = {}): KitGround => ({
  ...{ items: [HOSE], family: ["A1", "A2"], otherBrands: new Set(["veldine"]), middlePrice: 38_000, mostKeywords: 2 },
  bargainWords: ["cheap", "second hand"],
  places: [
    query("garden hose", 900),
    query("long hose", 500),
    query("hoses", 2_000),
    query("cheap garden hose", 3_000),
    query("veldine hose", 800),
    query("thornlea hose", 300),
    query("garden hose reel", 700),
    rival("worse and dearer", 60_000, 3.9, 100),
    rival("better and cheaper", 20_000, 4.9, 900),
    rival("same", 40_000, 4.4, 500),
    rival("nothing known", null, null, 999),
  ],
  ...more,
});
const aims = (more?: Partial<KitGround>) => {
  const parts = planKit(ground(more), "rank");
  const of = (part: string) =>
    parts
      .filter((one) => one.part === part)
      .flatMap(({ aims: all }) =>
        all.map((aim) =>
          aim.what === "keyword" ? `${aim.text} ${aim.match}` : aim.what === "listing" ? aim.listing : aim.reach,
        ),
      );
  return { parts, of };
};

describe("a launch kit", () => {
  it("takes searches whose words the item has, by views, without bargains and others' brands; its own brand apart", () => {
    const { of } = aims();
    expect(of("keywords")).toEqual(["hoses exact", "hoses phrase", "garden hose exact", "garden hose phrase"]);
    expect(of("brand")).toEqual(["thornlea hose exact"]);
    expect(of("defence")).toEqual(["A1", "A2"]);
    expect(of("discovery")).toEqual(["searches-alike", "pages-alike"]);
  });

  it("fights where the item stands well: by price and stars as far as both are known", () => {
    expect(aims().of("rivals")).toEqual(["same", "worse and dearer"]);
    const of = (price: number | null, rating: number | null, theirs: [number | null, number | null]) =>
      standsWell({ price, rating }, { price: theirs[0], rating: theirs[1] });
    expect([
      of(89, 4, [100, 4.5]),
      of(89, 4, [100, 4.7]),
      of(115, 4.5, [100, 4]),
      of(125, 4.5, [100, 4]),
      of(100, null, [100, 5]),
      of(101, null, [100, null]),
      of(null, null, [100, 5]),
    ]).toEqual([true, false, true, false, true, false, false]);
  });

  it("keeps bargain hunters from what is dear, and from nothing else", () => {
    expect([isDear(ground()), isDear(ground({ middlePrice: 32_000 })), isDear(ground({ middlePrice: null }))]).toEqual([
      ...[false, true, false],
    ]);
    const negatives = (middlePrice: number) =>
      aims({ middlePrice }).parts.flatMap((one) => one.negatives.map((word) => `${one.part}: ${word}`));
    expect(negatives(38_000)).toEqual([]);
    expect(new Set(negatives(32_000))).toEqual(
      new Set(["discovery: cheap", "discovery: second hand", "keywords: cheap", "keywords: second hand"]),
    );
  });

  it("says what nothing can be made of, and why", () => {
    const nothing = aims({ places: [], family: [] }).parts.flatMap(({ part, nothing: why }) => (why ? [part] : []));
    expect(nothing).toEqual(["keywords", "rivals", "defence", "brand"]);
  });

  it("shares its money out to the last mill, none of it below what a channel takes where that is enough", () => {
    const { parts } = aims();
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 100_000 }), (total) => {
        const budgets = budgetsOf(parts, total, 500);
        expect(budgets.reduce((sum, budget) => sum + budget, 0)).toBe(total);
        if (total >= 500 * parts.length) expect(Math.min(...budgets)).toBeGreaterThanOrEqual(500);
      }),
    );
  });
});
