/** How a keyword may match what is searched for. */
export const MATCH_TYPES = ["exact", "phrase", "broad"] as const;
export type MatchType = (typeof MATCH_TYPES)[number];
