import fc from "fast-check";
import { randomFrom } from "../kit/random";
import { describe, expect, it } from "vitest";
import { Account, type Structure } from "../account/account";
import type { Campaign } from "../account/records/campaign";
import { planAccount } from "./running-account";
import { firstState } from "./day-types";
import { bestContribution } from "./best-contribution";
import { bestFound } from "./best-found";
import { upperHull } from "./hull";
import { contributionOf, daysWithoutAds, truthOfAccount } from "./judge";
import { natureOf } from "./nature";
import { UpperBound } from "./upper-bound";
import { warmState } from "./warm-state";
import { QueryIndex } from "../channel/matching";
import { RateBook } from "../channel/rate-card";
import { clickPrice } from "./auction";
import { toldItem, toldPlaces } from "./told-places";
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

const bound = new UpperBound(world);
const margins = Float64Array.from({ length: shop.length }, (_, row) => 0.2 + 0.02 * (row % 20));

/** Accounts of every kind of campaign: items of other categories under keywords and listings, dayparts, pools of money. */
const factor = fc.constantFrom(0, 0.5, 1, 1.7, 3);
const campaigns = fc.array(
  fc.record({
    kind: fc.constantFrom<Campaign["kind"]>("feed", "asset", "keyword", "listing", "discovery"),
    items: fc.oneof(fc.subarray(ALL, { minLength: 1 }), fc.subarray(ALL, { minLength: 1, maxLength: 2 })),
    bid: fc.constantFrom(30, 60, 150, 300, 600, 1200, 3000),
    bidding: fc.constantFrom<Campaign["bidding"]>("fixed", "clicks"),
    serveOrder: fc.integer({ min: 1, max: 3 }),
    dailyBudget: fc.constantFrom(500, 3_000, 20_000, 50_000_000),
    slots: fc.record({ "lead-row": factor, "lower-results": factor, "item-pages": factor, "partner-media": factor }),
    hours: fc.option(fc.array(factor, { minLength: 24, maxLength: 24 }), { nil: undefined }),
    flex: fc.constantFrom<NonNullable<Campaign["flex"]>>(
      { below: 0, above: 0 },
      { below: 0.6, above: 0 },
      { below: 0.6, above: 1 },
    ),
  }),
  { minLength: 1, maxLength: 3 },
);
type Drafts = typeof campaigns extends fc.Arbitrary<infer List> ? List : never;

function structureOf(list: Drafts): Structure {
  const structure: Structure = {};
  list.forEach(({ kind, items, bid, hours, ...more }, i) => {
    const targets =
      kind === "keyword"
        ? [
            { type: "keyword", text: "hose", match: "broad" },
            { type: "keyword", text: "oak rakes", match: "phrase", bid: bid * 2 },
            { type: "keyword", text: "buy hose", match: "exact", bid: bid * 3 },
          ]
        : kind === "listing"
          ? [{ type: "listingTarget", aim: { by: "category", category: "Garden" } }]
          : kind === "discovery"
            ? [
                { type: "reach", kind: "searches-alike" },
                { type: "reach", kind: "pages-alike", bid: bid * 2 },
              ]
            : [];
    Object.assign(
      structure,
      testCampaign(`c${i}`, { kind, ...more, ...(hours ? { hours } : {}) }, items, bid, targets),
    );
  });
  return structure;
}

describe("the upper bound", () => {
  it("is passed by no account of a wide random search, in sales, in contribution, on a day or over three", () => {
    const without = daysWithoutAds(world, shop, DAY, DAY + 2);
    let best = 0;
    fc.assert(
      fc.property(campaigns, (list) => {
        const account = planAccount(world, Account.fromStructure(structureOf(list)), shop);
        const { days } = truthOfAccount(world, account, DAY, DAY + 2, firstState());
        const sum = (key: "cost" | "revenue") => days.reduce((total, day) => total + day[key], 0);
        if (sum("cost") === 0) return;
        expect(days[0]!.revenue).toBeLessThanOrEqual(bound.sales(DAY, DAY, days[0]!.cost));
        const most = bound.sales(DAY, DAY + 2, sum("cost"));
        expect(sum("revenue")).toBeLessThanOrEqual(most);
        const gained = contributionOf(world, days, without, margins);
        expect(gained).toBeLessThanOrEqual(boundOfAdded.contribution(DAY, DAY + 2, sum("cost")));
        best = Math.max(best, sum("revenue") / most);
      }),
      { numRuns: 60 },
    );
    // The search does come near it, so the bound is no empty one.
    expect(best).toBeGreaterThan(0.25);
  });

  const boundOfAdded = new UpperBound(world, { margins });

  it("grows with the money, ever more slowly, and counts money moved between days", () => {
    const money = [1, 2, 4, 8, 16, 32].map((times) => times * 200);
    const worth = money.map((amount) => bound.sales(DAY, DAY, amount));
    for (let i = 1; i < worth.length; i++) {
      expect(worth[i]).toBeGreaterThan(worth[i - 1]!);
      if (i < 2) continue;
      const slope = (at: number) => (worth[at]! - worth[at - 1]!) / (money[at]! - money[at - 1]!);
      expect(slope(i)).toBeLessThanOrEqual(slope(i - 1) * 1.02);
    }
    // Over two days the same money brings at least what an even share of it does day by day.
    const apart = bound.sales(DAY, DAY, 2_000) + bound.sales(DAY + 1, DAY + 1, 2_000);
    expect(bound.sales(DAY, DAY + 1, 4_000)).toBeGreaterThanOrEqual(apart * 0.995);
    // Nothing more can be bought at some point.
    expect(bound.sales(DAY, DAY, 1e12)).toBeCloseTo(bound.sales(DAY, DAY, 2e12), 3);
  });

  it("lies above a slow search of one place: every single item at every bid", () => {
    // One item of one category alone: the account is that item, so the bound over all is far above each try.
    for (const bid of [40, 90, 200, 450, 1000, 2500]) {
      const { cost, revenue } = truth(testCampaign("one", {}, ["I3"], bid));
      if (cost > 0) expect(revenue).toBeLessThanOrEqual(bound.sales(DAY, DAY, cost));
    }
  });
});

describe("the upper bound in worlds of other natures", () => {
  // Every law at its widest in one of them or another: answers, wars, swings, halo, returns, exact keywords that gain much.
  const natures = ["a", "b", "c", "d"].map((seed) => natureOf(`bound ${seed}`));
  const worlds = natures.map((nature, i) => buildWorld(shop, `w${i}`, undefined, nature));
  const bounds = worlds.map((one) => ({ sales: new UpperBound(one), added: new UpperBound(one, { margins }) }));
  const without = worlds.map((one) => daysWithoutAds(one, shop, DAY, DAY + 1));

  it("is passed by no account either", () => {
    fc.assert(
      fc.property(campaigns, fc.nat({ max: worlds.length - 1 }), (list, at) => {
        const account = planAccount(worlds[at]!, Account.fromStructure(structureOf(list)), shop);
        const { days } = truthOfAccount(worlds[at]!, account, DAY, DAY + 1, firstState());
        const sum = (key: "cost" | "revenue") => days.reduce((total, day) => total + day[key], 0);
        if (sum("cost") === 0) return;
        expect(sum("revenue")).toBeLessThanOrEqual(bounds[at]!.sales.sales(DAY, DAY + 1, sum("cost")));
        const gained = contributionOf(worlds[at]!, days, without[at]!, margins);
        expect(gained).toBeLessThanOrEqual(bounds[at]!.added.contribution(DAY, DAY + 1, sum("cost")));
      }),
      { numRuns: 60 },
    );
  });

  it("lies above the most that a search for contribution found, which adds more than plain accounts do", () => {
    worlds.slice(0, 2).forEach((one, at) => {
      const found = bestContribution(one, shop, margins, DAY, DAY);
      expect(found.contribution).toBeLessThanOrEqual(bounds[at]!.added.contribution(DAY, DAY, 1e12));
      for (const bid of [60, 150, 400]) {
        const account = planAccount(one, Account.fromStructure(testCampaign("plain", {}, ALL, bid)), shop);
        const { days } = truthOfAccount(one, account, DAY, DAY, warmState(one, account, DAY));
        expect(found.contribution).toBeGreaterThan(contributionOf(one, days, without[at]!, margins));
      }
      // Within some money it adds no more, and spends no more.
      const dayCap = Math.round(found.days[0]!.cost / 3);
      const tight = bestContribution(one, shop, margins, DAY, DAY, dayCap);
      expect(tight.days[0]!.cost).toBeLessThanOrEqual(dayCap * (1 + 1e-9));
      expect(tight.contribution).toBeLessThanOrEqual(found.contribution * 1.02);
    });
  });
});

describe("the best account found", () => {
  it("spends no more than the money, sells more than plain accounts do for it, and stays below the bound", () => {
    const plain = [150, 400, 900].map((bid) => truth(testCampaign("plain", {}, ALL, bid)));
    for (const { cost, revenue } of plain) {
      const found = bestFound(world, shop, DAY, DAY, cost);
      const [spent, sold] = [found[0]!.cost, found[0]!.revenue];
      expect(spent).toBeLessThanOrEqual(cost);
      expect(sold).toBeGreaterThan(0.98 * revenue);
      expect(sold).toBeLessThanOrEqual(bound.sales(DAY, DAY, spent));
    }
  });
});

describe("contribution", () => {
  it("counts what ads added to the shop's sales: little where people would have bought anyway", () => {
    const without = daysWithoutAds(world, shop, DAY, DAY);
    const all = new Float64Array(shop.length).fill(1);
    const run = (structure: Structure) => {
      const account = planAccount(world, Account.fromStructure(structure), shop);
      const { days } = truthOfAccount(world, account, DAY, DAY, firstState());
      return { days, share: (days[0]!.storeRevenue - without[0]!.storeRevenue) / days[0]!.revenue };
    };
    const term = world.surfaces.find(({ queryClass }) => queryClass === "own-brand")!.label;
    const keyword = (text: string) => [{ type: "keyword", text, match: "exact" }];
    const brand = run(testCampaign("brand", { kind: "keyword" }, ALL, 300, keyword(term)));
    const broad = world.surfaces.find(({ queryClass }) => queryClass === "broad")!.label;
    const plain = run(testCampaign("plain", { kind: "keyword" }, ALL, 300, keyword(broad)));
    // 55 % of what ads on our own brand sell would have come anyway; both lift other sales by 8 %.
    expect(brand.share).toBeGreaterThan(0.5);
    expect(brand.share).toBeLessThan(0.65);
    expect(plain.share).toBeGreaterThan(0.9);
    const { days } = plain;
    const added = plain.share * days[0]!.revenue;
    expect(contributionOf(world, days, without, all)).toBeCloseTo(added - days[0]!.cost, 3);
    const none = new Float64Array(shop.length).fill(NaN);
    expect(contributionOf(world, days, without, none)).toBe(0);
    // An item whose margin nobody knows counts neither with its sales nor with what clicks on it cost.
    const half = all.map((margin, row) => (row % 4 < 2 ? margin : NaN));
    const other = all.map((margin, row) => (row % 4 < 2 ? NaN : margin));
    const parts = [half, other].map((some) => contributionOf(world, days, without, some));
    expect(parts[0]! + parts[1]!).toBeCloseTo(added - days[0]!.cost, 6);
    expect(Math.min(...parts.map(Math.abs))).toBeGreaterThan(0);
  });
});

describe("hulls", () => {
  it("hold every point below them", () => {
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

describe("what the market tells of prices", () => {
  const book = new RateBook([...toldPlaces(world)]);

  it("goes from low to high, and a bid at it wins as often as it says", () => {
    for (let row = 0; row < shop.length; row++) {
      const card = toldItem(world, row, `I${row}`);
      expect(card.low!).toBeLessThanOrEqual(card.typical!);
      expect(card.typical!).toBeLessThan(card.high!);
      expect(card.monthlyViews).toBeGreaterThan(0);
    }
    const page = world.surfaces.find(({ kind }) => kind === "rival-page")!;
    const card = book.listing(page.label)!;
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
    const [exact, broad] = [book.keyword("hose", "exact")!, book.keyword("hose", "broad")!];
    expect(broad.monthlyViews!).toBeGreaterThan(exact.monthlyViews!);
    expect(exact.places).toBe(1);
    expect(book.keyword("zeppelin", "broad")).toBeNull();
    expect(book.listing("no such listing")).toBeNull();
  });

  it("of a keyword comes as near to the price of an ad that fits as close as its match type says", () => {
    const weights = { exact: 1.1, phrase: 1, broad: 0.9 } as const;
    for (const match of ["exact", "phrase", "broad"] as const) {
      const surfaces = world.surfaces.filter(({ kind, label }) => kind === "query" && book.keyword(label, match));
      for (const { label } of surfaces.slice(0, 20)) {
        // Worked out place by place with the weight in the auction, as the market charges it.
        const index = new QueryIndex(world.surfaces.filter(({ kind }) => kind === "query"));
        const found = index.find(label, match).map((id) => world.surfaces[id]!);
        let [sum, views] = [0, 0];
        for (const { rivalMean, rivalSpread, volume } of found) {
          const mean = rivalMean + SLOTS[1]!.hardness;
          const bid = Math.ceil(Math.exp(mean) / weights[match]);
          sum += volume * clickPrice(bid, weights[match], mean, rivalSpread);
          views += volume;
        }
        expect(Math.abs(book.keyword(label, match)!.typical - sum / views)).toBeLessThan(2);
      }
    }
  });
});
