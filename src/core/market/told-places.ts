import type { ListingRole, Place } from "../channel/place";
import { clickPrice } from "./auction";
import { SLOTS, slotsOf, type Slot } from "./slot-figures";
import type { Surface, SurfaceKind, World } from "./world-types";

/** Standard scores of winning one auction in five, half of them, and four in five. */
const Z_LOW = -0.8416;
const Z_TYPICAL = 0;
const Z_HIGH = 0.8416;
const DAYS = 30;
/** Quality × fit of a middling ad on a page; on a query it counts as 1, from where each match type's fit goes off. */
const MIDDLING_ON_PAGES = 0.9;
/** Places that an item fits less than this are not counted as its own. */
const LEAST_FIT = 0.5;

/** What a click costs where an ad of a weight (quality × fit) wins as often as a standard score says. */
function priceAt(surface: Surface, slot: Slot, weight: number, z: number): number {
  const mean = surface.rivalMean + slot.hardness;
  const bid = Math.exp(mean + surface.rivalSpread * z) / weight;
  return clickPrice(Math.ceil(bid), weight, mean, surface.rivalSpread);
}

/** What a click costs at one place: low wins a fifth of the auctions for its easier slot, typical half of them, high four fifths of those for the best one. */
function pricesAt(surface: Surface, weight: number): [low: number, typical: number, high: number] {
  const slots = slotsOf(surface.kind).map((i) => SLOTS[i]!);
  const [best, easier] = [slots[0]!, slots.at(-1) as Slot];
  return [
    priceAt(surface, easier, weight, Z_LOW),
    priceAt(surface, easier, weight, Z_TYPICAL),
    priceAt(surface, best, weight, Z_HIGH),
  ];
}

const ROLE: Partial<Record<SurfaceKind, ListingRole>> = {
  "rival-page": "rival",
  "companion-page": "companion",
  "own-page": "own",
};

/**
 * What the test market tells advertisers of its queries and pages: prices of a middling ad, views, and what shoppers see.
 * All that an account is run by, who buys and why, stays with it.
 */
export function* toldPlaces(world: World): Generator<Place> {
  for (const { name: category, surfaces } of world.categories) {
    for (const surface of surfaces) {
      if (surface.kind === "placement") continue;
      const { kind, label, listing, volume } = surface;
      const [low, typical, high] = pricesAt(surface, kind === "query" ? 1 : MIDDLING_ON_PAGES);
      yield {
        ...{ kind: listing ? "listing" : "query", name: listing?.id ?? label, category, places: 1 },
        ...{ role: ROLE[kind] ?? "unknown", low, typical, high, monthlyViews: Math.round(volume * DAYS) },
        ...{ title: listing?.title ?? "", price: listing ? Math.round(listing.price) : null },
        ...{ rating: listing?.rating ?? null, reviews: listing ? Math.round(listing.reviews) : null },
      };
    }
  }
}

/**
 * What the test market tells of one item of ours: prices over the queries and pages that it fits, for an ad as good as its
 * own, and what shoppers see of it.
 * @param id the item's ID
 */
export function toldItem(world: World, row: number, id: string): Place {
  const { truth } = world;
  const category = world.categories[world.rowCategory[row]!]!;
  const at = world.rowPlace[row]!;
  const sums = [0, 0, 0];
  let [views, places] = [0, 0];
  for (const surface of category.surfaces) {
    const fit = surface.fit[at]!;
    if (surface.kind === "placement" || fit < LEAST_FIT) continue;
    places++;
    views += surface.volume;
    pricesAt(surface, truth.quality[row]! * fit).forEach((price, i) => (sums[i]! += surface.volume * price));
  }
  const price = (i: number) => (views === 0 ? null : Math.round(sums[i]! / views));
  return {
    ...{ kind: "item", name: id, category: category.name, role: "own", title: "", places: Math.max(1, places) },
    ...{ low: price(0), typical: price(1), high: price(2), monthlyViews: Math.round(views * DAYS) },
    price: Math.round(truth.price[row]!),
    rating: Math.min(5, Math.max(1, Math.round(truth.rating[row]! * 10) / 10)),
    reviews: Math.round(truth.reviews[row]!),
  };
}
