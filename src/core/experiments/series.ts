import type { Pairs } from "./matching";

/** What units brought a day of one measure. */
export interface Series {
  units: number;
  days: number;
  /** Unit by unit, a value a day. */
  values: Float64Array;
}

/**
 * The mean of a day by unit, from one day to before another.
 * @param counts the days that count; left out, all do
 */
export function meansOf(
  { units, days, values }: Series,
  from: number,
  to: number,
  counts?: (day: number) => boolean,
): Float64Array {
  const means = new Float64Array(units);
  const list: number[] = [];
  for (let day = from; day < to; day++) if (!counts || counts(day)) list.push(day);
  if (list.length === 0) return means;
  for (let unit = 0; unit < units; unit++) {
    let sum = 0;
    for (const day of list) sum += values[unit * days + day]!;
    means[unit] = sum / list.length;
  }
  return means;
}

/**
 * How much of a difference that a pair had before it still has: least squares through 0. What is mostly luck goes back to none,
 * and taking all of it off would bring that luck in twice (control variates; Deng, Xu, Kohavi and Walker 2013).
 */
export function gainOf(before: Float64Array, during: Float64Array, pairs: Pairs): number {
  let [both, squares] = [0, 0];
  pairs.with.forEach((one, at) => {
    const other = pairs.without[at]!;
    const was = before[one]! - before[other]!;
    both += was * (during[one]! - during[other]!);
    squares += was ** 2;
  });
  return squares > 0 ? Math.min(1, Math.max(0, both / squares)) : 0;
}
