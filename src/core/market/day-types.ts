import type { ServingGroup } from "../planogram/homes";
import type { Learned } from "./learning";
import type { Surface } from "./world";

/** One line of a day's report at full grain. Money in mills. */
export interface Fact {
  campaign: string;
  adGroup: string;
  /** The product group that served. */
  target: string;
  itemNo: number;
  /** The search term or page; "" in partner media, whose report names no term. */
  term: string;
  slot: number;
  impressions: number;
  clicks: number;
  cost: number;
  orders: number;
  units: number;
  revenue: number;
}

export interface PlacementFact {
  campaign: string;
  placement: string;
  impressions: number;
}

export interface StoreFact {
  itemNo: number;
  orders: number;
  units: number;
  revenue: number;
}

export interface CampaignDay {
  campaign: string;
  budget: number;
  cost: number;
  /** Hour (with fraction) at which the budget was gone, or null. */
  dryAt: number | null;
}

export interface DayResult {
  facts: Fact[];
  placements: PlacementFact[];
  store: StoreFact[];
  campaigns: CampaignDay[];
  learned: Learned;
}

export interface DayOptions {
  /** Counts drawn at random (true) or expected values without noise (false), the truth for tests and judgement. */
  noise: boolean;
  /** Names the draws; the world has its own seed. */
  seed: string;
}

/** A home of a row: the serving group and the bid it makes for that row today. */
export interface Home {
  group: ServingGroup;
  campaign: number;
  bid: number;
}

/** What one ad gets from one surface and slot in a whole day at the present state of the auctions. */
export interface Line {
  surface: Surface;
  slot: number;
  row: number;
  home: Home;
  impressions: number;
  ctr: number;
  cvr: number;
  cpc: number;
}

/** Units an order beyond the first, on average. */
export const EXTRA_UNITS = 0.15;
