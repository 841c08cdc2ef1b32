import { normalCdf } from "../kit/stats";

/**
 * Which of our items stands for us in an auction is drawn with chances sᶿ ÷ Σ sᶿ of their scores (a logit choice,
 * McFadden 1974): the better mostly, the others now and then. It then meets the rivals with its own score and pays by it,
 * so that several items alike win no more often than one of them.
 */
export const SHARPNESS = 4;

/** No place is clicked or bought at more often than this. */
const MOST = 0.5;

/**
 * How well an item fits what is looked for shows in who clicks and who buys as well: its fit to the power of the world's
 * `closeness`.
 */
export function felt(fit: number, closeness: number): number {
  return fit >= 1 ? 1 : fit ** closeness;
}

/** Clicks a view of an ad. @param fit as {@link felt} */
export function clickRate(slotCtr: number, surfaceCtr: number, quality: number, fit: number): number {
  return Math.min(MOST, slotCtr * surfaceCtr * Math.sqrt(quality) * fit);
}

/** Orders a click, of an item that can be bought. @param fit as {@link felt} */
export function orderRate(cvr: number, fit: number): number {
  return Math.min(MOST, cvr * fit);
}

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
