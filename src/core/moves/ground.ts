import type { Account } from "../account/account";
import type { ServingGroup } from "../account/walk";
import type { Evidence } from "../evidence/evidence";
import type { GoalInForce } from "../goals/goals";
import type { AdMeasure } from "../kit/metrics";
import type { RowSums } from "../results/window-sums";
import type { HouseRules } from "./house-rules";

/** What a line of a report says of a window. Orders and sales are those seen so far; money in mills. */
export type LineCounts = Record<
  Extract<AdMeasure, "impressions" | "clicks" | "cost" | "orders" | "revenue">,
  number
> & {
  /** Clicks whose orders have come in. */
  seenClicks: number;
};

/** A line of the term report: what one target brought at one term or page. */
export interface PlaceLine extends LineCounts {
  campaign: string;
  adGroup: string;
  target: string;
  /** The term, or the listing whose page it was. */
  place: string;
}

export interface SlotLine extends LineCounts {
  campaign: string;
  adGroup: string;
  /** Place in `SLOT_KEYS`. */
  slot: number;
}

export interface HourLine extends LineCounts {
  campaign: string;
  hour: number;
}

/** What a campaign spent on one of the last days. */
export interface PurseDay {
  campaign: string;
  /** Mills. */
  budget: number;
  cost: number;
  /** Hour with fraction at which its money was gone, or null. */
  dryAt: number | null;
}

/** A bid that was pushed until a day, and what it goes back to, mills. */
export interface Push {
  /** A record's key; an item's ID for bids of items. */
  key: string;
  of: "bid" | "item-bid";
  bid: number;
  back: number;
  /** Its last day, `YYYY-MM-DD`. */
  until: string;
}

/** All that proposers look at. None of them changes anything in it. */
export interface Ground {
  account: Account;
  /** Groups of campaigns that are homes, and of those that aim; for each row the place in `homes` of what serves it first, or −1. */
  homes: readonly ServingGroup[];
  aimed: readonly ServingGroup[];
  first: Int32Array;
  /** The bid under which a row got its clicks, mills; left out where that is its home's. */
  seenBid?(row: number): number;
  rows: number;
  idOf(row: number): string;
  titleOf(row: number): string;
  /** The deepest category of a row, as a code. */
  categoryOf: ArrayLike<number>;
  /** Days of the window that the figures are of. */
  days: number;
  sums: RowSums;
  evidence: Evidence;
  /** Of the last weeks alone, a row: orders seen, and clicks whose orders have come in. */
  recent: { orders: ArrayLike<number>; seenClicks: ArrayLike<number> };
  /** Share of sales left after costs, a row; NaN where costs are not known. */
  margin: ArrayLike<number>;
  /** The return in force for a row, sales per unit of cost, and where it comes from. Bids go by it where margins are not known. */
  goalOf(row: number): GoalInForce;
  /** Whether a row can be bought. */
  isBuyable(row: number): boolean;
  places: readonly PlaceLine[];
  slots: readonly SlotLine[];
  hours: readonly HourLine[];
  /** The last days of each campaign. */
  purses: readonly PurseDay[];
  /** Whether a place of the term report is a listing's page; null where nobody knows. */
  isListing(place: string): boolean | null;
  /** Whether somebody decided against a term or page in the ledger, or it is used elsewhere; left out: none is. */
  isDismissed?(place: string): boolean;
  /** Whether a place is the page of an item of one's own. */
  isOwnPage(place: string): boolean;
  /** Whether a term names a brand of one's own. */
  isOwnBrand(place: string): boolean;
  /**
   * What was changed lately or waits to be, as moves name what they touch: it is not moved again before it could show anything.
   */
  settling: ReadonlySet<string>;
  /** Pushed bids whose last day is over. */
  pushes: readonly Push[];
  rules: HouseRules;
  currency: string;
}
