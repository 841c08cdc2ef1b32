import { describe, expect, it } from "vitest";
import { lossesOfStrangers, POLICIES, runPolicies, type PolicyResult } from "./policies";
import { natureOf } from "./nature";
import { lightShop } from "./seen-world";
import { buildWorld } from "./world";

const result = (contribution: number): PolicyResult => ({
  ...{ policy: POLICIES[0]!, contribution, held: 0, cost: 1, revenue: 1 },
});

describe("a grid of policies", () => {
  it("says what is lost by running a world on another's best", () => {
    // The first world is best run by its first policy, the second by its second, the third by its second too.
    const worlds = [
      [10, 8],
      [5, 20],
      [-4, 2],
    ].map((values) => values.map(result));
    const losses = [1 - 8 / 10, 1 - 8 / 10, 1 - 5 / 20, 0, 1 - -4 / 2, 0];
    expect(lossesOfStrangers(worlds)).toEqual(losses);
  });

  it("holds each way once, and leaves money, hours, slots and terms as it says", () => {
    expect(new Set(POLICIES.map((policy) => JSON.stringify(policy))).size).toBe(POLICIES.length);
    const shop = lightShop(80, "policies");
    const world = buildWorld(shop, "policies", undefined, natureOf("policies"));
    const margins = new Float64Array(80).fill(0.4);
    const of = (some: Partial<PolicyResult["policy"]>) =>
      POLICIES.find((policy) => Object.entries(some).every(([key, value]) => policy[key as "level"] === value))!;
    const plain = { level: "full", hours: "all day", places: "everywhere", leftOut: "nothing" } as const;
    const tried = [of(plain), of({ ...plain, level: "low" }), of({ ...plain, leftOut: "wide terms" })];
    const [full, low, narrow] = runPolicies(world, shop, margins, 20_700, 20_700, tried);
    expect(low!.cost).toBeLessThan(full!.cost);
    expect(narrow!.cost).toBeLessThan(full!.cost);
    expect(full!.contribution).not.toBe(low!.contribution);
    // A world with a third of the money spends that at most.
    const poor = { ...world, nature: { ...world.nature, money: 0.3 } };
    const rich = { ...world, nature: { ...world.nature, money: 3 } };
    const [short] = runPolicies(poor, shop, margins, 20_700, 20_700, tried.slice(0, 1));
    const [free] = runPolicies(rich, shop, margins, 20_700, 20_700, tried.slice(0, 1));
    expect(short!.cost / free!.cost).toBeCloseTo(0.3, 2);
  });
});
