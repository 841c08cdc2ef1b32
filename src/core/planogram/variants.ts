import { MATCH_TYPES, type MatchType } from "../channel/match-types";
import { OLD_REACHES, REACHES, reachInWords, type ReachName } from "../account/records/reach";
import type { Planogram } from "./planogram";

/** What campaigns of one planogram are apart by: a match type, or a reach. */
export type Variant = MatchType | ReachName;

/** What a planogram makes campaigns of their own for beside the ladder: match types or reaches; null where none. */
export function variantsOf({ kind, apart, keywords, reach = [...REACHES] }: Planogram): (Variant | null)[] {
  if (apart && (kind === "keyword" || kind === "text") && keywords) return keywords.matches;
  return apart && kind === "discovery" ? reach : [null];
}

/** What campaigns of a variant are told apart by in their keys. */
export function variantKey({ oldReachKeys }: Pick<Planogram, "oldReachKeys">, variant: Variant): string {
  return (oldReachKeys && OLD_REACHES[variant as ReachName]) || variant;
}

/** A variant as names of campaigns say it; "" where a campaign is for several. */
export function variantInWords(variant: Variant | null): string {
  return variant === null || isMatchType(variant) ? (variant ?? "") : reachInWords(variant);
}

function isMatchType(variant: Variant): variant is MatchType {
  return (MATCH_TYPES as readonly string[]).includes(variant);
}
