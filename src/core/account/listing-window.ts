import type { ListingTarget } from "./records/listing-target";

/** A category window: listings of a category within ends of price, rating and reviews. */
export type ListingWindow = Extract<ListingTarget["aim"], { by: "category" }>;

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
