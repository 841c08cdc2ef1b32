import fc from "fast-check";
import { randomFrom } from "../kit/random";
import { describe, expect, it } from "vitest";
import { Account, type Structure } from "../account/account";
import type { Campaign } from "../account/records/campaign";
import { planAccount } from "./running-account";
import { firstState } from "./day-types";
import { attainable, truthOfAccount, upperHull } from "./judge";
import { itemCard, keywordCard, listingCard } from "./rate-card";
import { SLOTS } from "./slot-figures";
import { testCampaign, testShop } from "./test-shop";
import { buildWorld } from "./world";

const shop = testShop();
const world = buildWorld(shop, "w");
const DAY = 20_700;
const ALL = Array.from({ length: shop.length }, (_, i) => `I${i}`);

function truth(structure: Structure) {
  return truthOfAccount(world, planAccount(world, Account.fromStructure(structure), shop), DAY, DAY, firstState())
    .days[0]!;
}

describe("the attainable optimum", () => {
  it("is never beaten for the same money by any account of a wide random search", () => {
    const factor = fc.constantFrom(0, 0.5, 1, 1.7, 3);
    const campaign = fc.record({
      kind: fc.constantFrom<Campaign["kind"]>("feed", "asset", "keyword", "listing", "discovery"),
      items: fc.subarray(ALL, { minLength: 1 }),
      bid: fc.constantFrom(60, 150, 300, 600, 1200, 3000),
      bidding: fc.constantFrom<Campaign["bidding"]>("fixed", "clicks"),
      serveOrder: fc.integer({ min: 1, max: 3 }),
      dailyBudget: fc.constantFrom(500, 3_000, 20_000, 50_000_000),
      slots: fc.record({ "lead-row": factor, "lower-results": factor, "item-pages": factor, "partner-media": factor }),
      hours: fc.option(fc.array(factor, { minLength: 24, maxLength: 24 }), { nil: undefined }),
      flex: fc.constantFrom<NonNullable<Campaign["flex"]>>(
        { mode: "hold", limit: 0 },
        { mode: "ease", limit: 0 },
        { mode: "stretch", limit: 1 },
      ),
    });
    let best = 0;
    fc.assert(
      fc.property(fc.array(campaign, { minLength: 1, maxLength: 3 }), (list) => {
        const structure: Structure = {};
        list.forEach(({ kind, items, bid, hours, ...more }, i) => {
          const targets =
            kind === "keyword"
              ? [
                  { type: "keyword", text: "hose", match: "broad" },
                  { type: "keyword", text: "oak rakes", match: "phrase", bid: bid * 2 },
                ]
              : kind === "listing"
                ? [{ type: "listingTarget", aim: { by: "category", category: "Garden" } }]
                : kind === "discovery"
                  ? [
                      { type: "reach", kind: "tight-terms" },
                      { type: "reach", kind: "rival-pages", bid: bid * 2 },
                    ]
                  : [];
          Object.assign(
            structure,
            testCampaign(`c${i}`, { kind, ...more, ...(hours ? { hours } : {}) }, items, bid, targets),
          );
        });
        const { cost, revenue } = truth(structure);
        if (cost === 0) return;
        const optimum = attainable(world, DAY, cost);
        expect(optimum.cost).toBeLessThanOrEqual(cost + 1e-6);
        expect(revenue).toBeLessThanOrEqual(optimum.revenue * 1.0001);
        best = Math.max(best, revenue / optimum.revenue);
      }),
      { numRuns: 80 },
    );
    // The search does come near it, so the bound is no empty one.
    expect(best).toBeGreaterThan(0.4);
  });

  it("grows with the money, ever more slowly, and ends where nothing more can be bought", () => {
    const money = [1, 2, 4, 8, 16, 32].map((factor) => factor * 200);
    const worth = money.map((amount) => attainable(world, DAY, amount).revenue);
    for (let i = 1; i < worth.length; i++) {
      expect(worth[i]).toBeGreaterThan(worth[i - 1]!);
      if (i > 1) {
        const slope = (at: number) => (worth[at]! - worth[at - 1]!) / (money[at]! - money[at - 1]!);
        expect(slope(i)).toBeLessThanOrEqual(slope(i - 1) + 1e-9);
      }
    }
    const all = attainable(world, DAY, 1e12);
    expect(attainable(world, DAY, 2e12)).toEqual(all);
    expect(attainable(world, DAY, 0)).toEqual({ cost: 0, revenue: 0 });
  });

  it("is built on hulls that hold every point below them", () => {
    const point = fc.record({ cost: fc.integer({ min: 0, max: 100 }), revenue: fc.integer({ min: 0, max: 100 }) });
    fc.assert(
      fc.property(fc.array(point, { maxLength: 20 }), (points) => {
        const hull = upperHull(points);
        hull.forEach((piece, i) => i > 0 && expect(piece.slope).toBeLessThan(hull[i - 1]!.slope));
        for (const { cost, revenue } of points) {
          if (cost === 0) continue;
          let [spent, worth] = [0, 0];
          for (const piece of hull) {
            const take = Math.min(piece.cost, cost - spent);
            spent += take;
            worth += take * piece.slope;
          }
          expect(worth).toBeGreaterThanOrEqual(revenue - 1e-9);
        }
      }),
    );
  });
});

describe("the rate card", () => {
  it("goes from low to high, and a bid at it wins as often as it says", () => {
    for (let row = 0; row < shop.length; row++) {
      const card = itemCard(world, row)!;
      expect(card.low).toBeLessThanOrEqual(card.typical);
      expect(card.typical).toBeLessThan(card.high);
      expect(card.monthlyViews).toBeGreaterThan(0);
    }
    const page = world.surfaces.find(({ kind }) => kind === "rival-page")!;
    const card = listingCard(world, page.label)!;
    const mean = page.rivalMean + SLOTS[2]!.hardness;
    // Auctions played one by one: at the typical bid half are won, and a click costs what the second had bid on average.
    const random = randomFrom("auctions");
    const weight = 0.9;
    const score = Math.exp(mean);
    const auctions = 200_000;
    let won = 0;
    let paid = 0;
    for (let i = 0; i < auctions; i++) {
      const normal = Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
      const rival = Math.exp(mean + page.rivalSpread * normal);
      if (rival >= score) continue;
      won++;
      paid += rival / weight;
    }
    expect(won / auctions).toBeCloseTo(0.5, 2);
    expect(Math.abs(card.typical / (paid / won) - 1)).toBeLessThan(0.01);
    expect(card.monthlyViews).toBe(Math.round(page.volume * 30));
  });

  it("of a keyword covers what it matches: broad the most, and nothing that nobody searches", () => {
    const [exact, broad] = [keywordCard(world, "hose", "exact")!, keywordCard(world, "hose", "broad")!];
    expect(broad.monthlyViews).toBeGreaterThan(exact.monthlyViews);
    expect(exact.places).toBe(1);
    expect(keywordCard(world, "zeppelin", "broad")).toBeNull();
    expect(listingCard(world, "no such listing")).toBeNull();
  });
});
