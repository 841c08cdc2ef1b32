import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Account } from "../account/account";
import { daypartsOf } from "./dayparts";
import { simulateDay } from "./day";
import { firstState } from "./day-types";
import { HOUR_SHARE } from "./hours";
import { planAccount } from "./running-account";
import { testCampaign, testShop } from "./test-shop";
import { buildWorld } from "./world";

const factor = fc.oneof(fc.constant(0), fc.double({ min: 0.2, max: 3, noNaN: true }));
const day = fc.option(fc.array(factor, { minLength: 24, maxLength: 24 }), { nil: null });

describe("the dayparts of a category", () => {
  it("are one where nothing differs, and each its own where few do", () => {
    expect(daypartsOf([null, null])).toEqual({ of: new Array(24).fill(0), factors: [[1, 1]] });
    const night = Array.from({ length: 24 }, (_, hour) => (hour < 8 ? 0.5 : hour < 20 ? 1 : 1.4));
    const { of, factors } = daypartsOf([night, null]);
    expect(factors).toEqual([
      [0.5, 1],
      [1, 1],
      [1.4, 1],
    ]);
    expect(of).toEqual(night.map((value) => [0.5, 1, 1.4].indexOf(value)));
  });

  it("set the nearest together, at their mean by traffic", () => {
    // Four values; those of hours 0 and 1 lie nearest.
    const hours = Array.from({ length: 24 }, (_, hour) => (hour === 0 ? 0.5 : hour === 1 ? 0.51 : hour < 12 ? 1 : 2));
    const { of, factors } = daypartsOf([hours]);
    expect(of[0]).toBe(of[1]);
    const [first, second] = [HOUR_SHARE[0]!, HOUR_SHARE[1]!];
    expect(factors[of[0]!]![0]).toBeCloseTo((0.5 * first + 0.51 * second) / (first + second), 12);
    expect(factors).toHaveLength(3);
  });

  it("keep the mean factor of every campaign, let nobody serve in hours it is off, and stay few (property)", () => {
    fc.assert(
      fc.property(fc.array(day, { minLength: 1, maxLength: 4 }), (members) => {
        const { of, factors } = daypartsOf(members);
        members.forEach((list, i) => {
          const mean = (at: (hour: number) => number) =>
            HOUR_SHARE.reduce((sum, share, hour) => sum + share * at(hour), 0);
          expect(mean((hour) => factors[of[hour]!]![i]!)).toBeCloseTo(
            mean((hour) => list?.[hour] ?? 1),
            9,
          );
          for (let hour = 0; hour < 24; hour++) {
            expect(factors[of[hour]!]![i] === 0).toBe((list?.[hour] ?? 1) === 0);
          }
        });
        const patterns = new Set(HOUR_SHARE.map((_, hour) => members.map((list) => (list?.[hour] ?? 1) === 0).join()));
        expect(factors.length).toBeLessThanOrEqual(Math.max(3, patterns.size));
      }),
    );
  });
});

describe("a day with 24 different factors", () => {
  const shop = testShop();
  const world = buildWorld(shop, "w");
  const items = Array.from({ length: 24 }, (_, i) => `I${i}`);
  const run = (hours: number[] | undefined, noise = false) => {
    const structure = testCampaign("c", hours ? { hours } : {}, items, 500);
    const plan = planAccount(world, Account.fromStructure(structure), shop);
    return simulateDay(world, plan, 20_500, firstState(), { noise, seed: "s" });
  };
  const cost = (hours: number[] | undefined) => run(hours).facts.reduce((sum, fact) => sum + fact.cost, 0);

  it("comes within 2 % of 24 days with one factor each, weighted by their hour's traffic", () => {
    const hours = Array.from({ length: 24 }, (_, hour) => 0.5 + ((hour * 7) % 24) / 16);
    const slowly = HOUR_SHARE.reduce(
      (sum, share, hour) => sum + share * cost(new Array<number>(24).fill(hours[hour]!)),
      0,
    );
    expect(cost(hours) / slowly).toBeGreaterThan(0.98);
    expect(cost(hours) / slowly).toBeLessThan(1.02);
  });

  it("costs more a click in the hours that bid more", () => {
    const hours = Array.from({ length: 24 }, (_, hour) => (hour < 16 ? 0.5 : 1.5));
    for (const noise of [false, true]) {
      const cpc = (from: number, to: number) => {
        const lines = run(hours, noise).hours.filter(({ hour }) => hour >= from && hour < to);
        const sum = (key: "cost" | "clicks") => lines.reduce((total, line) => total + line[key], 0);
        return sum("cost") / sum("clicks");
      };
      expect(cpc(16, 24)).toBeGreaterThan(1.5 * cpc(0, 16));
      expect(cpc(0, 16)).toBeLessThanOrEqual(250);
    }
  });
});
