import { describe, expect, it } from "vitest";
import { poisson, randomFrom } from "../kit/random";
import { SEEN_BY } from "../market/arrivals";
import { betweenLooks, estimateLag, NO_LAG, seenShare, type Arrival } from "./lag";

describe("the lag curve", () => {
  it("is worked out by hand from two days that filled up and one that has not", () => {
    // Day 1: 60, then 30, then 10. Day 2: 80, then 40. Day 3: 50 so far. Known up to day 3.
    const arrivals: Arrival[] = [
      { day: 1, age: 0, orders: 60 },
      { day: 1, age: 1, orders: 30 },
      { day: 1, age: 2, orders: 10 },
      { day: 2, age: 0, orders: 80 },
      { day: 2, age: 1, orders: 40 },
      { day: 3, age: 0, orders: 50 },
    ];
    const { share, orders } = estimateLag(arrivals, (day) => 3 - day);
    // Growth from age 0 to 1: (90 + 120) ÷ (60 + 80) = 1.5; from 1 to 2: 100 ÷ 90.
    expect(share).toHaveLength(3);
    expect(share[2]).toBe(1);
    expect(share[1]).toBeCloseTo(0.9, 12);
    expect(share[0]).toBeCloseTo(0.9 / 1.5, 12);
    expect(orders).toBe(270);
    expect(seenShare({ share, orders }, 0)).toBeCloseTo(0.6, 12);
    expect([seenShare({ share, orders }, 9), seenShare(NO_LAG, 0)]).toEqual([1, 1]);
  });

  it("takes a day that was first read in late from there on, so old files do not look like growth", () => {
    const { share } = estimateLag(
      [
        { day: 1, age: 0, orders: 80 },
        { day: 1, age: 1, orders: 20 },
        // Read in for the first time when it was three days old.
        { day: 2, age: 3, orders: 500 },
      ],
      (day) => 9 - day,
    );
    expect(share).toEqual([0.8, 1, 1, 1]);
  });

  it("spreads what came between two looks over the days between them", () => {
    const looks = betweenLooks([
      { day: 1, age: 1, orders: 64 },
      { day: 1, age: 3, orders: 36 },
      { day: 2, age: 0, orders: 10 },
    ]);
    // 64 to 100 in two equal steps: × 1.25 each.
    expect(looks.map(({ day, age }) => [day, age])).toEqual([
      [1, 1],
      [1, 2],
      [1, 3],
      [2, 0],
    ]);
    expect(looks.map(({ orders }) => orders)).toEqual([64, expect.closeTo(16, 9), expect.closeTo(20, 9), 10]);
  });

  it("is not drawn from few orders, nor where nothing comes late", () => {
    expect(
      estimateLag(
        [
          { day: 1, age: 0, orders: 20 },
          { day: 1, age: 1, orders: 9 },
        ],
        (day) => 5 - day,
      ).share,
    ).toEqual([]);
    expect(estimateLag([{ day: 1, age: 0, orders: 500 }], (day) => 5 - day).share).toEqual([]);
  });

  it("comes near the truth it was drawn from", () => {
    const random = randomFrom("lag");
    const arrivals: Arrival[] = [];
    for (let day = 0; day < 120; day++) {
      SEEN_BY.forEach((until, age) => {
        const part = until - (SEEN_BY[age - 1] ?? 0);
        if (day + age < 120) arrivals.push({ day, age, orders: poisson(random, 40 * part) });
      });
    }
    const curve = estimateLag(arrivals, (day) => 119 - day);
    SEEN_BY.forEach((truth, age) => expect(Math.abs(seenShare(curve, age) - truth)).toBeLessThan(0.02));
  });
});
