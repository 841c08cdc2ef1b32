import type { Random } from "../kit/random";
import { MIDDLING, type Nature } from "./nature";

/**
 * Share of the orders of a day's clicks that are seen by so many days later, in a middling world: most at once, the last
 * after two weeks. The market's own truth; the product estimates it from how reports fill up.
 */
export const SEEN_BY: readonly number[] = [
  MIDDLING.prompt,
  ...[0.77, 0.84, 0.88, 0.91, 0.93, 0.945, 0.957, 0.967, 0.975, 0.982, 0.988, 0.993, 0.997, 1],
];

/**
 * The same in another world: what is not seen at once is as much more or less, and takes longer or shorter, the last after
 * two weeks all the same. Of what is outstanding a share r is left at an age in the middling world, r^(1 ÷ tardy) in this.
 */
export function seenByAge({ prompt, tardy }: Pick<Nature, "prompt" | "tardy">): number[] {
  return SEEN_BY.map((share) => 1 - (1 - prompt) * ((1 - share) / (1 - MIDDLING.prompt)) ** (1 / tardy));
}

/** After how many days a drawn order is seen. @param seenBy as {@link seenByAge} gives it */
export function drawnAge(random: Random, seenBy: readonly number[]): number {
  const at = random();
  return seenBy.findIndex((share) => share > at);
}
