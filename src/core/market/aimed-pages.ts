import type { ListingTarget } from "../account/records/listing-target";
import type { Surface, World } from "./world-types";

/** The pages that a listing target reaches. */
export function aimedPages(world: World, { aim }: ListingTarget): Surface[] {
  if (aim.by === "listing") {
    return world.surfaces.filter((surface) => surface.listing !== null && surface.listing.id === aim.listing);
  }
  const within = (value: number, from: number | null, to: number | null) =>
    (from === null || value >= from) && (to === null || value <= to);
  return world.surfaces.filter((surface) => {
    const { listing } = surface;
    if (!listing || surface.kind === "own-page") return false;
    return (
      (world.categories[world.categoryOf[surface.id]!]!.name + " >").startsWith(`${aim.category} >`) &&
      within(listing.price, aim.priceFrom, aim.priceTo) &&
      within(listing.rating, aim.ratingFrom, aim.ratingTo) &&
      within(listing.reviews, null, aim.reviewsTo)
    );
  });
}
