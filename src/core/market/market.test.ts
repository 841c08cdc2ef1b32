import fc from "fast-check";
import { binomial, randomFrom } from "../kit/random";
import type { DrawnFact } from "./draw";
import { keepWithinPurses, type Purses } from "./purses";
import { describe, expect, it } from "vitest";
import { numberColumn, textColumn, type Columns } from "../kit/columns";
import { Account, type Structure } from "../account/account";
import type { Campaign } from "../account/records/campaign";
import { planAccount } from "./running-account";
import { clickPrice, expectedSecondScore, winChance } from "./auction";
import { simulateDay } from "./day";
import { firstState, type DayResult } from "./day-types";
import { buyingByHour, hourAtShare, HOUR_SHARE, hoursBetween } from "./hours";
import { natureOf } from "./nature";
import { learn, learnedBid, nothingLearned } from "./learning";
import { testShop } from "./test-shop";
import { buildWorld } from "./world";

const ITEMS = 24;
const DAY = 20_700;

const catalogue = (soldOut: number[] = []) => testShop(ITEMS, soldOut);

const world = buildWorld(catalogue(), "w");

interface Plan {
  bids: number[];
  budget: number;
  serveOrder: number;
  bidding?: Campaign["bidding"];
}

/** An account of campaigns that each bid on every item, item by item. */
function account(plans: Plan[]): Structure {
  const structure: Structure = {};
  plans.forEach(({ bids, budget, serveOrder, bidding = "fixed" }, c) => {
    const key = `c${c}`;
    structure[key] = {
      type: "campaign",
      key,
      name: key,
      kind: "feed",
      purpose: "scale",
      bidding,
      goal: bidding === "return" ? 3 : null,
      dailyBudget: budget,
      status: "on",
      serveOrder,
      inStockOnly: false,
      origin: null,
    };
    structure[`g${c}`] = { type: "adGroup", key: `g${c}`, campaign: key, name: key, status: "on", bid: 0 };
    structure[`p${c}`] = {
      type: "productGroup",
      key: `p${c}`,
      adGroup: `g${c}`,
      parent: null,
      role: "split",
      value: null,
      by: "id",
      status: "on",
      bid: null,
    };
    bids.forEach((bid, i) => {
      const unit = `p${c}/${i}`;
      structure[unit] = {
        type: "productGroup",
        key: unit,
        adGroup: `g${c}`,
        parent: `p${c}`,
        role: "unit",
        value: `I${i}`,
        by: null,
        status: "on",
        bid,
      };
    });
  });
  return structure;
}

function run(plans: Plan[], noise = true, seed = "s", day = DAY): DayResult {
  return simulateDay(world, planAccount(world, Account.fromStructure(account(plans)), catalogue()), day, firstState(), {
    noise,
    seed,
  });
}

const bid = fc.constantFrom(0, 50, 200, 400, 900);
const plan = fc.record({
  bids: fc.array(bid, { minLength: ITEMS, maxLength: ITEMS }),
  budget: fc.constantFrom(0, 500, 3_000, 20_000, 10_000_000),
  serveOrder: fc.integer({ min: 1, max: 3 }),
  bidding: fc.constantFrom<Campaign["bidding"]>("fixed", "return"),
});
const plans = fc.array(plan, { minLength: 1, maxLength: 4 });
const sum = (
  result: DayResult,
  key: "impressions" | "clicks" | "cost" | "orders" | "revenue",
  of = (_: DayResult["facts"][number]) => true,
) => result.facts.filter(of).reduce((total, fact) => total + fact[key], 0);

describe("the market's invariants", () => {
  it("hold for random accounts", () => {
    fc.assert(
      fc.property(plans, fc.string({ maxLength: 4 }), fc.integer({ min: 0, max: 400 }), (list, seed, offset) => {
        const result = run(list, true, seed, DAY + offset);
        expect(run(list, true, seed, DAY + offset)).toEqual(result);
        const given = account(list);
        for (const fact of result.facts) {
          expect(fact.clicks).toBeLessThanOrEqual(fact.impressions);
          expect(fact.orders).toBeLessThanOrEqual(fact.clicks);
          expect(fact.units).toBeGreaterThanOrEqual(fact.orders);
          const campaign = given[fact.campaign] as Campaign;
          const group = given[fact.target]!;
          const top = group.type === "productGroup" ? (group.bid ?? 0) : 0;
          // A return goal may bid up to four times its start.
          expect(fact.cost).toBeLessThanOrEqual(fact.clicks * top * (campaign.bidding === "return" ? 4 : 1) + 1e-6);
          for (const key of ["impressions", "clicks", "cost", "orders", "units", "revenue"] as const) {
            expect(Number.isInteger(fact[key]) && fact[key] >= 0).toBe(true);
          }
        }
        for (const day of result.campaigns) {
          // Nothing is carried over into a first day.
          expect(day.cost).toBeLessThanOrEqual(day.budget);
          expect(day.cost).toBe(sum(result, "cost", (fact) => fact.campaign === day.campaign));
        }
        // An order can be of another item of the category than the one clicked: the shop of two sells all that ads sold.
        for (const half of [0, 1]) {
          const store = result.store.filter(({ itemNo }) => itemNo % 2 === half);
          const sold = store.reduce((total, { orders }) => total + orders, 0);
          expect(sold).toBeGreaterThanOrEqual(sum(result, "orders", (fact) => fact.itemNo % 2 === half));
        }
        const partner = sum(result, "impressions", (fact) => fact.slot === 3);
        expect(result.placements.reduce((total, line) => total + line.impressions, 0)).toBe(partner);
        const hourly = (key: "clicks" | "cost" | "orders" | "revenue" | "impressions") =>
          result.hours.reduce((total, line) => total + line[key], 0);
        for (const key of ["impressions", "clicks", "cost", "orders", "revenue"] as const) {
          expect(hourly(key)).toBeCloseTo(sum(result, key), 3);
        }
        for (const order of result.state.late) {
          expect(order.day).toBe(DAY + offset);
          expect(order.due).toBeGreaterThan(order.day);
          expect(order.units).toBeGreaterThanOrEqual(order.orders);
        }
        const keys = result.facts.map((f) => [f.campaign, f.adGroup, f.itemNo, f.target, f.term, f.slot].join("|"));
        expect(new Set(keys).size).toBe(keys.length);
      }),
      { numRuns: 40 },
    );
  });

  it("spend nothing with every bid zero", () => {
    const result = run([{ bids: new Array<number>(ITEMS).fill(0), budget: 10_000_000, serveOrder: 1 }], false);
    expect(result.facts).toEqual([]);
    // The shop goes on selling without ads.
    expect(result.store).toHaveLength(ITEMS);
  });

  it("never give a higher bid fewer impressions, all else equal", () => {
    const rich = fc.array(fc.constantFrom(100, 300, 600), { minLength: ITEMS, maxLength: ITEMS });
    fc.assert(
      fc.property(rich, fc.integer({ min: 0, max: ITEMS - 1 }), fc.integer({ min: 1, max: 500 }), (bids, at, more) => {
        const raised = bids.map((value, i) => (i === at ? value + more : value));
        const mine = (fact: { itemNo: number }) => fact.itemNo === at + 1;
        const before = run([{ bids, budget: 1e9, serveOrder: 1 }], false);
        const after = run([{ bids: raised, budget: 1e9, serveOrder: 1 }], false);
        expect(sum(after, "impressions", mine)).toBeGreaterThanOrEqual(sum(before, "impressions", mine) - 1e-9);
        expect(sum(after, "clicks", mine)).toBeGreaterThanOrEqual(sum(before, "clicks", mine) - 1e-9);
      }),
      { numRuns: 60 },
    );
  });

  it("average out to the expected values, on days that run dry and on others", () => {
    for (const [budget, days] of [
      [8_000, 200],
      [1e9, 150],
    ] as const) {
      const list: Plan[] = [{ bids: new Array<number>(ITEMS).fill(350), budget, serveOrder: 1 }];
      const truth = run(list, false);
      const expected = { clicks: sum(truth, "clicks"), cost: sum(truth, "cost") };
      const orders = sum(truth, "orders") + truth.state.late.reduce((total, order) => total + order.orders, 0);
      const drawn = { clicks: 0, cost: 0, orders: 0 };
      for (let i = 0; i < days; i++) {
        const result = run(list, true, `seed ${i}`);
        drawn.clicks += sum(result, "clicks");
        drawn.orders += sum(result, "orders") + result.state.late.reduce((total, order) => total + order.orders, 0);
        drawn.cost += sum(result, "cost");
      }
      expect(expected.cost).toBeLessThanOrEqual(budget + 1e-6);
      // Draws over budget lose clicks, those under it gain none, so a day that runs dry stays a little below.
      expect(drawn.cost / days / expected.cost).toBeGreaterThan(budget > 8_000 ? 0.95 : 0.93);
      expect(drawn.cost / days / expected.cost).toBeLessThanOrEqual(budget > 8_000 ? 1.05 : 1);
      expect(drawn.clicks / days / expected.clicks).toBeGreaterThan(budget > 8_000 ? 0.95 : 0.93);
      // Orders are counts: with the true rate they lie within four of their own standard deviations.
      const wanted = drawn.clicks * (orders / expected.clicks);
      expect(Math.abs(drawn.orders - wanted) / Math.sqrt(wanted)).toBeLessThan(4);
    }
  });
});

describe("prices", () => {
  const priced = (price: (number | null)[], sale: (number | null)[]) => {
    const base = testShop(price.length);
    return { ...base, columns: { ...base.columns, price: numberColumn(price), salePrice: numberColumn(sale) } };
  };

  it("are what shoppers pay: a sale price above the price is nobody's", () => {
    const world = buildWorld(priced([79_450, 79_450, 10_000, 10_000], [9_999_000, 50_000, null, 4_000]), "s");
    expect([...world.truth.price]).toEqual([79_450, 50_000, 10_000, 4_000]);
  });

  it("that are missing leave every figure of the day a number", () => {
    const world = buildWorld(priced([null, 20_000, 30_000, null], [null, null, null, null]), "s");
    expect([...world.truth.price].every((price) => price > 0)).toBe(true);
    expect([...world.truth.cvr, ...world.truth.organic].every(Number.isFinite)).toBe(true);
  });
});

describe("what the channel learns", () => {
  it("counts sales that come in late towards the clicks of their day", () => {
    const line = { campaign: "c", itemNo: 7 };
    const clicked = learn(nothingLearned(), [{ ...line, clicks: 10, revenue: 0 }]);
    const later = learn(clicked, [{ ...line, clicks: 0, revenue: 50_000 }]);
    const [clicks, revenue] = later.campaigns["c"]!;
    expect(clicks).toBeLessThan(10);
    expect([revenue, later.items["c"]![7]![1]]).toEqual([50_000, 50_000]);
    expect(learnedBid(later, "c", 7, 300, 3)).toBeGreaterThan(learnedBid(clicked, "c", 7, 300, 3));
  });
});

describe("a day that runs dry", () => {
  it("is cut without looking at who bought: the clicks that are left convert as all did", () => {
    const random = randomFrom("clicks");
    const cvr = 0.2;
    const facts = Array.from({ length: 4_000 }, (_, i): DrawnFact => {
      const clicks = 1 + (i % 6);
      const orders = binomial(random, clicks, cvr);
      const units = orders * 2;
      const names = {
        campaign: "c",
        adGroup: "g",
        target: "t",
        itemNo: i,
        row: i,
        boughtRow: i,
        term: "",
        placement: "",
        incremental: 1,
        hourFactor: 1,
      };
      const counts = { impressions: 50, clicks, cost: clicks * 100, orders, units, revenue: units * 900 };
      return { ...names, slot: 0, ...counts };
    });
    const clicks = facts.reduce((total, fact) => total + fact.clicks, 0);
    const purses = { list: [{ limit: clicks * 40, members: [0] }] } as unknown as Purses;
    keepWithinPurses(facts, [{ key: "c" }], purses, random);
    const left = { clicks: 0, cost: 0, orders: 0, units: 0, revenue: 0 };
    for (const fact of facts) {
      expect(fact.orders).toBeLessThanOrEqual(fact.clicks);
      for (const key of ["clicks", "cost", "orders", "units", "revenue"] as const) left[key] += fact[key];
    }
    expect(left.clicks).toBe(Math.floor(clicks * 0.4));
    expect([left.cost, left.units, left.revenue]).toEqual([left.clicks * 100, left.orders * 2, left.orders * 1_800]);
    // A count of so many tries lies within four of its standard deviations.
    const wanted = left.clicks * cvr;
    expect(Math.abs(left.orders - wanted)).toBeLessThan(4 * Math.sqrt(wanted * (1 - cvr)));
    // Long lines and short ones lose the same share.
    const ofSix = facts.filter((_, i) => i % 6 === 5).reduce((total, fact) => total + fact.clicks, 0);
    expect(ofSix / left.clicks).toBeCloseTo(6 / 21, 1);
  });
});

describe("budgets and serve order", () => {
  const bids = new Array<number>(ITEMS).fill(400);

  it("let the first in serve order serve alone while it has budget, then the next take over", () => {
    const free = run(
      [
        { bids, budget: 1e9, serveOrder: 1 },
        { bids, budget: 1e9, serveOrder: 2 },
      ],
      false,
    );
    expect(sum(free, "cost", (fact) => fact.campaign === "c1")).toBe(0);
    const need = sum(free, "cost");
    const tight = run(
      [
        { bids, budget: Math.round(need / 3), serveOrder: 1 },
        { bids, budget: 1e9, serveOrder: 2 },
      ],
      false,
    );
    const first = tight.campaigns.find(({ campaign }) => campaign === "c0")!;
    expect(first.cost).toBeCloseTo(Math.round(need / 3), 3);
    // A third of a day's traffic has passed when a third of its spend is gone.
    expect(first.dryAt).toBeCloseTo(hourAtShare(1 / 3), 2);
    expect(sum(tight, "cost")).toBeCloseTo(need, 3);
    expect(sum(tight, "impressions")).toBeCloseTo(sum(free, "impressions"), 3);
  });

  it("know the hour by the traffic that has passed", () => {
    expect(HOUR_SHARE.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 12);
    expect(hourAtShare(0)).toBe(0);
    expect(hourAtShare(HOUR_SHARE[0]!)).toBe(1);
    expect(hourAtShare(1)).toBeCloseTo(24, 9);
    expect(hoursBetween(0.2, 0.7).reduce((a, b) => a + b, 0)).toBeCloseTo(1, 12);
    // The day's mean conversion is the item's own, however the day is cut.
    for (let seed = 0; seed < 20; seed++) {
      for (const rates of buyingByHour(natureOf(`hours ${seed}`))) {
        expect(rates.reduce((total, rate, hour) => total + rate * HOUR_SHARE[hour]!, 0)).toBeCloseTo(1, 12);
      }
    }
  });

  it("pay for clicks on sold-out items without selling them", () => {
    const out = catalogue([1, 3, 5]);
    const outWorld = buildWorld(out, "w");
    const given = planAccount(outWorld, Account.fromStructure(account([{ bids, budget: 1e9, serveOrder: 1 }])), out);
    const result = simulateDay(outWorld, given, DAY, firstState(), { noise: false, seed: "s" });
    expect(sum(result, "cost", ({ itemNo }) => itemNo === 2)).toBeGreaterThan(0);
    expect(sum(result, "orders", ({ itemNo }) => [2, 4, 6].includes(itemNo))).toBe(0);
  });
});

describe("auctions", () => {
  it("win more with a higher score and cost less than it", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 1, max: 9, noNaN: true }),
        fc.double({ min: 3, max: 7, noNaN: true }),
        fc.double({ min: 0.3, max: 1, noNaN: true }),
        (score, mean, spread) => {
          expect(winChance(score + 0.1, mean, spread)).toBeGreaterThanOrEqual(winChance(score, mean, spread));
          expect(expectedSecondScore(score, mean, spread)).toBeLessThanOrEqual(Math.exp(score));
        },
      ),
    );
  });

  it("give the mean of the rivals' scores below ours, as sampling finds it", () => {
    const random = randomFrom("second");
    const [score, mean, spread] = [Math.log(300), 5.5, 0.6];
    let total = 0;
    let count = 0;
    for (let i = 0; i < 200_000; i++) {
      const z = Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
      const rival = Math.exp(mean + spread * z);
      if (rival < 300) {
        total += rival;
        count++;
      }
    }
    expect(winChance(score, mean, spread)).toBeCloseTo(count / 200_000, 2);
    expect(Math.abs(expectedSecondScore(score, mean, spread) / (total / count) - 1)).toBeLessThan(0.01);
    expect(clickPrice(300, 1, mean, spread)).toBeLessThanOrEqual(300);
    expect(clickPrice(15, 1, mean, spread)).toBe(15);
  });
});

describe("learning", () => {
  it("starts from the given bid, moves to what clicks bring, and a thin campaign moves less", () => {
    const results = (clicks: number) => [{ campaign: "c", itemNo: 1, clicks, revenue: clicks * 3_000 }];
    expect(learnedBid(nothingLearned(), "c", 1, 300, 3)).toBe(300);
    const thin = learnedBid(learn(nothingLearned(), results(10)), "c", 1, 300, 3);
    const thick = learnedBid(learn(nothingLearned(), results(5_000)), "c", 1, 300, 3);
    expect(thin).toBeGreaterThan(300);
    expect(thick).toBeGreaterThan(thin);
    // What a click brings over the goal is 1,000 mills.
    expect(Math.abs(thick - 1_000)).toBeLessThan(20);
    expect(
      learnedBid(learn(nothingLearned(), [{ campaign: "c", itemNo: 1, clicks: 9_999, revenue: 0 }]), "c", 1, 300, 3),
    ).toBe(75);
  });

  it("fades", () => {
    const once = learn(nothingLearned(), [{ campaign: "c", itemNo: 1, clicks: 100, revenue: 5_000 }]);
    expect(learn(once, []).campaigns["c"]).toEqual([97, 4_850]);
  });
});

describe("the world", () => {
  it("keeps an item's nature when others come and go, and differs by seed", () => {
    const small = catalogue();
    const more: Columns = {
      length: ITEMS + 1,
      columns: Object.fromEntries(
        Object.entries(small.columns).map(([name, column]) => [
          name,
          column.kind === "number"
            ? numberColumn([...[...column.values].map((v) => (Number.isNaN(v) ? null : v)), 99])
            : textColumn([...[...column.codes].map((code) => column.values[code]!), "new thing > x"]),
        ]),
      ),
    };
    const grown = buildWorld(more, "w");
    expect([...grown.truth.quality.slice(0, ITEMS)]).toEqual([...world.truth.quality]);
    expect([...buildWorld(small, "other").truth.quality]).not.toEqual([...world.truth.quality]);
  });
});
