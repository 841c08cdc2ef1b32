import type { ListingWindow } from "../channel/listing-window";
import type { Target } from "../account/records";
import type { MatchType } from "../channel/match-types";
import { aimedPages } from "./aimed-pages";
import { clickPrice } from "./auction";
import { MATCH_FIT, QueryIndex } from "../channel/matching";
import { SLOTS, slotsOf, type Slot } from "./slot-figures";
import type { Category, Surface, World } from "./world-types";

/** The channel's estimate of what clicks cost. Whole mills; views a month over all places it covers. */
export interface RateCard {
  low: number;
  typical: number;
  high: number;
  monthlyViews: number;
  /** How many queries, pages or placements it covers. */
  places: number;
}

/** Standard scores of winning one auction in five, half of them, and four in five. */
const Z_LOW = -0.8416;
const Z_TYPICAL = 0;
const Z_HIGH = 0.8416;
const DAYS = 30;
/** Quality × fit of a middling ad. */
const MIDDLING = 0.9;

/** What a click costs where an ad of a weight (quality × fit) wins as often as a standard score says. */
function priceAt(surface: Surface, slot: Slot, weight: number, z: number): number {
  const mean = surface.rivalMean + slot.hardness;
  const bid = Math.exp(mean + surface.rivalSpread * z) / weight;
  return clickPrice(Math.ceil(bid), weight, mean, surface.rivalSpread);
}

/**
 * The card over some places, each counting by its views: low wins a fifth of the auctions for the easier slot, typical
 * half of them, high four fifths of those for the best slot.
 */
function cardOver(places: { surface: Surface; weight: number }[]): RateCard | null {
  let views = 0;
  const sums = [0, 0, 0];
  for (const { surface, weight } of places) {
    if (weight <= 0) continue;
    const slots = slotsOf(surface.kind).map((i) => SLOTS[i]!);
    const [best, easier] = [slots[0]!, slots.at(-1) as Slot];
    views += surface.volume;
    sums[0]! += surface.volume * priceAt(surface, easier, weight, Z_LOW);
    sums[1]! += surface.volume * priceAt(surface, easier, weight, Z_TYPICAL);
    sums[2]! += surface.volume * priceAt(surface, best, weight, Z_HIGH);
  }
  if (views === 0) return null;
  const [low, typical, high] = sums.map((sum) => Math.round(sum / views)) as [number, number, number];
  return { low, typical, high, monthlyViews: Math.round(views * DAYS), places: places.length };
}

/** The card of an item: the queries and pages of its category that it fits. */
export function itemCard(world: World, row: number): RateCard | null {
  const category = world.categories[world.rowCategory[row]!]!;
  const place = world.rowPlace[row]!;
  const quality = world.truth.quality[row]!;
  return cardOver(
    category.surfaces
      .filter(({ kind, fit }) => kind !== "placement" && fit[place]! >= 0.5)
      .map((surface) => ({ surface, weight: quality * surface.fit[place]! })),
  );
}

/** One card for several items: prices in the mean, each by its views. A view that two of them could get counts for both. */
export function meanCard(cards: RateCard[]): RateCard | null {
  const views = cards.reduce((sum, card) => sum + card.monthlyViews, 0);
  if (views === 0) return null;
  const mean = (key: "low" | "typical" | "high") =>
    Math.round(cards.reduce((sum, card) => sum + card[key] * card.monthlyViews, 0) / views);
  const places = cards.reduce((sum, card) => sum + card.places, 0);
  return { low: mean("low"), typical: mean("typical"), high: mean("high"), monthlyViews: views, places };
}

/** The card of a category: its queries and pages, for a middling ad. */
export function categoryCard({ surfaces }: Category): RateCard | null {
  const places = surfaces.filter(({ kind }) => kind !== "placement");
  return cardOver(places.map((surface) => ({ surface, weight: MIDDLING })));
}

const indexes = new WeakMap<World, QueryIndex>();

/** The queries of a world to look keywords up in; made once a world. */
function queriesOf(world: World): QueryIndex {
  let index = indexes.get(world);
  if (!index) indexes.set(world, (index = new QueryIndex(world.surfaces.filter(({ kind }) => kind === "query"))));
  return index;
}

/** The card of a keyword: the queries it matches, for a middling ad. Null when nobody searches so. */
export function keywordCard(world: World, text: string, match: MatchType): RateCard | null {
  const weight = MATCH_FIT[match];
  return cardOver(
    queriesOf(world)
      .find(text, match)
      .map((id) => ({ surface: world.surfaces[id]!, weight })),
  );
}

/** The card of a listing's page, for a middling ad. Null when there is no such listing. */
export function listingCard(world: World, listing: string): RateCard | null {
  const pages = world.surfaces.filter((surface) => surface.listing?.id === listing);
  return cardOver(pages.map((surface) => ({ surface, weight: MIDDLING })));
}

/** The card of a category window: the pages in it, for a middling ad. Null when it holds none. */
export function windowCard(world: World, window: ListingWindow): RateCard | null {
  const target = { type: "listingTarget", key: "w", adGroup: "", aim: window, status: "on", bid: null } as const;
  return cardOver(aimedPages(world, target).map((surface) => ({ surface, weight: MIDDLING })));
}

/** The card of what an ad group aims at; null for automatic reach, which has no price of its own, and where nobody looks. */
export function targetCard(world: World, target: Target): RateCard | null {
  if (target.type === "keyword") return keywordCard(world, target.text, target.match);
  if (target.type === "reach") return null;
  return target.aim.by === "listing" ? listingCard(world, target.aim.listing) : windowCard(world, target.aim);
}
