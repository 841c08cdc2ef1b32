import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { normal, randomFrom } from "../kit/random";
import { deviationsAt, deviationsToFind, harmDeviationsAt } from "./bounds";
import { actsOf, CHANGES, changeInWords, changeSchema, DESIGNS } from "./changes";
import { FORTNIGHT, pairsOfDays, planDays } from "./day-plan";
import { definitionSchema } from "./definition";
import { effectOfDays, effectOfPairs } from "./effect";
import { pairUnits } from "./matching";
import { adPart } from "./measures";
import {
  daysToFind,
  knownShare,
  leastFound,
  noiseOfDays,
  noiseOfPairs,
  pastPairs,
  playedDays,
  varianceAfter,
} from "./noise";
import { gainOf, meansOf, type Series } from "./series";
import { findingOf, verdictInWords } from "./verdict";

const MANY = 1e6;

describe("bounds", () => {
  it("are Φ⁻¹(1 − α/2) ÷ √t: 1.960 at the end, twice that at a quarter of the way, wider for few pairs", () => {
    expect(deviationsAt(1, MANY)).toBeCloseTo(1.95997, 3);
    expect(deviationsAt(0.25, MANY)).toBeCloseTo(2 * deviationsAt(1, MANY), 9);
    // Student's t with 9 degrees of freedom has its 97.5 % point at 2.2622.
    expect(deviationsAt(1, 9)).toBeCloseTo(2.2622, 3);
    expect(harmDeviationsAt(1, MANY)).toBeCloseTo(1.28155, 3);
    expect(deviationsToFind(MANY)).toBeCloseTo(1.95997 + 0.84162, 3);
  });

  it("are passed by luck alone one time in twenty on each side, looking every day", () => {
    const random = randomFrom("bounds");
    const runs = 4000;
    const counts = { over: 0, under: 0 };
    for (let run = 0; run < runs; run++) {
      let sum = 0;
      for (let day = 1; day <= 28; day++) {
        sum += normal(random);
        const deviations = sum / Math.sqrt(day);
        const bound = deviationsAt(day / 28, MANY);
        if (Math.abs(deviations) <= bound) continue;
        if (deviations > 0) counts.over++;
        else counts.under++;
        break;
      }
    }
    for (const count of Object.values(counts)) {
      expect(count / runs).toBeLessThan(0.05);
      expect(count / runs).toBeGreaterThan(0.02);
    }
  });
});

describe("pairs", () => {
  it("hold every unit once, an odd one left over, and put like with like", () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0, max: 1e6, noNaN: true }), { maxLength: 60 }),
        fc.string(),
        (list, seed) => {
          const values = Float64Array.from(list);
          const { with: one, without, left } = pairUnits([values, values], randomFrom(seed));
          expect(one.length).toBe(Math.floor(list.length / 2));
          expect([...one, ...without, ...left].sort((a, b) => a - b)).toEqual(list.map((_, unit) => unit));
          // Of one trait the nearest is the next by size, so pairs of sorted values are neighbours.
          const sorted = [...list].sort((a, b) => b - a);
          const apart = Array.from(one, (unit, at) => Math.abs(values[unit]! - values[without[at]!]!));
          const neighbours = apart.map((_, at) => sorted[2 * at]! - sorted[2 * at + 1]!);
          const sum = (numbers: number[]) => numbers.reduce((all, value) => all + value, 0);
          expect(sum(apart)).toBeLessThanOrEqual(sum(neighbours) + 1e-6 * (1 + sum(sorted)));
        },
      ),
    );
  });

  it("let a coin say who goes with the change", () => {
    const values = Float64Array.from({ length: 2 }, (_, unit) => unit);
    const first = Array.from({ length: 400 }, (_, run) => pairUnits([values], randomFrom("coin", run)).with[0]!);
    expect(first.reduce((sum, unit) => sum + unit, 0) / 400).toBeGreaterThan(0.4);
    expect(first.reduce((sum, unit) => sum + unit, 0) / 400).toBeLessThan(0.6);
  });
});

describe("days", () => {
  it("have each weekday of a fortnight once with the change and once without, and begin with it", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 8 }), fc.string(), (fortnights, seed) => {
        const plan = planDays(fortnights * FORTNIGHT, seed);
        expect(plan).toHaveLength(fortnights * FORTNIGHT);
        expect(plan[0]).toBe(true);
        const pairs = pairsOfDays(plan);
        expect(pairs.flat().sort((a, b) => a - b)).toEqual(plan.map((_, day) => day));
        for (const [one, other] of pairs) {
          expect([plan[one], plan[other], Math.abs(one - other)]).toEqual([true, false, 7]);
        }
      }),
    );
  });
});

const seriesOf = (...units: number[][]): Series => ({
  units: units.length,
  days: units[0]!.length,
  values: Float64Array.from(units.flat()),
});
const PAIRS = { with: Uint32Array.of(0, 2), without: Uint32Array.of(1, 3), left: [] };

describe("an effect", () => {
  it("is the sum over pairs of what differs beyond what differed before, by hand", () => {
    // Before: 10 and 8, 4 and 4. During: 13 and 9, 6 and 5. The gain by least squares is 2 × 4 ÷ 2² = 2, held to 1.
    const [before, during] = [Float64Array.of(10, 8, 4, 4), Float64Array.of(13, 9, 6, 5)];
    expect(gainOf(before, during, PAIRS)).toBe(1);
    const noise = { lasting: 0, daily: 1, degrees: 1, uneven: 0 };
    const effect = effectOfPairs(before, during, PAIRS, noise, 14, 14)!;
    // Differences 4 − 2 = 2 and 1 − 0 = 1: sum 3, error √(2 × 0.5 ÷ 1) = 1.
    expect(effect).toMatchObject({ mean: 3, error: 1, known: 1 });
    expect(effect.high - effect.mean).toBeCloseTo(deviationsAt(1, 1), 9);
    // What is mostly luck before is hardly taken off.
    expect(gainOf(Float64Array.of(10, 0, 4, 4), Float64Array.of(6, 5, 6, 5), PAIRS)).toBeCloseTo(0.1, 9);
  });

  it("says nothing before a tenth of the plan is known", () => {
    const noise = { lasting: 0, daily: 1, degrees: 1, uneven: 0 };
    expect(effectOfPairs(Float64Array.of(1, 1, 1, 1), Float64Array.of(3, 1, 2, 1), PAIRS, noise, 1, 28)).toBeNull();
    expect(effectOfDays([], { ...noise, degrees: 20 }, 14)).toBeNull();
  });

  it("of days is the mean of pairs, with the spread of the past beside their own", () => {
    // A pair's variance is half of a day's noise: 2 from the past at 10 degrees, 2 from the pairs at 1.
    const effect = effectOfDays([4, 2], { lasting: 0, daily: 4, degrees: 10, uneven: 0 }, 14)!;
    expect(effect.mean).toBe(3);
    expect(effect.error).toBeCloseTo(Math.sqrt((2 * 10 + 2) / 11 / 2), 9);
    expect(effect.known).toBeCloseTo(2 / 14, 9);
  });

  it("is told by where its interval lies", () => {
    const at = (low: number, high: number) => ({
      mean: (low + high) / 2,
      error: 1,
      low,
      high,
      chance: 0.5,
      known: 1,
      isHarmful: false,
    });
    expect([at(1, 3), at(-3, -1), at(-1, 1), at(-1, 9)].map((effect) => findingOf(effect, 2))).toEqual([
      "more",
      "less",
      "same",
      "open",
    ]);
    expect(findingOf(null, 2)).toBe("open");
    const say = (effect: ReturnType<typeof at> | null, isOver: boolean) =>
      verdictInWords("No ads", "contribution", effect, 2000, isOver, "EUR");
    expect(say(at(1000, 3000), false)).toBe("“No ads” raises contribution from ads by €2.00 a day (€1.00 to €3.00).");
    expect(say(at(-3000, -1000), false)).toBe("“No ads” lowers contribution from ads by €2.00 a day (€1.00 to €3.00).");
    expect(say(at(-1000, 1500), true)).toContain("makes no difference that matters");
    expect(say(at(-1000, 9000), true)).toContain("It could not be told");
    expect(say(at(-1000, 9000), false)).toContain("Not yet");
    expect(say(null, false)).toContain("too few days");
  });
});

describe("noise", () => {
  it("of days a week apart is twice the variance of a pair, by hand", () => {
    const values = [
      ...Array.from({ length: 14 }, (_, day) => (day < 7 ? 5 : 3)),
      ...Array.from({ length: 14 }, (_, day) => (day < 7 ? 1 : 3)),
    ];
    expect(pastPairs(values)).toEqual([2, 2, 2, 2, 2, 2, 2, -2, -2, -2, -2, -2, -2, -2]);
    expect(noiseOfDays(values)).toEqual({ lasting: 0, daily: 8, degrees: 14, uneven: 0 });
    expect(noiseOfDays(values.slice(1))).toBeNull();
  });

  it("of pairs that differ by the same every day is lasting, of pairs that differ by luck is daily", () => {
    const days = 30;
    expect(playedDays(days)).toBe(10);
    // The difference begins with the days that are played, so none of it was there before.
    const steady = seriesOf(
      Array.from({ length: days }, (_, day) => (day < 20 ? 1 : 4)),
      Array.from({ length: days }, () => 1),
    );
    const pair = { with: Uint32Array.of(0), without: Uint32Array.of(1), left: [] };
    expect(noiseOfPairs(steady, pair, Float64Array.of(1, 1))).toMatchObject({ lasting: 9, daily: 0 });
    const shaky = seriesOf(
      Array.from({ length: days }, (_, day) => (day % 2 === 0 ? 2 : 0)),
      Array.from({ length: days }, () => 1),
    );
    const noise = noiseOfPairs(shaky, pair, Float64Array.of(1, 1));
    expect(noise).toMatchObject({ lasting: 0 });
    expect(noise.daily).toBeCloseTo(10 / 9, 9);
    expect(varianceAfter(noise, 5)).toBeCloseTo(2 / 9, 9);
  });

  it("tells what a plan finds and how many days an effect takes, one the other way round", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 10, noNaN: true }),
        fc.double({ min: 0.1, max: 100, noNaN: true }),
        fc.integer({ min: 1, max: 180 }),
        (lasting, daily, days) => {
          const noise = { lasting, daily, degrees: 20, uneven: 0.01 };
          const least = leastFound(noise, days)!;
          expect(daysToFind(noise, least * 1.000001)).toBeLessThanOrEqual(days);
          expect(knownShare(noise, days, days)).toBe(1);
          expect(knownShare(noise, 1, days)).toBeLessThanOrEqual(1);
        },
      ),
    );
    const few = { lasting: 1, daily: 1, degrees: 5, uneven: 0.2 };
    expect([leastFound(few, 28), daysToFind(few, 1000)]).toEqual([null, null]);
    expect(daysToFind({ lasting: 4, daily: 1, degrees: 20, uneven: 0 }, 1)).toBeNull();
  });

  it("counts uneven pairs against a plan: alike ones nothing, by hand", () => {
    const series = seriesOf(...Array.from({ length: 4 }, () => Array.from({ length: 30 }, () => 1)));
    expect(noiseOfPairs(series, PAIRS, Float64Array.of(1, 1, 1, 1)).uneven).toBe(0);
    // Shares 0.75 and 0.25: 2 × (0.25² + 0.25²) ÷ 1.
    expect(noiseOfPairs(series, PAIRS, Float64Array.of(3, 3, 1, 1)).uneven).toBeCloseTo(0.25, 9);
  });
});

describe("means and measures", () => {
  it("are of the days that count", () => {
    const series = seriesOf([1, 2, 3, 4], [0, 0, 8, 0]);
    expect([...meansOf(series, 1, 4)]).toEqual([3, 8 / 3]);
    expect([...meansOf(series, 0, 4, (day) => day !== 2)]).toEqual([7 / 3, 0]);
    expect([...meansOf(series, 2, 2)]).toEqual([0, 0]);
  });

  it("take contribution from sales × margin − cost, and nothing where the margin is not known", () => {
    const line = { clicks: 7, cost: 300, orders: 2, revenue: 2000 };
    expect(adPart("contribution", line, 0.4)).toBe(500);
    expect(adPart("everything", line, 0.4)).toBe(-300);
    expect(adPart("contribution", line, NaN)).toBe(0);
    expect([
      adPart("revenue", line, NaN),
      adPart("orders", line, NaN),
      adPart("clicks", line, NaN),
      adPart("cost", line, NaN),
    ]).toEqual([2000, 2, 7, 300]);
  });
});

describe("definitions", () => {
  const usual = {
    name: "X",
    design: "items",
    change: { kind: "exclude" },
    measure: "everything",
    least: 500,
    days: 28,
  };
  const faults = (over: object) =>
    definitionSchema.safeParse({ ...usual, ...over }).error?.issues.map(({ message }) => message);

  it("are held to what can be told apart", () => {
    expect(faults({})).toBeUndefined();
    expect(faults({ design: "days", campaigns: ["c"] })).toEqual(["“Exclude items” can’t be tried by days."]);
    expect(faults({ design: "days", change: { kind: "pause" }, campaigns: ["c"], days: 20 })).toEqual([
      "Days are paired by weekday in fortnights: 14, 28, 42 and so on.",
    ]);
    expect(faults({ design: "campaigns", change: { kind: "pause" }, measure: "clicks" })).toEqual([
      "Choose campaigns.",
    ]);
    expect(faults({ design: "campaigns", change: { kind: "pause" }, campaigns: ["c"] })?.[0]).toContain(
      "told by item and not by campaign",
    );
    expect(faults({ change: { kind: "item-bid", percent: 0 } })).toEqual(["Another bid, not the same."]);
    expect(faults({ least: 0 })?.[0]).toContain("more than nothing");
  });

  it("have acts and words for every change", () => {
    const examples = [
      { kind: "exclude" },
      { kind: "item-bid", percent: -20 },
      { kind: "worth-bid", towards: "contribution" },
      { kind: "pause" },
      { kind: "flex", flex: { below: 0.2, above: 0.5 } },
      { kind: "slot", slot: "item-pages", factor: 0.5 },
      { kind: "budget", percent: 30 },
      { kind: "keep-out", values: [{ what: "term", match: "exact", value: "free" }] },
    ].map((change) => changeSchema.parse(change));
    expect(new Set(examples.map(({ kind }) => kind))).toEqual(new Set(Object.keys(CHANGES)));
    for (const change of examples) {
      const acts = actsOf(change, { items: ["1", "2"], campaigns: ["a", "b"] }, "2026-12-01", "X");
      expect(acts.length).toBe(change.kind === "keep-out" ? 2 : 1);
      expect(changeInWords(change).length).toBeGreaterThan(3);
      expect(CHANGES[change.kind].designs.every((design) => DESIGNS.includes(design))).toBe(true);
    }
    expect(changeInWords(examples[1]!)).toBe("Bid −20 %");
  });
});
