import { randomFrom } from "../kit/random";

/** Days that are planned together: each weekday is there twice, once with the change and once without. */
export const FORTNIGHT = 14;
const WEEK = 7;

/**
 * On which days a change is in force: of each weekday in a fortnight a coin says in which of the two weeks.
 * @param days a multiple of a fortnight; what is over is left out
 */
export function planDays(days: number, seed: string): boolean[] {
  const random = randomFrom("days", seed);
  const plan: boolean[] = [];
  for (let from = 0; from + FORTNIGHT <= days; from += FORTNIGHT) {
    for (let weekday = 0; weekday < WEEK; weekday++) {
      const isFirst = random() < 0.5;
      // What is sent begins the plan, so its first day has the change.
      plan[from + weekday] = isFirst || from + weekday === 0;
      plan[from + weekday + WEEK] = !plan[from + weekday];
    }
  }
  return plan;
}

/** The pairs of days of a plan: `[with, without]`, counted from its first day. */
export function pairsOfDays(plan: readonly boolean[]): [number, number][] {
  const pairs: [number, number][] = [];
  for (let from = 0; from + FORTNIGHT <= plan.length; from += FORTNIGHT) {
    for (let weekday = 0; weekday < WEEK; weekday++) {
      const [first, second] = [from + weekday, from + weekday + WEEK];
      pairs.push(plan[first] ? [first, second] : [second, first]);
    }
  }
  return pairs;
}
