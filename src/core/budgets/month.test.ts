import { describe, expect, it } from "vitest";
import { formatDay, parseDay } from "../kit/days";
import { paceOfMonth, weekCourse } from "./month";

const day = parseDay;
/** 10 a day on workdays, 20 at weekends, from a Monday on. */
const MONDAY = day("2026-06-01");
const spentUntil = (days: number) =>
  new Map(Array.from({ length: days }, (_, i) => [MONDAY + i, i % 7 >= 5 ? 20_000 : 10_000]));

describe("spend through a month", () => {
  it("knows how weeks go, drawn a little towards even days", () => {
    const course = weekCourse(spentUntil(28));
    // A mean of 90 ÷ 7; four Saturdays at 20 ÷ (90 ÷ 7), four even days beside them.
    const saturday = (4 * (20 / (90 / 7)) + 4) / 8;
    const monday = (4 * (10 / (90 / 7)) + 4) / 8;
    expect(course[5]).toBeCloseTo(saturday, 9);
    expect(course[0]).toBeCloseTo(monday, 9);
    expect(course.reduce((sum, factor) => sum + factor, 0)).toBeCloseTo(7, 9);
    expect(weekCourse(new Map())).toEqual([1, 1, 1, 1, 1, 1, 1]);
  });

  it("is held against the plan until today, and says what is left a day", () => {
    const pace = paceOfMonth(spentUntil(14), MONDAY + 13, 300_000, 0, 13_000);
    expect([formatDay(pace.from), formatDay(pace.to), pace.daysLeft]).toEqual(["2026-06-01", "2026-06-30", 16]);
    expect(pace.spent).toBe(180_000);
    expect(pace.leftADay).toBe(120_000 / 16);
    // Two whole weeks of a month of four and two workdays.
    expect(pace.due! / 300_000).toBeGreaterThan(14 / 30);
    expect(pace.days.at(-1)!.due).toBeCloseTo(300_000, 6);
    expect(pace.days[13]).toMatchObject({ spent: 180_000 });
    expect(pace.days[14]!.spent).toBeNull();
  });

  it("names the day on which the plan is used up at this pace, later with room to spend over it", () => {
    const even = new Map(Array.from({ length: 10 }, (_, i) => [day("2026-06-01") + i, 10_000]));
    const today = day("2026-06-10");
    const usedUp = (plan: number, over: number) => {
      const { usedUpOn } = paceOfMonth(even, today, plan, over, 10_000);
      return usedUpOn === null ? null : formatDay(usedUpOn);
    };
    expect(usedUp(155_000, 0)).toBe("2026-06-16");
    expect(usedUp(155_000, 10)).toBe("2026-06-18");
    expect(usedUp(400_000, 0)).toBeNull();
    expect(usedUp(90_000, 0)).toBe("2026-06-10");
  });

  it("says without a plan what the month will cost, and nothing of a plan", () => {
    const even = new Map([[day("2026-02-27"), 10_000]]);
    const pace = paceOfMonth(even, day("2026-02-27"), null, 0, 10_000);
    expect(pace).toMatchObject({ plan: null, due: null, leftADay: null, usedUpOn: null, daysLeft: 1 });
    expect(pace.ahead).toBeGreaterThan(19_000);
    expect(pace.days[0]).toMatchObject({ spent: 0, due: null });
  });
});
