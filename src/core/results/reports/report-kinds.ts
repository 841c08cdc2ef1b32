import { z } from "zod";
import { daySchema } from "../../kit/day-schema";
import { AD_MEASURES, type AdMeasure } from "../../kit/metrics";

/** The kinds of report that can be read in. */
export const REPORT_KINDS = ["item", "term", "placement", "slot", "hour", "store"] as const;
export type ReportKind = (typeof REPORT_KINDS)[number];

export const REPORT_LABEL: Record<ReportKind, string> = {
  item: "Item report",
  term: "Target and search-term report",
  placement: "Placement report",
  slot: "Slot report",
  hour: "Hour report",
  store: "Store sales",
};

export const REPORT_FIELDS = [
  "day",
  "lastDay",
  "campaign",
  "campaignId",
  "campaignKind",
  "adKind",
  "adGroup",
  "target",
  "matchType",
  "item",
  "term",
  "placement",
  "placementName",
  "placementKind",
  "slot",
  "hour",
  "currency",
  "impressions",
  "clicks",
  "cost",
  "orders",
  "units",
  "revenue",
] as const;
export type ReportField = (typeof REPORT_FIELDS)[number];

export const COUNT_FIELDS = AD_MEASURES;
export type CountField = AdMeasure;
export const DIMENSION_FIELDS = ["campaign", "adGroup", "target", "item", "term", "placement", "slot", "hour"] as const;
export type DimensionField = (typeof DIMENSION_FIELDS)[number];

/** What a row says of its campaign, target or placement beside its results, as text. */
export const TRAIT_FIELDS = [
  "campaignId",
  "campaignKind",
  "adKind",
  "matchType",
  "placementName",
  "placementKind",
] as const;
export type TraitField = (typeof TRAIT_FIELDS)[number];

export const REPORT_FIELD_LABEL: Record<ReportField, string> = {
  day: "Day",
  lastDay: "Last day",
  campaign: "Campaign",
  campaignId: "Campaign ID",
  campaignKind: "Campaign kind",
  adKind: "Ad kind",
  adGroup: "Ad group",
  target: "Target or keyword",
  matchType: "Match type",
  item: "Item ID",
  term: "Search term or listing",
  placement: "Placement (address)",
  placementName: "Placement name",
  placementKind: "Placement kind",
  slot: "Slot",
  hour: "Hour",
  currency: "Currency of the row",
  impressions: "Impressions",
  clicks: "Clicks",
  cost: "Spend",
  orders: "Orders",
  units: "Units",
  revenue: "Sales",
};

/** What a report that names campaigns can say of them. */
const OF_CAMPAIGN = ["campaignId", "campaignKind", "adKind"] as const;

/** What a report of each kind is divided by, what else it says of that, what it must have, and what it counts. */
export const REPORT_SHAPE: Record<
  ReportKind,
  { dimensions: DimensionField[]; traits: TraitField[]; must: ReportField[]; counts: CountField[] }
> = {
  item: {
    dimensions: ["campaign", "adGroup", "target", "item"],
    traits: [...OF_CAMPAIGN, "matchType"],
    must: ["day", "item", "cost"],
    counts: [...COUNT_FIELDS],
  },
  term: {
    dimensions: ["campaign", "adGroup", "target", "term"],
    traits: [...OF_CAMPAIGN, "matchType"],
    must: ["day", "term", "clicks"],
    counts: [...COUNT_FIELDS],
  },
  placement: {
    dimensions: ["campaign", "placement"],
    traits: [...OF_CAMPAIGN, "placementName", "placementKind"],
    must: ["day", "placement", "impressions"],
    counts: [...COUNT_FIELDS],
  },
  slot: {
    dimensions: ["campaign", "adGroup", "slot"],
    traits: [...OF_CAMPAIGN],
    must: ["day", "slot", "clicks"],
    counts: [...COUNT_FIELDS],
  },
  hour: {
    dimensions: ["campaign", "hour"],
    traits: [...OF_CAMPAIGN],
    must: ["day", "hour", "clicks"],
    counts: [...COUNT_FIELDS],
  },
  store: { dimensions: ["item"], traits: [], must: ["day", "item", "revenue"], counts: ["orders", "units", "revenue"] },
};

export const DATE_ORDERS = ["day-month", "month-day"] as const;

/** How a report file is read. */
export const reportMappingSchema = z.object({
  /** The heading each field is read from, or null. */
  columns: z.partialRecord(z.enum(REPORT_FIELDS), z.string().max(500).nullable()),
  /** The key or name by which a campaign was known before, by the name that the file gives it. */
  renamed: z.record(z.string().max(500), z.string().max(500)).default({}),
  /** Which of 3/4/2026 comes first. */
  dateOrder: z.enum(DATE_ORDERS).default("day-month"),
  /** First and last day of a file whose rows name no day and are sums over all of them. */
  window: z
    .object({ from: daySchema, to: daySchema })
    .refine(({ from, to }) => from <= to, "the last day lies before the first")
    .nullable()
    .default(null),
  decimal: z.enum([".", ","]).default("."),
  /** ISO code of the file's money; null is the workspace's. */
  currency: z.string().length(3).nullable().default(null),
  /** Units of the workspace's currency for one of the file's; needed when the currency is another. */
  rate: z.number().positive().max(1_000_000).nullable().default(null),
});

export type ReportMapping = z.infer<typeof reportMappingSchema>;

/** What became of a report file's rows. */
export interface ReportCounts {
  rows: number;
  stored: number;
  totals: number;
  setAside: number;
  /** Rows whose item is not in the catalogue; they count, under the ID they came with. */
  unmatched: number;
  /** Days that were there before and are restated. */
  restated: number;
  notices: string[];
}
