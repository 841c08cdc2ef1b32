import { z } from "zod";
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
  "adGroup",
  "target",
  "item",
  "term",
  "placement",
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

export const REPORT_FIELD_LABEL: Record<ReportField, string> = {
  day: "Day",
  lastDay: "Last day",
  campaign: "Campaign",
  adGroup: "Ad group",
  target: "Target or keyword",
  item: "Item ID",
  term: "Search term or listing",
  placement: "Placement",
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

/** What a report of each kind is divided by, what it must have, and what it counts. */
export const REPORT_SHAPE: Record<
  ReportKind,
  { dimensions: DimensionField[]; must: ReportField[]; counts: CountField[] }
> = {
  item: {
    dimensions: ["campaign", "adGroup", "target", "item"],
    must: ["day", "item", "cost"],
    counts: [...COUNT_FIELDS],
  },
  term: {
    dimensions: ["campaign", "adGroup", "target", "term"],
    must: ["day", "term", "clicks"],
    counts: [...COUNT_FIELDS],
  },
  placement: {
    dimensions: ["campaign", "placement"],
    must: ["day", "placement", "impressions"],
    counts: [...COUNT_FIELDS],
  },
  slot: { dimensions: ["campaign", "adGroup", "slot"], must: ["day", "slot", "clicks"], counts: [...COUNT_FIELDS] },
  hour: { dimensions: ["campaign", "hour"], must: ["day", "hour", "clicks"], counts: [...COUNT_FIELDS] },
  store: { dimensions: ["item"], must: ["day", "item", "revenue"], counts: ["orders", "units", "revenue"] },
};

export const DATE_ORDERS = ["day-month", "month-day"] as const;

/** How a report file is read. */
export const reportMappingSchema = z.object({
  /** The heading each field is read from, or null. */
  columns: z.partialRecord(z.enum(REPORT_FIELDS), z.string().max(500).nullable()),
  /** Which of 3/4/2026 comes first. */
  dateOrder: z.enum(DATE_ORDERS).default("day-month"),
  /** First and last day of a file whose rows name no day and are sums over all of them. */
  window: z
    .object({ from: z.iso.date(), to: z.iso.date() })
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
