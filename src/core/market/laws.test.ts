import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Account, type Structure } from "../account/account";
import { weekday } from "../kit/days";
import { pressureAfter, settledPressure } from "./answer";
import { boughtAfter, keptValue, reportedValue } from "./bought-instead";
import { simulateDay } from "./day";
import { firstState, type DayResult } from "./day-types";
import { conditionsOn, warFactor } from "./demand";
import { buyingByHour } from "./hours";
import { contributionParts, daysWithoutAds, truthOfAccount } from "./judge";
import { Luck } from "./luck";
import { conversionsOn } from "./moods";
import { MIDDLING, natureOf, natureSchema, type Nature } from "./nature";
import { planAccount } from "./running-account";
import { lightShop } from "./seen-world";
import { testCampaign } from "./test-shop";
import { warmState } from "./warm-state";
import { buildWorld } from "./world";

const ITEMS = 120;
const DAY = 20_700;
const shop = lightShop(ITEMS, "laws");
const ALL = Array.from({ length: ITEMS }, (_, i) => `L${i}`);

const worldOf = (nature: Partial<Nature> = {}) => buildWorld(shop, "laws", undefined, { ...MIDDLING, ...nature });
const run = (
  world: ReturnType<typeof worldOf>,
  structure: Structure,
  noise = false,
  seed = "s",
  state = firstState(),
) => simulateDay(world, planAccount(world, Account.fromStructure(structure), shop), DAY, state, { noise, seed });
const flat = testCampaign("c", {}, ALL, 400);
const sum = (result: DayResult, key: "impressions" | "clicks" | "cost" | "orders" | "units" | "revenue") =>
  result.facts.reduce((total, fact) => total + fact[key], 0);

describe("a nature as it is kept", () => {
  it("takes parts that came later than it from the middling world, and no other", () => {
    const old = { rivalry: 2, demand: 0.7 };
    expect(natureSchema.parse(old)).toEqual({ ...MIDDLING, ...old });
    expect(natureSchema.parse(natureOf("any"))).toEqual(natureOf("any"));
  });
});

describe("orders of another item than the one clicked", () => {
  it("are as often as the nature says, of family and kind, and none where there is no other", () => {
    const world = worldOf({ elsewhere: 0.3 });
    const { truth, rowCategory } = world;
    for (let row = 0; row < ITEMS; row++) {
      const list = boughtAfter(world, row);
      expect(list.reduce((total, { share }) => total + share, 0)).toBeCloseTo(1, 12);
      expect(list[0]!.row).toBe(row);
      for (const { row: other } of list.slice(1)) {
        expect(rowCategory[other]).toBe(rowCategory[row]);
        expect(truth.inStock[other]).toBe(1);
      }
      const others = world.categories[rowCategory[row]!]!.rows.filter((other) => other !== row);
      if (others.length === 0) expect(list).toHaveLength(1);
      if (list.length > 1) expect(1 - list[0]!.share).toBeCloseTo(0.3, 12);
    }
  });

  it("are in ads' reports under the item clicked, at the price of the one bought", () => {
    const world = worldOf({ elsewhere: 0.3, basket: 0.2 });
    const seen = new Map<number, { orders: number; revenue: number }>();
    const truth = run(world, flat);
    for (const { itemNo, orders, revenue } of truth.facts) {
      const own = seen.get(itemNo) ?? { orders: 0, revenue: 0 };
      seen.set(itemNo, { orders: own.orders + orders, revenue: own.revenue + revenue });
    }
    for (const [itemNo, { orders, revenue }] of seen) {
      if (orders > 0) expect(revenue / orders).toBeCloseTo(reportedValue(world, itemNo - 1), 4);
    }
    // Drawn days come to the same shares.
    let [orders, elsewhere] = [0, 0];
    for (let i = 0; i < 60; i++) {
      for (const order of run(world, flat, true, `draw ${i}`).state.late) {
        const couldBe = boughtAfter(world, order.itemNo - 1);
        if (couldBe.length === 1) continue;
        orders += order.orders;
        if (order.bought !== undefined) elsewhere += order.orders;
      }
    }
    expect(Math.abs(elsewhere / orders - 0.3)).toBeLessThan(4 * Math.sqrt((0.3 * 0.7) / orders));
  });
});

describe("what is sent back", () => {
  it("lowers what the shop keeps and not what ads report, and counts in contribution", () => {
    const [kept, back] = [worldOf({ returns: 0 }), worldOf({ returns: 0.2 })];
    const [without, with_] = [run(kept, flat), run(back, flat)];
    expect(sum(with_, "revenue")).toBeCloseTo(sum(without, "revenue"), 6);
    const store = (result: DayResult) => result.store.reduce((total, { revenue }) => total + revenue, 0);
    const lost = 1 - store(with_) / store(without);
    expect(lost).toBeGreaterThan(0.12);
    expect(lost).toBeLessThan(0.3);
    const margins = new Float64Array(ITEMS).fill(0.5);
    for (let row = 0; row < ITEMS; row++) {
      const own = boughtAfter(back, row);
      const byHand = own.reduce((total, { row: of, share }) => {
        const { price, extraUnits, returned } = back.truth;
        return total + share * price[of]! * (1 + extraUnits[of]!) * (1 - returned[of]!) * 0.5;
      }, 0);
      expect(keptValue(back, row, margins)).toBeCloseTo(byHand, 8);
    }
  });
});

describe("rivals who answer", () => {
  it("cost more the more of us they saw, and rest where a day leaves things as they were", () => {
    const world = worldOf({ answer: 2 });
    const account = planAccount(world, Account.fromStructure(flat), shop);
    const warm = warmState(world, account, DAY);
    const [first, later] = [run(world, flat), run(world, flat, false, "s", warm)];
    expect(sum(later, "cost") / sum(later, "clicks")).toBeGreaterThan(sum(first, "cost") / sum(first, "clicks"));
    expect(sum(later, "impressions")).toBeLessThan(sum(first, "impressions"));
    // The state that was worked out is near the one that many days lead to.
    let state = firstState();
    for (let i = 0; i < 25; i++) state = { ...run(world, flat, false, "s", state).state, late: [] };
    const mean = (pressure: Record<string, number>) =>
      Object.values(pressure).reduce((total, value) => total + value, 0) / world.categories.length;
    expect(Math.abs(mean(warm.pressure!) / mean(state.pressure!) - 1)).toBeLessThan(0.15);
    expect(run(worldOf({ answer: 0 }), flat, false, "s", warm).facts).toEqual(run(worldOf({ answer: 0 }), flat).facts);
  });

  it("forget: pressure is a share, falls when nothing stands, and a day can be undone to its share", () => {
    const views = new Map([["a", 100]]);
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0.01, max: 1, noNaN: true }),
        (before, share) => {
          const after = pressureAfter({ a: before }, views, new Map([["a", 100 * share]]));
          expect(after["a"]!).toBeGreaterThanOrEqual(Math.min(before, share) - 1e-9);
          expect(after["a"]!).toBeLessThanOrEqual(Math.max(before, share) + 1e-9);
          expect(settledPressure({ a: before }, after)["a"]!).toBeCloseTo(share, 9);
        },
      ),
    );
    expect(pressureAfter({ a: 0.5 }, views, new Map())["a"]!).toBeLessThan(0.5);
  });
});

describe("when people buy", () => {
  it("differs by nature: swing, hour, and how far the lead row goes along", () => {
    const spread = (rates: number[]) => Math.max(...rates) / Math.min(...rates);
    const [plain] = buyingByHour(MIDDLING);
    expect(spread(buyingByHour({ ...MIDDLING, hourSwing: 0.1 })[2]!)).toBeLessThan(1.2);
    expect(spread(buyingByHour({ ...MIDDLING, hourSwing: 2.6 })[2]!)).toBeGreaterThan(spread(plain!) ** 1.5);
    const top = (rates: number[]) => rates.indexOf(Math.max(...rates));
    expect(top(buyingByHour({ ...MIDDLING, meeting: 0, hourShift: -9 })[0]!)).toBe((top(plain!) + 24 - 9) % 24);
    const [lead, lower] = buyingByHour({ ...MIDDLING, meeting: 0.6 });
    expect(spread(lead!)).toBeGreaterThan(spread(lower!));
  });

  it("weekends differ as said, and a week's mean stays 1 but for slow waves", () => {
    const world = worldOf({ weekend: 0.4, drift: 0.0001, wars: 0 });
    const category = world.categories[0]!;
    const week = Array.from({ length: 7 }, (_, i) => ({
      day: DAY + i,
      buying: conditionsOn(world, category, DAY + i).buying,
    }));
    const of = (isWeekend: boolean) =>
      week.filter(({ day }) => weekday(day) >= 5 === isWeekend).map(({ buying }) => buying);
    expect(of(true)[0]! / of(false)[0]!).toBeCloseTo(Math.exp(0.4), 3);
    expect(week.reduce((total, { buying }) => total + buying, 0) / 7).toBeCloseTo(1, 3);
  });

  it("price wars come as often as said, last one to three weeks and take at most 45 %", () => {
    const world = worldOf({ wars: 0.5 });
    let [wars, blocks] = [0, 0];
    for (let c = 0; c < 60; c++) {
      for (let block = 400; block < 410; block++) {
        const days = Array.from({ length: 49 }, (_, i) => warFactor(world, `c${c}`, block * 49 + i));
        const at = days.filter((factor) => factor < 1);
        blocks++;
        if (at.length === 0) continue;
        wars++;
        expect(at.length).toBeGreaterThanOrEqual(9);
        expect(at.length).toBeLessThan(24);
        expect(Math.min(...at)).toBeGreaterThanOrEqual(0.55 - 1e-12);
        expect(new Set(at).size).toBe(1);
      }
    }
    expect(Math.abs(wars / blocks - 0.5)).toBeLessThan(4 * Math.sqrt(0.25 / blocks));
    expect(warFactor(worldOf({ wars: 0 }), "c1", DAY)).toBe(1);
  });

  it("items' conversion swings over months within e^wander, each at its own time", () => {
    const world = worldOf({ wander: 0.4 });
    const far = [0, 30, 60, 90, 120, 150, 180].map((later) => conversionsOn(world, DAY + later));
    let moved = 0;
    for (let row = 0; row < ITEMS; row++) {
      const logs = far.map((values) => Math.log(values[row]! / world.truth.cvr[row]!));
      expect(Math.max(...logs.map(Math.abs))).toBeLessThanOrEqual(0.4 + 1e-9);
      if (Math.max(...logs) - Math.min(...logs) > 0.3) moved++;
    }
    expect(moved).toBeGreaterThan(0.8 * ITEMS);
    expect(conversionsOn(worldOf({ wander: 0 }), DAY)).toEqual(world.truth.cvr);
  });
});

describe("luck", () => {
  it("has mean 1 and the variance said, a draw of its own for every place and day", () => {
    const world = worldOf({ burst: 0.6 });
    const drawn = Array.from({ length: 4000 }, (_, i) =>
      new Luck(world, "s", DAY + (i % 40)).ofPlace(Math.floor(i / 40)),
    );
    const mean = drawn.reduce((total, value) => total + value, 0) / drawn.length;
    const variance = drawn.reduce((total, value) => total + (value - mean) ** 2, 0) / drawn.length;
    expect(mean).toBeCloseTo(1, 1);
    expect(Math.abs(variance / 0.6 - 1)).toBeLessThan(0.3);
    expect(new Set(drawn).size).toBe(drawn.length);
    expect(new Luck(world, "s", DAY).ofPlace(3)).toBe(new Luck(world, "s", DAY).ofPlace(3));
  });

  it("makes days scatter more than counts alone would", () => {
    const scatter = (burst: number) => {
      const world = worldOf({ burst });
      const days = Array.from({ length: 50 }, (_, i) => sum(run(world, flat, true, `luck ${i}`), "clicks"));
      const mean = days.reduce((total, value) => total + value, 0) / days.length;
      return days.reduce((total, value) => total + (value - mean) ** 2, 0) / days.length / mean;
    };
    expect(scatter(0.6)).toBeGreaterThan(1.8);
    expect(scatter(0)).toBeLessThan(1.8);
  });

  it("lets clicks of a line differ in cost, in whole mills within floor and bid, the mean as it is", () => {
    const world = worldOf({ burst: 0 });
    const truth = run(world, flat);
    let [cost, clicks] = [0, 0];
    const costs = new Set<number>();
    for (let i = 0; i < 30; i++) {
      for (const fact of run(world, flat, true, `cost ${i}`).facts) {
        expect(Number.isInteger(fact.cost)).toBe(true);
        expect(fact.cost).toBeLessThanOrEqual(400 * fact.clicks);
        cost += fact.cost;
        clicks += fact.clicks;
        if (fact.clicks === 1) costs.add(fact.cost);
      }
    }
    expect(costs.size).toBeGreaterThan(50);
    expect(Math.abs(cost / clicks / (sum(truth, "cost") / sum(truth, "clicks")) - 1)).toBeLessThan(0.02);
  });
});

describe("own pages", () => {
  it("are worth no more than a tenth of what ads add, in any nature, and are told apart", () => {
    for (let seed = 0; seed < 6; seed++) {
      const world = buildWorld(shop, `own ${seed}`, undefined, natureOf(`own ${seed}`));
      const margins = new Float64Array(ITEMS).fill(0.4);
      const without = daysWithoutAds(world, shop, DAY, DAY);
      const bids = (row: number) =>
        Math.round(world.truth.inStock[row]! * world.truth.cvr[row]! * keptValue(world, row, margins));
      const structure = Object.fromEntries(
        Object.entries(flat).map(([key, record]) =>
          record.type === "productGroup" && record.role === "unit"
            ? [key, { ...record, bid: bids(Number(record.value!.slice(1))) }]
            : [key, record],
        ),
      );
      const account = planAccount(world, Account.fromStructure(structure), shop);
      const { days } = truthOfAccount(world, account, DAY, DAY, warmState(world, account, DAY));
      const { total, held } = contributionParts(world, days, without, margins);
      expect(held).toBeGreaterThanOrEqual(0);
      expect(held).toBeLessThan(0.1 * (total + days[0]!.cost));
      // Nothing is held where no page of ours is aimed at.
      const none = planAccount(world, Account.fromStructure(testCampaign("k", { kind: "keyword" }, ALL, 300)), shop);
      expect([...truthOfAccount(world, none, DAY, DAY, firstState()).days[0]!.heldOf.values()]).toEqual([]);
    }
  });
});

describe("what the shop sells without ads", () => {
  it("follows how much a thing is looked for, and only loosely how it converts", () => {
    const { truth, categories } = buildWorld(lightShop(1200, "organic"), "organic");
    const demand = new Float64Array(1200);
    for (const { rows, surfaces } of categories) {
      const views = surfaces.reduce((total, { kind, volume }) => (kind === "query" ? total + volume : total), 0);
      for (const row of rows) demand[row] = Math.log(views / rows.length ** 0.75);
    }
    const organic = truth.organic.map(Math.log);
    expect(correlation(organic, truth.cvr.map(Math.log))).toBeLessThan(0.75);
    expect(correlation(organic, truth.cvr.map(Math.log))).toBeGreaterThan(0.2);
    expect(correlation(organic, demand)).toBeGreaterThan(0.25);
  });
});

function correlation(x: Float64Array, y: Float64Array): number {
  const mean = (values: Float64Array) => values.reduce((total, value) => total + value, 0) / values.length;
  const [a, b] = [mean(x), mean(y)];
  let [xx, yy, xy] = [0, 0, 0];
  x.forEach((value, i) => {
    xx += (value - a) ** 2;
    yy += (y[i]! - b) ** 2;
    xy += (value - a) * (y[i]! - b);
  });
  return xy / Math.sqrt(xx * yy);
}
