import type { Random } from "../kit/random";

/**
 * Share of the orders of a day's clicks that are seen by so many days later: most at once, the last after two weeks.
 * The market's own truth; the product estimates it from how reports fill up.
 */
export const SEEN_BY: number[] = [
  0.62, 0.77, 0.84, 0.88, 0.91, 0.93, 0.945, 0.957, 0.967, 0.975, 0.982, 0.988, 0.993, 0.997, 1,
];

/** After how many days a drawn order is seen. */
export function drawnAge(random: Random): number {
  const at = random();
  return SEEN_BY.findIndex((share) => share > at);
}
