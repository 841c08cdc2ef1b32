import { describe, expect, it } from "vitest";
import { Account } from "../account/account";
import { seenByAge, SEEN_BY } from "./arrivals";
import { simulateDay } from "./day";
import { firstState } from "./day-types";
import { MIDDLING, NATURE_RANGES, natureOf, type Nature } from "./nature";
import { planAccount } from "./running-account";
import { lightShop } from "./seen-world";
import { testCampaign } from "./test-shop";
import { buildWorld } from "./world";

const SEEDS = Array.from({ length: 200 }, (_, i) => `seed ${i}`);
const NAMES = Object.keys(NATURE_RANGES) as (keyof Nature)[];

describe("a world's nature", () => {
  it("is drawn by its seed, within its ranges and over all of them, the middling one included", () => {
    expect(natureOf("a")).toEqual(natureOf("a"));
    const drawn = SEEDS.map(natureOf);
    for (const name of NAMES) {
      const [least, most] = NATURE_RANGES[name];
      const values = drawn.map((nature) => nature[name]);
      expect(Math.min(...values), name).toBeGreaterThanOrEqual(least);
      expect(Math.max(...values), name).toBeLessThanOrEqual(most);
      expect(Math.max(...values) - Math.min(...values), name).toBeGreaterThan(0.9 * (most - least));
      expect(MIDDLING[name]).toBeGreaterThan(least);
      expect(MIDDLING[name]).toBeLessThan(most);
    }
  });

  it("has late orders come sooner or later at every age, all in the end", () => {
    expect(seenByAge(MIDDLING)).toEqual(SEEN_BY.map((share) => expect.closeTo(share, 12) as number));
    const [late, early] = [seenByAge({ prompt: 0.45, tardy: 1.6 }), seenByAge({ prompt: 0.8, tardy: 0.6 })];
    expect([late[0], early[0]]).toEqual([expect.closeTo(0.45, 12), expect.closeTo(0.8, 12)]);
    for (let age = 1; age < SEEN_BY.length; age++) {
      expect(late[age]).toBeGreaterThanOrEqual(late[age - 1]!);
      expect(late[age]!).toBeLessThanOrEqual(early[age]!);
    }
    expect([late.at(-1), early.at(-1)]).toEqual([1, 1]);
  });
});

describe("worlds of different seeds", () => {
  const items = 300;
  const shop = lightShop(items, "one shop");
  const ids = Array.from({ length: items }, (_, i) => `L${i}`);

  /** Sales per unit of cost of a plain account at a bid, over all items and for the best fifth of them. */
  function returns(nature: Nature, bid = 600): { all: number; best: number } {
    const world = buildWorld(shop, "w", undefined, nature);
    const plan = planAccount(world, Account.fromStructure(testCampaign("c", {}, ids, bid)), shop);
    const { facts } = simulateDay(world, plan, 20_500, firstState(), { noise: false, seed: "s" });
    const byItem = new Map<number, [cost: number, revenue: number]>();
    for (const { itemNo, cost, revenue } of facts) {
      const sums = byItem.get(itemNo) ?? [0, 0];
      byItem.set(itemNo, [sums[0] + cost, sums[1] + revenue]);
    }
    const list = [...byItem.values()].sort((a, b) => b[1] / b[0] - a[1] / a[0]);
    const of = (some: [number, number][]) =>
      some.reduce((sum, [, revenue]) => sum + revenue, 0) / some.reduce((sum, [cost]) => sum + cost, 0);
    return { all: of(list), best: of(list.slice(0, Math.floor(list.length / 5))) };
  }

  it("let a goal of 3.5 bind in some and hardly in others", () => {
    const all = SEEDS.slice(0, 16).map((seed) => returns(natureOf(seed)).all);
    expect(all.filter((value) => value < 3.5).length).toBeGreaterThan(2);
    expect(Math.max(...all) / Math.min(...all)).toBeGreaterThan(1.5);
  });

  it("differ as their parts say: dearer clicks return less, wider spreads set the best further apart", () => {
    const middling = returns(MIDDLING);
    expect(returns({ ...MIDDLING, rivalry: 2 }).all).toBeLessThan(middling.all);
    const lead = (nature: Nature) => {
      const { all, best } = returns(nature);
      return best / all;
    };
    expect(lead({ ...MIDDLING, conversionSpread: 0.9 })).toBeGreaterThan(lead({ ...MIDDLING, conversionSpread: 0.5 }));
  });
});
