import { describe, expect, it } from "vitest";
import { Account } from "../../account/account";
import { simulateDay } from "../../market/day";
import { firstState } from "../../market/day-types";
import { natureOf } from "../../market/nature";
import { planAccount } from "../../market/running-account";
import { testCampaign, testShop } from "../../market/test-shop";
import { buildWorld } from "../../market/world";
import { normal, poisson, randomFrom } from "../../kit/random";
import { placementWorths, type MediaDay, type PlacementTraits } from "./worth";

/** Days in which placements click at known rates, each placement swinging by itself. */
function madeUp(seed: number, count = 40, length = 240) {
  const random = randomFrom("worth", seed);
  const traits: PlacementTraits[] = Array.from({ length: count }, (_, p) => ({
    kind: p % 3 === 0 ? "app" : "site",
    isOnTopic: p % 2 === 0,
  }));
  const rate = traits.map(({ kind }) => Math.max(0.2, (kind === "app" ? 9 : 4) + 3 * normal(random)));
  const volume = traits.map(() => 400 * Math.exp(0.8 * normal(random)));
  const days = Array.from({ length }, (): MediaDay => {
    const impressions = Float64Array.from(volume, (mean) => Math.round(mean * Math.exp(0.5 * normal(random))));
    const counts = Array.from(impressions, (shown, p) => poisson(random, (shown / 1000) * rate[p]!));
    const clicks = counts.reduce((sum, one) => sum + one, 0);
    const orders = counts.reduce((sum, one, p) => sum + poisson(random, one * (p % 2 ? 0.002 : 0.04)), 0);
    return {
      ...{ clicks, cost: clicks * 100, net: orders * 8_000 - clicks * 100 },
      ...{ placement: Uint32Array.from(impressions, (_, p) => p), impressions },
    };
  });
  return { traits, days, rate };
}

const isWithin = (truth: number, { low, high }: { low: number; high: number }) => truth >= low && truth <= high;

describe("what placements are worth that tell their impressions alone", () => {
  it("holds the truth in 80 % of its intervals, and follows what each one does", () => {
    let [held, all, close, far] = [0, 0, 0, 0];
    for (let seed = 0; seed < 6; seed++) {
      const { traits, days, rate } = madeUp(seed);
      const { placements: worths } = placementWorths(days, traits)!;
      const usual = rate.reduce((sum, one) => sum + one, 0) / rate.length;
      worths.forEach(({ clicks, net }, p) => {
        const truth = rate[p]!;
        const brings = truth * ((p % 2 ? 0.002 : 0.04) * 8_000 - 100);
        for (const [is, told] of [
          [truth, clicks],
          [brings, net],
        ] as const) {
          all++;
          if (isWithin(is, told)) held++;
        }
        close += (clicks.mean - truth) ** 2;
        far += (usual - truth) ** 2;
      });
    }
    expect(held / all).toBeGreaterThan(0.72);
    expect(held / all).toBeLessThan(0.9);
    // Better than taking all placements for alike by far.
    expect(close / far).toBeLessThan(0.5);
  });

  it("says nothing of its own of one that always showed the same share, and nothing at all by a few days", () => {
    const { traits, days } = madeUp(1);
    expect(placementWorths(days.slice(0, 20), traits)).toBeNull();
    const fixed = days.map((day) => {
      const whole = day.impressions.reduce((sum, one) => sum + one, 0);
      return { ...day, impressions: day.impressions.map(() => whole / day.impressions.length) };
    });
    expect(placementWorths(fixed, traits)!.placements.filter(({ isOwn }) => isOwn)).toEqual([]);
  });

  it("holds what placements of the test market bring in truth", () => {
    let [held, all, wrong, sure] = [0, 0, 0, 0];
    for (const salt of ["a", "b", "c"]) {
      const shop = testShop(40);
      const world = buildWorld(shop, salt, undefined, natureOf(salt));
      const half = (odd: number) => Array.from({ length: 20 }, (_, i) => `I${2 * i + odd}`);
      const account = planAccount(
        world,
        Account.fromStructure({ ...testCampaign("a", {}, half(0), 900), ...testCampaign("b", {}, half(1), 900) }),
        shop,
      );
      const places = [...new Set(world.categories.flatMap(({ surfaces }) => surfaces))]
        .filter(({ kind }) => kind === "placement")
        .map(({ label }) => label);
      const known = [...new Set(places)];
      const at = new Map(known.map((label, p) => [label, p]));
      const traits = known.map((label) => {
        const { kind, topic } = world.placements.find(({ address }) => address === label)!;
        return { kind, isOnTopic: topic === "Garden" };
      });
      let state = firstState();
      const days: MediaDay[] = [];
      const truth = known.map(() => ({ impressions: 0, net: 0 }));
      for (let day = 20_700; day < 20_820; day++) {
        const clean = simulateDay(world, account, day, state, { seed: salt, noise: false });
        for (const { placement, impressions, revenue, cost } of clean.placements) {
          truth[at.get(placement)!]!.impressions += impressions;
          truth[at.get(placement)!]!.net += 0.4 * revenue - cost;
        }
        const drawn = simulateDay(world, account, day, state, { seed: salt, noise: true });
        for (const campaign of ["a", "b"]) {
          const own = drawn.placements.filter((fact) => fact.campaign === campaign);
          const sum = (of: (fact: (typeof own)[number]) => number) => own.reduce((all, fact) => all + of(fact), 0);
          days.push({
            clicks: sum(({ clicks }) => clicks),
            cost: sum(({ cost }) => cost),
            net: sum(({ revenue, cost }) => 0.4 * revenue - cost),
            placement: Uint32Array.from(own, ({ placement }) => at.get(placement)!),
            impressions: Float64Array.from(own, ({ impressions }) => impressions),
          });
        }
        state = drawn.state;
      }
      const { placements: worths } = placementWorths(days, traits)!;
      worths.forEach(({ net, chanceOfLoss }, p) => {
        const { impressions, net: brought } = truth[p]!;
        if (impressions < 1) return;
        const is = (1000 * brought) / impressions;
        all++;
        if (isWithin(is, net)) held++;
        if (chanceOfLoss < 0.1 || chanceOfLoss > 0.9) {
          sure++;
          if (is < 0 !== chanceOfLoss > 0.9) wrong++;
        }
      });
    }
    expect(all).toBeGreaterThan(60);
    expect(held / all).toBeGreaterThan(0.7);
    expect(held / all).toBeLessThan(0.92);
    // What is said with nine tenths of a chance is seldom wrong, and something is said.
    expect(sure).toBeGreaterThan(10);
    expect(wrong / sure).toBeLessThan(0.15);
  });
});
