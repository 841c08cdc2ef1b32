import { describe, expect, it } from "vitest";
import { courseOfDay, fullDayCost, nextFactor, shareUntil } from "./money-price";

const counts = { clicks: 0, cost: 0, orders: 0, revenue: 0, seenClicks: 0 };

describe("the price of money", () => {
  it("draws a whole day from the share of it that the money lasted", () => {
    // Twice as many views an hour from noon on: 12 of 36 parts lie before it, 24 of 36 before 18:00.
    const hours = Array.from({ length: 24 }, (_, hour) => ({
      ...{ campaign: "a", hour, impressions: hour < 12 ? 1000 : 2000 },
      ...counts,
    }));
    const course = courseOfDay(hours, []);
    expect(shareUntil(course, 12)).toBeCloseTo(1 / 3, 12);
    expect(shareUntil(course, 18)).toBeCloseTo(2 / 3, 12);
    expect(shareUntil(course, 12.5)).toBeCloseTo(13 / 36, 12);
    expect(fullDayCost({ cost: 10_000, dryAt: 12 }, course)).toBeCloseTo(30_000, 6);
    expect(fullDayCost({ cost: 10_000, dryAt: null }, course)).toBe(10_000);
  });

  it("knows no course from campaigns whose money ran out, nor from a few views", () => {
    const hours = [{ campaign: "a", hour: 3, impressions: 50_000, ...counts }];
    const dry = [{ campaign: "a", budget: 1, cost: 1, dryAt: 4 }];
    expect(courseOfDay(hours, dry)[12]).toBe(0.5);
    expect(courseOfDay([{ ...hours[0]!, impressions: 10 }], [])[12]).toBe(0.5);
  });

  it("brings bids down to where a day's money lasts, and never above what clicks are worth", () => {
    expect(nextFactor(1, 50, 100, 1)).toBe(0.5);
    expect(nextFactor(0.5, 100, 50, 1)).toBe(1);
    expect(nextFactor(0.8, 50, 100, 0.7)).toBeCloseTo(0.8 * 0.5 ** 0.7, 12);
    expect(nextFactor(0.3, 50, 0, 0.7)).toBe(1);
  });
});
