import { z } from "zod";

/** A category window: listings of a category within ends of price, rating and reviews. */
export const listingWindowSchema = z.object({
  by: z.literal("category"),
  /** The category's whole path, or the beginning of it. */
  category: z.string().min(1).max(500),
  /** Mills. */
  priceFrom: z.int().min(0).nullable().default(null),
  priceTo: z.int().min(0).nullable().default(null),
  /** Stars, 1 to 5. */
  ratingFrom: z.number().min(1).max(5).nullable().default(null),
  ratingTo: z.number().min(1).max(5).nullable().default(null),
  reviewsTo: z.int().min(0).nullable().default(null),
});
export type ListingWindow = z.infer<typeof listingWindowSchema>;

/** What a window looks at in a listing. Price in mills; null where it is not known, which lies in no bounded window. */
export interface WindowedListing {
  category: string;
  price: number | null;
  rating: number | null;
  reviews: number | null;
}

/** Whether a category is another one or lies below it. */
export function liesBelow(category: string, above: string): boolean {
  return `${category} >`.startsWith(`${above} >`);
}

/** Whether a window holds a listing. Both ends count as inside. */
export function windowHolds(window: ListingWindow, listing: WindowedListing): boolean {
  const within = (value: number | null, from: number | null, to: number | null) =>
    value === null ? from === null && to === null : (from === null || value >= from) && (to === null || value <= to);
  return (
    liesBelow(listing.category, window.category) &&
    within(listing.price, window.priceFrom, window.priceTo) &&
    within(listing.rating, window.ratingFrom, window.ratingTo) &&
    within(listing.reviews, null, window.reviewsTo)
  );
}
