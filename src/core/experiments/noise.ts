import { deviationsToFind } from "./bounds";
import { gainOf, meansOf, type Series } from "./series";
import type { Pairs } from "./matching";

/**
 * How far the difference of two arms strays where nothing was changed. Of so many days its variance is
 * `lasting + daily ÷ days`: what sets the arms apart for as long as one looks, and what evens out. Squares of a day's measure.
 */
export interface Noise {
  lasting: number;
  daily: number;
  /** Degrees of freedom of an effect's standard error. */
  degrees: number;
  /**
   * How unevenly an effect falls on pairs of different size, as the variance that an effect of 1 has by that: a change that brings
   * each its share of what it has makes pairs differ, and few uneven pairs tell less.
   */
  uneven: number;
}

/** The variance of the difference of two arms after so many days. */
export function varianceAfter({ lasting, daily }: Noise, days: number): number {
  return lasting + daily / Math.max(1, days);
}

/** What is known after so many days, as a share of what is known at the end of a plan. */
export function knownShare(noise: Noise, days: number, planned: number): number {
  if (days <= 0) return 0;
  const now = varianceAfter(noise, days);
  return now <= 0 ? Math.min(1, days / planned) : Math.min(1, varianceAfter(noise, planned) / now);
}

/** The smallest effect a day that a plan finds four times of five; null where pairs are too few and too uneven to find any. */
export function leastFound(noise: Noise, days: number): number | null {
  const reach = deviationsToFind(noise.degrees) ** 2;
  const left = 1 - reach * noise.uneven;
  return left <= 0 ? null : Math.sqrt((reach * varianceAfter(noise, days)) / left);
}

/** After how many days an effect of a size is found four times of five; null where no number of days is enough. */
export function daysToFind(noise: Noise, least: number): number | null {
  const target = least ** 2 * (1 / deviationsToFind(noise.degrees) ** 2 - noise.uneven) - noise.lasting;
  return target <= 0 ? null : Math.max(1, Math.ceil(noise.daily / target));
}

/** Days at the end of what is past that play the experiment; the days before them play what was before it. */
const PLAYED_DAYS = 28;
/** Days that are needed to say anything: half of them to match by, half to play it. */
export const LEAST_PAST = 28;

/** How the days known of pairs are divided to play the experiment on days when nothing was changed. */
export function playedDays(days: number): number {
  return Math.min(PLAYED_DAYS, Math.floor(days / 3));
}

/**
 * The noise of pairs, from days on which nothing was changed: the last of them play the experiment. Which of a pair goes with the
 * change is a coin's work, so a difference counts whatever its sign.
 * @param pairs made of what was known before the last days, so that they are as alike there as pairs will be when it counts
 * @param sizes of units, such as their clicks, that an effect is taken to go by
 */
export function noiseOfPairs(series: Series, pairs: Pairs, sizes: Float64Array): Noise {
  const played = playedDays(series.days);
  const before = meansOf(series, 0, series.days - played);
  const during = meansOf(series, series.days - played, series.days);
  const gain = gainOf(before, during, pairs);
  let all = 0;
  let daily = 0;
  pairs.with.forEach((one, at) => {
    const other = pairs.without[at]!;
    const mean = during[one]! - during[other]! - gain * (before[one]! - before[other]!);
    all += mean ** 2;
    let squares = 0;
    for (let day = series.days - played; day < series.days; day++) {
      const apart = series.values[one * series.days + day]! - series.values[other * series.days + day]!;
      squares += (apart - (during[one]! - during[other]!)) ** 2;
    }
    daily += played > 1 ? squares / (played - 1) : 0;
  });
  const degrees = Math.max(1, pairs.with.length - 1);
  return { lasting: Math.max(0, all - daily / played), daily, degrees, uneven: unevenness(pairs, sizes) };
}

/** The variance that the sum over pairs has by their size alone, were the effect on all of them 1. */
function unevenness(pairs: Pairs, sizes: Float64Array): number {
  const count = pairs.with.length;
  const own = Array.from(pairs.with, (unit, at) => sizes[unit]! + sizes[pairs.without[at]!]!);
  const all = own.reduce((sum, size) => sum + size, 0);
  if (count < 2 || all <= 0) return 0;
  const squares = own.reduce((sum, size) => sum + (size / all - 1 / count) ** 2, 0);
  return (count * squares) / (count - 1);
}

/** The noise of pairs of days a week apart, from days on which nothing was changed; null for less than two fortnights. */
export function noiseOfDays(values: ArrayLike<number>): Noise | null {
  const apart = pastPairs(values);
  if (apart.length < LEAST_PAST / 2) return null;
  const variance = apart.reduce((sum, value) => sum + value ** 2, 0) / apart.length;
  return { lasting: 0, daily: 2 * variance, degrees: apart.length, uneven: 0 };
}

/** Differences of days a week apart, each day in one pair. */
export function pastPairs(values: ArrayLike<number>): number[] {
  const pairs: number[] = [];
  for (let from = values.length % 14; from + 14 <= values.length; from += 14) {
    for (let weekday = 0; weekday < 7; weekday++) pairs.push(values[from + weekday]! - values[from + weekday + 7]!);
  }
  return pairs;
}
