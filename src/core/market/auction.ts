import { normalCdf } from "../kit/stats";

/**
 * How alike our own items are to a query differs from auction to auction. With Gumbel noise on the log score of
 * inverse scale θ, the best of our scores is again Gumbel, about ln (Σ sᶿ) / θ, and each item is that best one with
 * chance sᶿ / Σ sᶿ, independent of how high it is (McFadden 1974). So one sum settles which item shows and how often.
 */
export const SHARPNESS = 4;

/** A click never costs less than this, in mills. */
export const LEAST_CPC = 20;

/** Chance that a best score wins against rivals whose best is log-normal: Φ((ln s − μ)/σ). */
export function winChance(logScore: number, mean: number, spread: number): number {
  return normalCdf((logScore - mean) / spread);
}

/**
 * Expected score of the rivals' best, given that it lies below ours (mean of a log-normal truncated from above).
 * It is what a winner has to beat, so what the click costs before our own quality is divided out.
 */
export function expectedSecondScore(logScore: number, mean: number, spread: number): number {
  const won = winChance(logScore, mean, spread);
  const score = Math.exp(logScore);
  if (won < 1e-9) return score;
  const shifted = normalCdf((logScore - mean - spread * spread) / spread);
  return Math.min(score, (Math.exp(mean + (spread * spread) / 2) * shifted) / won);
}

/**
 * Whole mills a click costs for an ad with a bid and a weight (quality × fit): the second score over the weight, at
 * least the market's floor, never more than the bid.
 */
export function clickPrice(bid: number, weight: number, mean: number, spread: number): number {
  const second = expectedSecondScore(Math.log(bid * weight), mean, spread);
  return Math.min(bid, Math.max(LEAST_CPC, Math.ceil(second / weight)));
}
