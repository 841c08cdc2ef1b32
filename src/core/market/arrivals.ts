import type { Random } from "../kit/random";
import { MIDDLING } from "./nature";

/**
 * Share of the orders of a day's clicks that are seen by so many days later, in a middling world: most at once, the last
 * after two weeks. The market's own truth; the product estimates it from how reports fill up.
 */
export const SEEN_BY: readonly number[] = [
  MIDDLING.prompt,
  ...[0.77, 0.84, 0.88, 0.91, 0.93, 0.945, 0.957, 0.967, 0.975, 0.982, 0.988, 0.993, 0.997, 1],
];

/** The same where another share is seen at once: what comes later is as much more or less, at every age. */
export function seenByAge(prompt: number): number[] {
  const later = (1 - prompt) / (1 - MIDDLING.prompt);
  return SEEN_BY.map((share) => 1 - (1 - share) * later);
}

/** After how many days a drawn order is seen. @param seenBy as {@link seenByAge} gives it */
export function drawnAge(random: Random, seenBy: readonly number[]): number {
  const at = random();
  return seenBy.findIndex((share) => share > at);
}
