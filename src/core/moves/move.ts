import type { Edit } from "../account/acts";
import { normalCdf, normalQuantile } from "../kit/stats";
import type { RuleKey } from "./house-rules";

/** A mean, and what holds the truth with a chance of 80 %. */
export interface Between {
  mean: number;
  low: number;
  high: number;
}

/** 80 % of a normal distribution lie within so many standard deviations on both sides. */
const WITHIN = normalQuantile(0.9);

/** An interval around a mean from its variance. */
export function between(mean: number, variance: number): Between {
  const reach = WITHIN * Math.sqrt(variance);
  return { mean, low: mean - reach, high: mean + reach };
}

/** What a move is expected to change, a day. Money in mills; contribution null where costs are not known. */
export interface Expected {
  clicks: number;
  cost: number;
  revenue: number;
  contribution: Between | null;
}

export const NOTHING_EXPECTED: Expected = {
  ...{ clicks: 0, cost: 0, revenue: 0 },
  contribution: { mean: 0, low: 0, high: 0 },
};

/** What several things are expected to change together; how unsure they are is taken as not connected. */
export function sumExpected(parts: readonly Expected[]): Expected {
  const sum = (key: "clicks" | "cost" | "revenue") => parts.reduce((all, part) => all + part[key], 0);
  let [mean, below, above, isKnown] = [0, 0, 0, true];
  for (const { contribution } of parts) {
    if (!contribution) isKnown = false;
    else {
      mean += contribution.mean;
      below += (contribution.mean - contribution.low) ** 2;
      above += (contribution.high - contribution.mean) ** 2;
    }
  }
  return {
    ...{ clicks: sum("clicks"), cost: sum("cost"), revenue: sum("revenue") },
    contribution: isKnown ? { mean, low: mean - Math.sqrt(below), high: mean + Math.sqrt(above) } : null,
  };
}

/** A share of what is expected to change. */
export function scaleExpected({ clicks, cost, revenue, contribution }: Expected, share: number): Expected {
  return {
    ...{ clicks: clicks * share, cost: cost * share, revenue: revenue * share },
    contribution: contribution && {
      ...{ mean: contribution.mean * share, low: contribution.low * share, high: contribution.high * share },
    },
  };
}

/** One act of an edit. */
export type MoveAct = Exclude<Edit, { action: "several" }>;

/**
 * Something that is proposed to be done to the account: acts as people do them, what they stand on, and what is expected of
 * them. It is worked out on one state of the account; what it changes is made anew, by its acts, on the state it is accepted on.
 */
export interface Move {
  /** The same for the same thing to be done to the same records, whatever the amounts. */
  key: string;
  proposer: string;
  /** What it is about, and the campaign it lies in. */
  about: string;
  campaign: string | null;
  /** What would change, and why. */
  what: string;
  why: string;
  acts: MoveAct[];
  /** The amount that may be adjusted: present and proposed, mills. */
  amount: { from: number; to: number } | null;
  /** What holds the amount back, a house rule or the channel; null where nothing does. */
  limitedBy: RuleKey | "channel" | null;
  /** Clicks and orders that it stands on. */
  stands: { clicks: number; orders: number };
  expected: Expected;
  /** Catalogue rows whose results tell what came of it; none where it is about a place or the whole account. */
  rows: number[];
  /** Names of what it touches: moves that touch the same are not made without looking again. */
  touches: string[];
}

/** Days of the month that money at stake is told for. */
const MONTH = 30;

/** What is expected of a move a month, by the chance that it is positive: by this moves are sorted. Mills. */
export function atStake({ expected }: Move): number {
  const { contribution } = expected;
  if (!contribution) return 0;
  const { mean, low, high } = contribution;
  if (mean <= 0) return 0;
  const spread = (high - low) / (2 * WITHIN);
  const chance = spread > 0 ? normalCdf(mean / spread) : 1;
  return MONTH * mean * chance;
}
