import type { Day } from "../kit/days";
import type { AdMeasure } from "../kit/metrics";
import type { Pressure } from "./answer";
import { nothingLearned, type Learned } from "./learning";
import type { Surface } from "./world-types";

/** What came of clicks: counts, and mills. */
export type Counts = Record<AdMeasure, number>;

/** One line of a day at full grain. Money in mills. */
export interface Fact extends Counts {
  campaign: string;
  adGroup: string;
  /** The product group, keyword, listing target or reach that served. */
  target: string;
  itemNo: number;
  /** The search term or the listing whose page it was; "" in partner media, whose report names no term. */
  term: string;
  slot: number;
}

/** An order that a report shows days after its click. */
export interface LateOrder {
  /** The day of the click, and the day the order is seen. */
  day: Day;
  due: Day;
  campaign: string;
  adGroup: string;
  target: string;
  itemNo: number;
  /** The item that was bought, where it is not the one clicked. */
  bought?: number;
  term: string;
  slot: number;
  hour: number;
  orders: number;
  units: number;
  revenue: number;
}

/** What a placement did; its report tells the impressions and keeps the rest to itself. */
export interface PlacementFact extends Counts {
  campaign: string;
  placement: string;
}

export interface HourFact extends Counts {
  campaign: string;
  hour: number;
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

/** What the market carries from one day into the next. */
export interface MarketState {
  learned: Learned;
  /** Mills of this month's budgets not spent yet, by campaign, and the month they are of. */
  carry: Record<string, number>;
  month: number;
  /** Factor on bids of campaigns that are after clicks, by which the channel keeps them within their budgets. */
  pace: Record<string, number>;
  /** Orders that have happened and are not in reports yet. */
  late: LateOrder[];
  /** How much rivals have seen of us; states kept before rivals answered know of none. */
  pressure?: Pressure;
}

/** The state before the first day. */
export function firstState(): MarketState {
  return { learned: nothingLearned(), carry: {}, month: -1, pace: {}, late: [], pressure: {} };
}

export interface DayResult {
  /** As the day's first report shows it: orders that are seen on the day of their click. */
  facts: Fact[];
  /** Orders of earlier clicks that are seen today; reports of those days are restated by them. */
  arrived: LateOrder[];
  placements: PlacementFact[];
  hours: HourFact[];
  store: StoreFact[];
  campaigns: CampaignDay[];
  state: MarketState;
}

export interface DayOptions {
  /** Counts drawn at random (true) or expected values without noise (false), the truth for tests and judgement. */
  noise: boolean;
  /** Names the draws; the world has its own seed. */
  seed: string;
}

/** What one ad gets from one surface and slot in a whole day at the present state of the auctions. */
export interface Line {
  surface: Surface;
  slot: number;
  row: number;
  campaign: number;
  adGroup: string;
  target: string;
  /** Mills a click at most, after every factor. */
  bid: number;
  /** The hours' factor in it, which tells its hours from others. */
  hourFactor: number;
  impressions: number;
  ctr: number;
  cvr: number;
  /** Whole mills. */
  cpc: number;
}
