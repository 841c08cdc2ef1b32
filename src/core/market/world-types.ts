import type { Nature } from "./nature";

/** What brings a shopper to a query; see `docs/market.md`. */
export const QUERY_CLASSES = [
  "broad",
  "attribute",
  "long",
  "own-brand",
  "rival-brand",
  "bargain",
  "how-to",
  "off-topic",
] as const;
export type QueryClass = (typeof QUERY_CLASSES)[number];

/** Where an ad can stand, as the reaches tell it apart. */
export const SURFACE_KINDS = ["query", "rival-page", "companion-page", "own-page", "placement"] as const;
export type SurfaceKind = (typeof SURFACE_KINDS)[number];

/** What a shopper sees of a listing. */
export interface Listing {
  /** The ID reports and targets name it by; for a page of our own, the item's ID. */
  id: string;
  title: string;
  /** Mills. */
  price: number;
  /** Stars, 1 to 5. */
  rating: number;
  reviews: number;
}

/** A place that shoppers look at: a query, a listing's page, or a partner placement, within one category. */
export interface Surface {
  /** Its number in the world. */
  id: number;
  kind: SurfaceKind;
  /** For queries. */
  queryClass: QueryClass | null;
  /** What a report calls it: the search term, the listing's ID, the placement's address. */
  label: string;
  /** For pages. */
  listing: Listing | null;
  /** For a page of our own, its catalogue row; else -1. */
  ownRow: number;
  /** Views on an average day. */
  volume: number;
  /** Mean and spread of the logarithm of the rivals' best score there, in mills. */
  rivalMean: number;
  rivalSpread: number;
  /** Click and conversion factors of what people there want. */
  ctr: number;
  cvr: number;
  /** How well each of the category's rows fits, in the order of `Category.rows`. */
  fit: Float64Array;
  /** Factor on the conversion of each of the category's rows, or null for 1: how an item compares with a rival's. */
  lift: Float64Array | null;
  /** Share of the ad orders from here that would not have come anyway. */
  incremental: number;
}

export interface Category {
  name: string;
  rows: number[];
  surfaces: Surface[];
  /** Day of the year of the season's peak, and how strong the season is, 0 to 1. */
  peakDay: number;
  seasonality: number;
}

/** The hidden truth of every item, one value a catalogue row. */
export interface ItemTruth {
  /** How good its picture, title and page are; 1 is middling. Multiplies the bid into the score. */
  quality: Float64Array;
  /** Orders a click for a shopper of middling intent, on a middling day; {@link conversionsOn} tells it of a day. */
  cvr: Float64Array;
  /** Store orders a day without any ad, in a middling season. */
  organic: Float64Array;
  /** Mills a unit as shoppers pay it. */
  price: Float64Array;
  /** Stars and reviews as shoppers see them. */
  rating: Float64Array;
  reviews: Float64Array;
  /** Share of organic orders that rivals take on the item's own page while nothing of ours stands there. */
  exposed: Float64Array;
  /** Units an order beyond the first, and share of units that are sent back. */
  extraUnits: Float64Array;
  returned: Float64Array;
  /** The rows that are bought in its place now and then: one of its family, one of its category; -1 for none. */
  kin: Int32Array;
  beside: Int32Array;
  /** When its conversion swings: days a round, and where in it day 0 lies (radians). */
  swingDays: Float64Array;
  swingPhase: Float64Array;
  /** 1 when it can be bought. */
  inStock: Uint8Array;
  /** The day it came into the catalogue, NaN when it was always there. */
  since: Float64Array;
}

/** A partner placement: a site, an app, a channel. */
export interface Placement {
  address: string;
  /** The name shown to advertisers, which can sound better than the address. */
  name: string;
  kind: "site" | "app" | "channel";
  /** The department of the catalogue it is about, or another subject. */
  topic: string;
  /** Not fit for a shop's ads: what a triage must find. */
  isUnsafe: boolean;
  ctr: number;
  cvr: number;
  /** Views a day on average, over all categories. */
  volume: number;
}

export interface World {
  seed: string;
  /** What sets it apart from the worlds of other seeds. */
  nature: Nature;
  /** Conversion by slot and hour against the day's, and by slot against an item's own. */
  buyingByHour: number[][];
  slotBuying: number[];
  itemNo: Float64Array;
  truth: ItemTruth;
  categories: Category[];
  placements: Placement[];
  /** All surfaces by number, and each one's category. */
  surfaces: Surface[];
  categoryOf: Int32Array;
  /** The category of each catalogue row, and its place in `Category.rows`. */
  rowCategory: Int32Array;
  rowPlace: Int32Array;
}
