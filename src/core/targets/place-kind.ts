import { MATCH_TYPES } from "../channel/match-types";
import { partsOfReach } from "../account/records/reach";
import type { Target } from "../account/records";

/** What a line of the term report is: something searched for, or the page of a listing. */
export const PLACE_KINDS_TOLD = ["term", "listing"] as const;
export type TermOrListing = (typeof PLACE_KINDS_TOLD)[number];

/** What speaks for one or the other, by a line's text. */
export interface PlaceHints {
  /** A code of the catalogue, or of a listing that somebody told of. */
  isListing(text: string): boolean;
  /** Something that the channel says is searched for. */
  isQuery(text: string): boolean;
  /** What served there, as far as reports say. */
  served(text: string): { asTerm: boolean; asListing: boolean };
}

/**
 * Whether a line is a term or the page of a listing: by what served there, by what the catalogue and the channel know, then by its
 * shape. Null where they are at odds or say nothing: then somebody has to be asked.
 */
export function placeKindOf(text: string, hints: PlaceHints): TermOrListing | null {
  const { asTerm, asListing } = hints.served(text);
  const isListing = asListing || hints.isListing(text);
  const isTerm = asTerm || hints.isQuery(text);
  if (isListing !== isTerm) return isListing ? "listing" : "term";
  // Somebody may search for a title by its very words: then it is both, and only the one who asks knows which is meant.
  if (isListing) return null;
  if (/^(https?:\/\/|www\.)/i.test(text.trim())) return "listing";
  return looksLikeCode(text) ? null : "term";
}

/** One word with a digit in it, or without any letter, may be a listing's code as well as a term. */
function looksLikeCode(text: string): boolean {
  const word = text.trim();
  if (/\s/.test(word)) return false;
  if (!/\p{L}/u.test(word)) return true;
  return word.length >= 6 && /\d/.test(word) && !/\p{Ll}{4}/u.test(word);
}

/** What a target that served says of the places it served at; null where it reaches both, or nothing is known of it. */
export function kindServed(target: Target | undefined, matchType: string | undefined): TermOrListing | null {
  if (target?.type === "keyword") return "term";
  if (target?.type === "listingTarget") return "listing";
  if (target?.type === "reach") return partsOfReach(target.kind).ground === "searches" ? "term" : "listing";
  return (MATCH_TYPES as readonly string[]).includes(matchType?.trim().toLowerCase() ?? "") ? "term" : null;
}
