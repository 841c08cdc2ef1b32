import type { Nature } from "./nature";
import { SLOT_KEYS } from "../kit/slots";

/** Share of a day's traffic in each hour, 0 to 23: a shop's day with its evening peak. */
export const HOUR_SHARE: number[] = (() => {
  const raw = [8, 5, 3, 2, 2, 4, 10, 20, 32, 40, 45, 47, 46, 45, 44, 44, 46, 50, 56, 64, 68, 60, 40, 20];
  const sum = raw.reduce((a, b) => a + b, 0);
  return raw.map((weight) => weight / sum);
})();

/** How readily people buy in each hour of a middling world: they look at noon and buy in the evening. */
const COURSE = [
  0.6, 0.5, 0.45, 0.45, 0.5, 0.6, 0.75, 0.85, 0.9, 0.95, 0.95, 0.9, 0.85, 0.9, 0.92, 0.95, 1, 1.05, 1.12, 1.22, 1.3,
  1.25, 1.05, 0.8,
];

/** The course at an hour with a fraction, round the clock. */
function courseAt(hour: number): number {
  const whole = Math.floor(hour);
  const at = (h: number) => COURSE[((h % 24) + 24) % 24]!;
  return at(whole) + (hour - whole) * (at(whole + 1) - at(whole));
}

/** How far each slot follows the course of the day beyond a middling one, for each unit of a nature's `meeting`. */
const MEETS = { "lead-row": 1, "lower-results": -1, "item-pages": 0, "partner-media": 0 } as const;

/**
 * Conversion by hour against the day's, for each slot in the order of `SLOT_KEYS`. Weighted by traffic each is 1, so that
 * the day's mean conversion is the item's own.
 */
export function buyingByHour({ hourSwing, hourShift, meeting }: Nature): number[][] {
  return SLOT_KEYS.map((slot) => {
    const swing = hourSwing * (1 + meeting * MEETS[slot]);
    const raw = HOUR_SHARE.map((_, hour) => courseAt(hour - hourShift) ** swing);
    const mean = raw.reduce((sum, value, hour) => sum + value * HOUR_SHARE[hour]!, 0);
    return raw.map((value) => value / mean);
  });
}

/** Share of the day's traffic that has passed when each hour begins; 24 ends the day. */
const PASSED: number[] = HOUR_SHARE.reduce((sums, share) => [...sums, (sums.at(-1) as number) + share], [0]);

/** Share of the day's traffic that has passed at an hour, 0 to 24. */
export function shareAtHour(hour: number): number {
  return hour >= 24 ? 1 : PASSED[hour]!;
}

/** The hour (with fraction, 0 to 24) by which a share of the day's traffic has passed. */
export function hourAtShare(share: number): number {
  for (let hour = 0; hour < 24; hour++) {
    const width = HOUR_SHARE[hour]!;
    if (PASSED[hour]! + width >= share) return hour + (share - PASSED[hour]!) / width;
  }
  return 24;
}

/** How the traffic between two shares of the day falls on the hours; sums to 1. */
export function hoursBetween(from: number, to: number): Float64Array {
  const parts = new Float64Array(24);
  const width = to - from;
  if (width <= 0) return parts;
  for (let hour = 0; hour < 24; hour++) {
    const start = Math.max(from, PASSED[hour]!);
    const end = Math.min(to, hour === 23 ? 1 : PASSED[hour + 1]!);
    if (end > start) parts[hour] = (end - start) / width;
  }
  return parts;
}
