import { CHANNEL_LIMITS } from "../channel/limits";
import { wholeCents } from "../kit/money";

/** A bid by worth goes no further than this from the starting bid, up or down, until somebody has looked at it. */
const WIDEST = 3;

/** Bids stand on steps of so much, so that a plan laid anew over slightly other results changes none. */
const STEP = 1.12;

/**
 * The bid at which a group reaches the goal on average: what a click on its items is worth ÷ goal, within a third and three
 * times the starting bid, on even steps.
 * @param worth mills of sales a click; NaN for unknown
 * @param goal sales per unit of cost
 * @returns mills; the starting bid where nothing is known
 */
export function worthBid(worth: number, goal: number, startingBid: number): number {
  if (!Number.isFinite(worth) || startingBid <= 0) return startingBid;
  const wanted = Math.max(startingBid / WIDEST, Math.min(startingBid * WIDEST, worth / goal));
  const steps = Math.round(Math.log(wanted / startingBid) / Math.log(STEP));
  return Math.max(CHANNEL_LIMITS.lowestBid, wholeCents(startingBid * STEP ** steps));
}
