import type { Target } from "../account/records";
import type { RateBook, RateCard } from "../channel/rate-card";

/** The card of what an ad group aims at; null for automatic reach, which has no price of its own, and where none is known. */
export function cardOfTarget(book: RateBook, target: Target): RateCard | null {
  if (target.type === "keyword") return book.keyword(target.text, target.match);
  if (target.type === "reach") return null;
  return target.aim.by === "listing" ? book.listing(target.aim.listing) : book.window(target.aim);
}

/** Whether nobody looks where something aims, by what is known; null where nothing is known of such places. */
export function isUnheard(book: RateBook, target: Target): boolean | null {
  if (target.type === "keyword") return book.hasNoQuery(target.text, target.match);
  if (target.type === "reach") return false;
  return target.aim.by === "listing" ? book.hasNoListing(target.aim.listing) : book.hasNoneIn(target.aim);
}
