import { goalInForce } from "../goals/goals";
import { normalCdf, normalQuantile } from "../kit/stats";

/**
 * What is known of the true return of rows (`docs/formulas.md` 2): orders a click × value an order ÷ cost a click, each unsure, all
 * three in one log-normal, beside the chance that a row sells nothing at all.
 */
export interface Evidence {
  /** Mean of each row's orders a click, given that it sells at all. */
  orderRate: Float64Array;
  /** Mills of sales an order brings. */
  orderValue: Float64Array;
  /** Mills a click. */
  cpc: Float64Array;
  /** Variance of the logarithm of the return. */
  variance: Float64Array;
  /** Chance that the row sells nothing whatever is paid, as sold-out items do. */
  nothing: Float64Array;
  /** Orders that its clicks would have brought so far at the rate of its kind: how much they could tell. */
  expected: Float64Array;
  /** Return at which each row's margin is just used up; left out or NaN where costs are not known. */
  breakEven?: Float64Array;
}

/** What is known of one true return. */
export interface ReturnBelief {
  /** Mean, of a row that sells at all. */
  mean: number;
  /** Variance of its logarithm. */
  variance: number;
  /** Chance that it sells nothing. */
  nothing: number;
}

/** The mean and the ends of the interval that holds the true return with some chance. */
export interface ReturnInterval {
  mean: number;
  low: number;
  high: number;
}

/** What is known of a row's return; null where a click costs nothing. */
export function beliefOf(evidence: Evidence, row: number): ReturnBelief | null {
  const cpc = evidence.cpc[row]!;
  if (cpc <= 0) return null;
  return {
    mean: (evidence.orderRate[row]! * evidence.orderValue[row]!) / cpc,
    variance: evidence.variance[row]!,
    nothing: evidence.nothing[row]!,
  };
}

/** The chance that a true return reaches a goal. */
export function chanceOf({ mean, variance, nothing }: ReturnBelief, goal: number): number {
  if (mean <= 0) return 0;
  const over = Math.log(mean) - variance / 2 - Math.log(goal);
  return (1 - nothing) * normalCdf(over / Math.sqrt(variance));
}

/** The interval that holds a true return with chance `level`, as much left out below as above. */
export function intervalOf({ mean, variance, nothing }: ReturnBelief, level = 0.8): ReturnInterval {
  const tail = (1 - level) / 2;
  const quantile = (p: number) =>
    p <= nothing || mean <= 0
      ? 0
      : mean * Math.exp(normalQuantile((p - nothing) / (1 - nothing)) * Math.sqrt(variance) - variance / 2);
  return { mean: (1 - nothing) * mean, low: quantile(tail), high: quantile(1 - tail) };
}

/** The chance that a row's true return reaches the goal, or its own break-even where that is higher. */
export function chanceOfGoal(evidence: Evidence, row: number, goal: number): number {
  const belief = beliefOf(evidence, row);
  return belief ? chanceOf(belief, goalInForce({ workspace: goal, breakEven: evidence.breakEven?.[row] }).goal) : 0;
}

/** Pooled return of a row with its interval; null where a click costs nothing. */
export function pooledReturn(evidence: Evidence, row: number, level = 0.8): ReturnInterval | null {
  const belief = beliefOf(evidence, row);
  return belief && intervalOf(belief, level);
}
