import jstat from "jstat";

/** Standard normal distribution function Φ, absolute error below 7.5e-8 (Abramowitz and Stegun 26.2.17). */
export function normalCdf(x: number): number {
  const t = 1 / (1 + 0.2316419 * Math.abs(x));
  const density = 0.3989422804014327 * Math.exp((-x * x) / 2);
  const poly = t * (0.31938153 + t * (-0.356563782 + t * (1.781477937 + t * (-1.821255978 + t * 1.330274429))));
  return x >= 0 ? 1 - density * poly : density * poly;
}

/** The p-quantile of the standard normal distribution. */
export function normalQuantile(p: number): number {
  return jstat.normal.inv(p, 0, 1);
}

/** Solves a small system of linear equations: one row of factors and one right side an equation. */
export function solve(matrix: number[][], right: number[]): number[] {
  // The library lays the right side beside the rows it is given, so it gets copies.
  return jstat.gauss_elimination(
    matrix.map((row) => [...row]),
    right.map((value) => [value]),
  );
}

/**
 * Type 7 quantile (Hyndman and Fan 1996) of values that need not be sorted.
 * @returns null for no values.
 */
export function quantile(values: ArrayLike<number>, p: number): number | null {
  const sorted = Float64Array.from(values).sort();
  if (sorted.length === 0) return null;
  const h = (sorted.length - 1) * p;
  const low = Math.floor(h);
  const a = sorted[low]!;
  const b = sorted[Math.min(low + 1, sorted.length - 1)]!;
  return a + (h - low) * (b - a);
}
