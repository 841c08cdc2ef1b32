import { HOUR_SHARE } from "./hours";

/**
 * At so many different sets of bids a category's auctions are held within a day. Where hours differ more, those whose
 * factors lie nearest are taken together at their mean, so that a day with 24 factors takes hardly longer than one with three.
 */
export const MOST_DAYPARTS = 3;

/** The hours of a day by the bids that count in them. */
export interface Dayparts {
  /** The part that each of the 24 hours belongs to. */
  of: number[];
  /** By part: the factor of each member, in their order; 0 where it does not serve. */
  factors: number[][];
}

interface Part {
  hours: number[];
  /** Share of the day's traffic. */
  weight: number;
  factors: number[];
}

/** What taking two parts together costs: how far their logarithms lie apart, by traffic (Ward 1963). */
function lossOf(a: Part, b: Part): number {
  let apart = 0;
  for (let i = 0; i < a.factors.length; i++) {
    const [one, other] = [a.factors[i]!, b.factors[i]!];
    // Who does not serve in an hour must not serve in it because of its neighbours.
    if ((one === 0) !== (other === 0)) return Infinity;
    if (one > 0) apart += Math.log(one / other) ** 2;
  }
  return ((a.weight * b.weight) / (a.weight + b.weight)) * apart;
}

function together(a: Part, b: Part): Part {
  const weight = a.weight + b.weight;
  const factors = a.factors.map((factor, i) => (factor * a.weight + b.factors[i]! * b.weight) / weight);
  return { hours: [...a.hours, ...b.hours], weight, factors };
}

/**
 * Sets hours together until no more than `most` parts are left; more stay only where different members are off.
 * @param hours by member: a factor on bids for each of the 24 hours, or null for 1 throughout
 */
export function daypartsOf(hours: (readonly number[] | null)[], most = MOST_DAYPARTS): Dayparts {
  const parts = new Map<string, Part>();
  HOUR_SHARE.forEach((weight, hour) => {
    const factors = hours.map((list) => list?.[hour] ?? 1);
    const part = parts.get(factors.join());
    if (part) {
      part.hours.push(hour);
      part.weight += weight;
    } else parts.set(factors.join(), { hours: [hour], weight, factors });
  });
  const list = [...parts.values()];
  while (list.length > most) {
    let [least, at, with_] = [Infinity, -1, -1];
    for (let i = 0; i < list.length; i++) {
      for (let j = i + 1; j < list.length; j++) {
        const loss = lossOf(list[i]!, list[j]!);
        if (loss < least) [least, at, with_] = [loss, i, j];
      }
    }
    if (at < 0) break;
    list[at] = together(list[at]!, list[with_]!);
    list.splice(with_, 1);
  }
  const of = new Array<number>(24).fill(0);
  list.forEach((part, i) => part.hours.forEach((hour) => (of[hour] = i)));
  return { of, factors: list.map(({ factors }) => factors) };
}
