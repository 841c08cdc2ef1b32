import { monthAround, weekday, type Day } from "../kit/days";

/** How spend goes through a month against what was planned for it. Money in mills. */
export interface MonthPace {
  /** First and last day of the month. */
  from: Day;
  to: Day;
  /** The last day with results, and days of the month after it. */
  today: Day;
  daysLeft: number;
  plan: number | null;
  /** Spent until today, and what the plan would have spent until then. */
  spent: number;
  due: number | null;
  /** What the month costs where days go on as the last ones did. */
  ahead: number;
  /** What may be spent a day from now on for the plan to come out, never below nothing; null without a plan or days. */
  leftADay: number | null;
  /** The day on which the plan, with what may be spent over it, is used up at the present pace; null where it lasts. */
  usedUpOn: Day | null;
  days: { day: Day; spent: number | null; due: number | null }[];
}

/** A weekday's share of a week is drawn towards an even one by so many days. */
const EVEN_DAYS = 4;

/**
 * How much of a week's spend falls on each weekday, Monday first; their mean is 1.
 * @param spent by day; days that are not there are not counted
 */
export function weekCourse(spent: ReadonlyMap<Day, number>): number[] {
  const [sums, counts] = [new Array<number>(7).fill(0), new Array<number>(7).fill(0)];
  for (const [day, cost] of spent) {
    sums[weekday(day)]! += cost;
    counts[weekday(day)]!++;
  }
  const all = [...spent.values()].reduce((sum, cost) => sum + cost, 0);
  const mean = spent.size > 0 ? all / spent.size : 0;
  if (mean <= 0) return new Array<number>(7).fill(1);
  const course = sums.map((sum, at) => (sum / mean + EVEN_DAYS) / (counts[at]! + EVEN_DAYS));
  const usual = course.reduce((sum, factor) => sum + factor, 0) / 7;
  return course.map((factor) => factor / usual);
}

/**
 * Spend of the month of a day against its plan: the plan falls on days by how weeks usually go.
 * @param spent by day, of the month and some weeks before it
 * @param today the last day with results
 * @param plan mills for the month, or null
 * @param over how much more than the plan may be spent, per cent
 * @param pace mills a day as things go now
 */
export function paceOfMonth(
  spent: ReadonlyMap<Day, number>,
  today: Day,
  plan: number | null,
  over: number,
  pace: number,
): MonthPace {
  const { from, to } = monthAround(today);
  const course = weekCourse(spent);
  const span = Array.from({ length: to - from + 1 }, (_, i) => from + i);
  const whole = span.reduce((sum, day) => sum + course[weekday(day)]!, 0);
  let [planned, soFar] = [0, 0];
  let due: number | null = plan === null ? null : 0;
  const days = span.map((day) => {
    if (plan !== null) planned += (plan * course[weekday(day)]!) / whole;
    const cost = day <= today ? (spent.get(day) ?? 0) : null;
    soFar += cost ?? 0;
    if (day === today && plan !== null) due = planned;
    return { day, spent: cost === null ? null : soFar, due: plan === null ? null : planned };
  });
  let [running, usedUpOn] = [soFar, null as Day | null];
  for (let day = today + 1; day <= to; day++) {
    running += pace * course[weekday(day)]!;
    if (plan !== null && usedUpOn === null && running > plan * (1 + over / 100)) usedUpOn = day;
  }
  if (plan !== null && soFar > plan * (1 + over / 100)) usedUpOn = today;
  const daysLeft = to - today;
  return {
    ...{ from, to, today, daysLeft, plan, spent: soFar, due, ahead: running, usedUpOn, days },
    leftADay: plan === null || daysLeft === 0 ? null : Math.max(0, plan - soFar) / daysLeft,
  };
}
