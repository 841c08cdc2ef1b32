import { solve } from "../kit/stats";

/** Rounds of Newton steps; the likelihood is concave, so few do. */
const ROUNDS = 6;

/** At most this many rows are used, evenly picked: a handful of numbers settles early. */
const MOST_ROWS = 12_000;

/** How large an effect is usually: each covariate's coefficient is taken to be normal around 0 with this spread. */
const USUAL_EFFECT = 1;

/** Coefficients, and the covariance of their errors (inverse of the curvature of the log posterior). */
export interface Effects {
  effects: number[];
  covariance: number[][];
}

/**
 * Regression of order rates on what is known of rows beside their ads: orders are Poisson with mean
 * exposure × exp(Σ coefficient × covariate), more scattered than Poisson by a Gamma of the given shape (negative
 * binomial weights), coefficients with a mild normal prior (ridge). Newton's method (iteratively weighted least squares).
 * @param exposure expected orders without effects: clicks × the rate of the level above
 * @param shape how much rows differ beyond Poisson
 * @returns one coefficient a covariate, and how unsure they are together
 */
export function fitEffects(
  orders: ArrayLike<number>,
  exposure: ArrayLike<number>,
  covariates: Float64Array[],
  shape: number,
): Effects {
  const size = covariates.length;
  const used: number[] = [];
  for (let row = 0; row < orders.length; row++) if (exposure[row]! > 0) used.push(row);
  const every = Math.max(1, Math.floor(used.length / MOST_ROWS));
  let effects = new Array<number>(size).fill(0);
  let known: number[][] = [];
  for (let round = 0; round < ROUNDS; round++) {
    const gradient = effects.map((effect) => -effect / USUAL_EFFECT ** 2);
    const curve = effects.map((_, a) => effects.map((__, b) => (a === b ? 1 / USUAL_EFFECT ** 2 : 0)));
    for (let at = 0; at < used.length; at += every) {
      const row = used[at]!;
      let log = 0;
      for (let a = 0; a < size; a++) log += effects[a]! * covariates[a]![row]!;
      const expected = exposure[row]! * Math.exp(Math.max(-20, Math.min(20, log)));
      const weight = 1 / (1 + expected / shape);
      for (let a = 0; a < size; a++) {
        const x = covariates[a]![row]!;
        gradient[a]! += weight * x * (orders[row]! - expected);
        for (let b = 0; b <= a; b++) curve[a]![b]! += weight * expected * x * covariates[b]![row]!;
      }
    }
    for (let a = 0; a < size; a++) for (let b = a + 1; b < size; b++) curve[a]![b] = curve[b]![a]!;
    known = curve;
    const step = solve(curve, gradient);
    // Long steps overshoot where counts are few.
    effects = effects.map((effect, a) => effect + Math.max(-1, Math.min(1, step[a]!)));
  }
  return { effects, covariance: inverse(known) };
}

/** The inverse of a symmetric matrix, a column at a time. */
function inverse(matrix: number[][]): number[][] {
  return matrix.map((_, a) =>
    solve(
      matrix,
      matrix.map((__, b) => (a === b ? 1 : 0)),
    ),
  );
}

/**
 * How unsure a sum of effects is for a row, as a variance: xᵀ Σ x (its leverage). It is small where rows like it brought
 * orders, and grows the further a row lies from all of them.
 */
export function unsureAt(covariance: readonly number[][], value: (a: number) => number): number {
  let sum = 0;
  for (let a = 0; a < covariance.length; a++) {
    const x = value(a);
    if (x === 0) continue;
    sum += covariance[a]![a]! * x * x;
    for (let b = 0; b < a; b++) sum += 2 * covariance[a]![b]! * x * value(b);
  }
  return Math.max(0, sum);
}
