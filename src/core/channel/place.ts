import { z } from "zod";

/** What a listing is to us; unknown where nobody said. */
export const LISTING_ROLES = ["rival", "companion", "own", "unknown"] as const;
export type ListingRole = (typeof LISTING_ROLES)[number];

/** Kinds of what a channel tells of: what is searched for, pages of listings, and items of our own. */
export const PLACE_KINDS = ["query", "listing", "item"] as const;

const mills = z.int().min(0).max(1_000_000_000_000).nullable().default(null);

/**
 * What a channel tells of one place: a query, the page of a listing, or all places that an item of ours could stand at. What
 * it does not tell is null. Money in mills.
 */
export const placeSchema = z.object({
  kind: z.enum(PLACE_KINDS),
  /** The search term, the listing's ID, or the item's. */
  name: z.string().min(1).max(500),
  /** Its category as the catalogue writes it; empty where it is not known. A term may stand in several. */
  category: z.string().max(500).default(""),
  role: z.enum(LISTING_ROLES).default("unknown"),
  /** What a click costs a middling ad that wins a fifth of the auctions, half of them, and four fifths of those for the best slot. */
  low: mills,
  typical: mills,
  high: mills,
  monthlyViews: z.int().min(0).nullable().default(null),
  /** How many queries and pages it stands for. */
  places: z.int().min(1).default(1),
  /** What shoppers see: of a listing's page, and of an item of ours. */
  title: z.string().max(300).default(""),
  price: mills,
  /** Stars, 1 to 5. */
  rating: z.number().min(1).max(5).nullable().default(null),
  reviews: z.int().min(0).nullable().default(null),
});
export type Place = z.infer<typeof placeSchema>;
