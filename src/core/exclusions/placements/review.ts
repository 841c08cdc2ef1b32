/** What somebody can judge of a placement without keeping it out. */
export const PLACEMENT_JUDGEMENTS = ["leave", "doubtful"] as const;
export type PlacementJudgement = (typeof PLACEMENT_JUDGEMENTS)[number];

/** Growth after which what was judged is looked at again, and impressions a day below which nothing has grown. */
const GROWN = 3;
const LEAST_A_DAY = 10;

/** Whether a placement shows so much more than when it was judged that the judgement is to be made again. @param judgedBy, now impressions a day */
export function hasGrown(judgedBy: number, now: number): boolean {
  return now > GROWN * Math.max(judgedBy, LEAST_A_DAY);
}

/**
 * Whether somebody is to judge a placement: nobody did, or it has grown since, and it is not kept out everywhere.
 * @param judgedBy impressions a day when it was judged, null where it was not; @param now impressions a day
 */
export function isToJudge(judgedBy: number | null, now: number, keptOut: "everywhere" | "in part" | null): boolean {
  return keptOut !== "everywhere" && (judgedBy === null || hasGrown(judgedBy, now));
}

/** What is known of reviews so far. */
export interface ReviewState {
  /** Day of the last judgement, or null where nobody judged yet. */
  last: number | null;
  /** Impressions of placements that nobody judged, and of all. */
  unjudged: number;
  all: number;
}

/** Days until the next look: a month where much is new, a quarter where little is. */
const SOON = 30;
const LATE = 90;
/** Shares of impressions on placements that nobody judged, between which the days go from late to soon. */
const LITTLE = 0.02;
const MUCH = 0.2;

/**
 * The day of the next review: the more impressions stand where nobody judged, the sooner, monthly to quarterly.
 * @returns null where there is nothing to review
 */
export function nextReview({ last, unjudged, all }: ReviewState, today: number): number | null {
  if (all <= 0 || unjudged <= 0) return null;
  if (last === null) return today;
  const share = unjudged / all;
  const pressing = Math.min(1, Math.max(0, (share - LITTLE) / (MUCH - LITTLE)));
  return last + Math.round(LATE - pressing * (LATE - SOON));
}
