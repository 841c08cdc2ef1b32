import type { HourLine, PurseDay } from "../moves/ground";

/*
 * What the last unit of money brings beyond itself, one for the whole account (`docs/formulas.md` 6): where there is more to
 * buy well than money, every bid comes down by the same factor, so that money lasts through the day and goes where it brings
 * most. The factor is 1 ÷ (1 + price of money).
 */

/** Share of a day's views that lie before each hour, from hours in which campaigns had money; evenly where nothing is known. */
export function courseOfDay(hours: readonly HourLine[], purses: readonly PurseDay[]): number[] {
  const isDry = new Set(purses.filter(({ dryAt }) => dryAt !== null).map(({ campaign }) => campaign));
  const views = Array.from({ length: 24 }, () => 0);
  for (const { campaign, hour, impressions } of hours) if (!isDry.has(campaign)) views[hour]! += impressions;
  const all = views.reduce((sum, count) => sum + count, 0);
  let before = 0;
  return Array.from({ length: 25 }, (_, hour) => {
    const share = all >= LEAST_VIEWS ? before / all : hour / 24;
    before += views[hour] ?? 0;
    return share;
  });
}

/** Views from which they tell how a day goes. */
const LEAST_VIEWS = 1000;

/** Share of the day up to an hour with fraction. */
export function shareUntil(course: readonly number[], hour: number): number {
  const whole = Math.min(23, Math.floor(hour));
  return course[whole]! + (hour - whole) * (course[whole + 1]! - course[whole]!);
}

/** A share below this is no basis to draw a whole day from. */
const LEAST_SHARE = 0.05;

/** Share of a day's views that a campaign lived to see. */
export function seenOfDay(dryAt: number | null, course: readonly number[]): number {
  return dryAt === null ? 1 : Math.max(LEAST_SHARE, shareUntil(course, dryAt));
}

/** What a day of a campaign would have cost with money until midnight, mills. */
export function fullDayCost({ cost, dryAt }: Pick<PurseDay, "cost" | "dryAt">, course: readonly number[]): number {
  return cost / seenOfDay(dryAt, course);
}

/**
 * The factor on bids for the week to come, from the present one: closer to where a full day costs what there is.
 * @param factor present bids over what clicks leave after costs, times caution
 * @param money mills a day that may be spent
 * @param full mills that a full day costs at present bids
 * @param pace exponent, 1 closes the whole gap at once
 */
export function nextFactor(factor: number, money: number, full: number, pace: number): number {
  // Without money, or without a cost, there is nothing to hold against each other.
  if (full <= 0 || money <= 0) return 1;
  return Math.min(1, factor * (money / full) ** pace);
}
