import type { Account } from "../account/account";
import type { Day } from "../kit/days";
import type { Sums } from "../kit/metrics";
import type { Between } from "../moves/move";
import type { TermOrListing } from "../targets/place-kind";
import type { Sure } from "./table";

/** Levels whose lines a stocktake looks at; a report that does not tell one leaves it out. */
export const STOCK_LEVELS = [
  "campaign",
  "adGroup",
  "campaignKind",
  "adKind",
  "matchType",
  "aim",
  "slot",
  "hour",
  "placementKind",
  "placement",
  "target",
  "term",
  "item",
] as const;
export type StockLevel = (typeof STOCK_LEVELS)[number];

/** A line of a level over the window. */
export interface StockLine {
  key: string;
  name: string;
  sums: Sums;
  /** Chance that its true return reaches the goal, and where that return lies; null without spend. */
  chance: number | null;
  sure: Sure | null;
  /** Of campaigns: days of the last ones on which the money was gone, and the usual hour; null where nobody told. */
  dryDays?: number | null;
  dryHour?: number | null;
  /** Of terms. */
  placeKind?: TermOrListing | null;
}

/** One day of the whole. */
export interface StockDay {
  day: Day;
  clicks: number;
  cost: number;
  revenue: number;
  /** Orders seen so far, and clicks by the share of their orders that has come in. */
  orders: number;
  seenClicks: number;
}

/** What the catalogue and the structure say of an item. Amounts in mills. */
export interface StockItem {
  key: string;
  name: string;
  brand: string;
  /** The first step of its category. */
  category: string;
  price: number | null;
  /** Days since it was first read; null where that is not known. */
  age: number | null;
  isBuyable: boolean;
  /** Campaigns that are its home by name, by the account as the channel has it; null without an account. */
  homes: string[] | null;
  /** Whether it lacks a home by nobody's choice. */
  isForgotten: boolean;
  /** What it cost in the last seven days; its results are the line of the same key. */
  lateCost: number;
}

/** What is proposed already, as far as a stocktake needs it. A day, mills. */
export interface StockMove {
  key: string;
  proposer: string;
  about: string;
  campaign: string | null;
  what: string;
  clicks: number;
  orders: number;
  cost: number;
  contribution: Between | null;
}

/** Own pages and brand searches, and how much of them is ours. */
export interface StockHeld {
  place: string;
  what: "page" | "brand";
  monthlyViews: number | null;
  impressions: number;
  clicks: number;
  orders: number;
  revenue: number;
  share: number | null;
  /** Whether something is aimed at it by name. */
  isAimedAt: boolean;
}

/** The groups that serve whatever no other takes, with what they cost. */
export interface StockLeak {
  /** The campaign's key, and what it is called. */
  campaign: string;
  name: string;
  items: number;
  cost: number;
  revenue: number;
}

/** All that a stocktake looks at. Money in mills. */
export interface Material {
  from: Day;
  to: Day;
  /** Days of the window that have results. */
  days: number;
  currency: string;
  goal: number;
  /** Share of what is named sure among many that may be wrong. */
  falseAlarms: number;
  total: Sums;
  /** What the reports do not tell. */
  missing: (keyof Sums)[];
  daily: StockDay[];
  levels: Partial<Record<StockLevel, StockLine[]>>;
  /** What the report of a level tells of the whole, where that is another sum than the total: shares of its lines are of this. */
  totals: Partial<Record<StockLevel, Sums>>;
  /** What the report of a level does not tell: no value, not nought. */
  missingOf: Partial<Record<StockLevel, (keyof Sums)[]>>;
  /** How many lines a level has where not all are here. */
  counts: Partial<Record<StockLevel, number>>;
  items: StockItem[];
  account: Account | null;
  /** Null where nothing can be proposed: no account, no catalogue or no results. */
  moves: StockMove[] | null;
  held: StockHeld[] | null;
  leaks: StockLeak[] | null;
  /** Of how many last days it is known when campaigns ran dry; 0 where nobody told. */
  purseDays: number;
}

/** What a level's lines are of, what shares of it are called, and what its report does not tell. */
export interface Whole {
  sums: Sums;
  spend: string;
  sales: string;
  missing: (keyof Sums)[];
}

/** What a level's lines are of; null for lines that are made of items. */
export function wholeOf({ totals, missingOf, total, missing }: Material, level: StockLevel | null): Whole {
  const of = level ?? "item";
  const own = totals[of];
  return {
    sums: own ?? total,
    spend: own ? "the spend in that report" : "the spend",
    sales: own ? "the sales in that report" : "ad sales",
    missing: missingOf[of] ?? missing,
  };
}

/** Whether a report tells what returns are worked from. */
export function tellsReturns({ missing }: Pick<Whole, "missing">): boolean {
  return !(["clicks", "cost", "orders", "revenue"] as const).some((of) => missing.includes(of));
}
