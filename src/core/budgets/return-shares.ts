import { nextSales, salesAt, spendWhere, type Response } from "./response";

/** A campaign that money is shared out to. */
export interface Taker {
  response: Response;
  /** What is left of a unit of sales after costs that is new, and not taken from another campaign's items. */
  worth: number;
  /** Mills a day that it gets at least and at most. */
  least: number;
  most: number;
}

export interface ReturnShares {
  /** Mills a day for each. */
  amounts: number[];
  /** What one more unit of money would bring after costs, before itself; 1 or less where the rest is better kept. */
  next: number;
  /** Mills of the total that are better not spent. */
  kept: number;
}

/**
 * Shares a total so that the next unit of money brings the same everywhere it is free to go (`docs/formulas.md` 9): maximises
 * Σ worth·sales(x) − Σ x with Σ x ≤ total and least ≤ x ≤ most, by halving on what the next unit brings.
 * @param total mills a day; where floors alone are more than it, they stand
 * @param spendAll shares out all of it, also where it no longer pays for itself
 */
export function shareByReturn(takers: readonly Taker[], total: number, spendAll = false): ReturnShares {
  const amountAt = ({ response, worth, least, most }: Taker, next: number) =>
    Math.min(most, Math.max(least, worth > 0 ? spendWhere(response, next / worth) : 0));
  const sumAt = (next: number) => takers.reduce((sum, taker) => sum + amountAt(taker, next), 0);
  const lowest = spendAll ? LOWEST_NEXT : 1;
  let next = lowest;
  if (sumAt(lowest) > total) {
    let [low, high] = [lowest, 1];
    while (sumAt(high) > total && high < HIGHEST_NEXT) high *= 4;
    for (let i = 0; i < 80; i++) {
      next = Math.sqrt(low * high);
      if (sumAt(next) > total) low = next;
      else high = next;
    }
    next = high;
  }
  const amounts = takers.map((taker) => amountAt(taker, next));
  const spent = amounts.reduce((sum, amount) => sum + amount, 0);
  return {
    amounts,
    next: spendAll && next <= LOWEST_NEXT ? bestNext(takers, amounts) : next,
    kept: Math.max(0, total - spent),
  };
}

/** Beyond what any campaign brings for a unit of money, and below it: floors alone may be more than there is. */
const HIGHEST_NEXT = 1e12;
const LOWEST_NEXT = 1e-9;

function bestNext(takers: readonly Taker[], amounts: readonly number[]): number {
  return Math.max(0, ...takers.map(({ response, worth }, i) => worth * nextSales(response, amounts[i]!)));
}

/** What is left a day after costs and spend, mills. */
export function leftAt(takers: readonly Pick<Taker, "response" | "worth">[], amounts: readonly number[]): number {
  return takers.reduce((sum, { response, worth }, i) => sum + worth * salesAt(response, amounts[i]!) - amounts[i]!, 0);
}

/** The spend a day beyond which a unit more no longer brings itself back, mills. */
export function ceilingOf({ response, worth }: Pick<Taker, "response" | "worth">): number {
  return worth > 0 ? spendWhere(response, 1 / worth) : 0;
}
