import type { ListingRole } from "../channel/place";
import type { TermOrListing } from "./place-kind";

/** What a line of the term report was aimed at, as results are divided by it. */
export const AIMS_TOLD = [
  "own brand searches",
  "other searches",
  "own pages",
  "rival pages",
  "companion pages",
  "other pages",
] as const;
export type AimTold = (typeof AIMS_TOLD)[number];

/** What tells aims apart. */
export interface AimHints {
  kindOf(place: string): TermOrListing | null;
  isOwnBrand(term: string): boolean;
  /** What a listing is to us; undefined where nobody said. */
  roleOf(listing: string): ListingRole | undefined;
  isOwnPage(listing: string): boolean;
}

/** What a term or page is to us; undefined where it is neither, or nobody knows which. */
export function aimTold(place: string, { kindOf, isOwnBrand, roleOf, isOwnPage }: AimHints): AimTold | undefined {
  if (place === "") return undefined;
  const kind = kindOf(place);
  if (kind === null) return undefined;
  if (kind === "term") return isOwnBrand(place) ? "own brand searches" : "other searches";
  if (isOwnPage(place)) return "own pages";
  const role = roleOf(place) ?? "unknown";
  return role === "own" ? "own pages" : role === "unknown" ? "other pages" : `${role} pages`;
}
