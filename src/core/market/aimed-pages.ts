import type { ListingTarget } from "../account/records/listing-target";
import { windowHolds } from "../channel/listing-window";
import type { Surface, World } from "./world-types";

/** The pages that a listing target reaches; a window of a category leaves our own out. */
export function aimedPages(world: World, { aim }: ListingTarget): Surface[] {
  if (aim.by === "listing") {
    return world.surfaces.filter((surface) => surface.listing !== null && surface.listing.id === aim.listing);
  }
  return world.surfaces.filter(({ id, kind, listing }) => {
    if (!listing || kind === "own-page") return false;
    const category = world.categories[world.categoryOf[id]!]!.name;
    return windowHolds(aim, { category, ...listing });
  });
}
