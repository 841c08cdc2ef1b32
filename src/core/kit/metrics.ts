import { ownRecord } from "./own-record";
import { mills, type Mills } from "./money";

/** Summed results over some window and scope. Money in mills. Ad figures are what ads brought; store figures are all sales. */
export interface Sums {
  impressions: number;
  clicks: number;
  cost: Mills;
  orders: number;
  units: number;
  revenue: Mills;
  storeOrders: number;
  storeRevenue: Mills;
}

/** Sums of nothing. */
export function noSums(): Sums {
  return {
    impressions: 0,
    clicks: 0,
    cost: mills(0),
    orders: 0,
    units: 0,
    revenue: mills(0),
    storeOrders: 0,
    storeRevenue: mills(0),
  };
}

/** Adds `more` into `sums` in place. */
export function addSums(sums: Sums, more: Sums): void {
  for (const key of SUM_KEYS) (sums[key] as number) += more[key];
}

/** What ad reports count, in the order in which rows of reports hold it. Money in mills. */
export const AD_MEASURES = ["impressions", "clicks", "cost", "orders", "units", "revenue"] as const;
export type AdMeasure = (typeof AD_MEASURES)[number];

export const SUM_KEYS = [
  "impressions",
  "clicks",
  "cost",
  "orders",
  "units",
  "revenue",
  "storeOrders",
  "storeRevenue",
] as const satisfies (keyof Sums)[];

export type MetricKind = "count" | "money" | "percent" | "ratio";

/** One metric: how it is called, worked out and shown. Null means it has no value (nothing divided by nothing). */
export interface Metric {
  key: MetricKey;
  label: string;
  kind: MetricKind;
  /** What it is, in a sentence, with the formula. */
  about: string;
  /** The sums it is worked from; where a report does not have one of them, it has no value. */
  needs: (keyof Sums)[];
  of: (sums: Sums) => number | null;
}

export const METRIC_KEYS = [
  "impressions",
  "clicks",
  "cost",
  "orders",
  "units",
  "revenue",
  "storeOrders",
  "storeRevenue",
  "ctr",
  "cpc",
  "cvr",
  "aov",
  "rpc",
  "roas",
  "acos",
  "tacos",
  "cpo",
  "adDependence",
] as const;

export type MetricKey = (typeof METRIC_KEYS)[number];

function ratio(top: number, bottom: number): number | null {
  return bottom === 0 ? null : top / bottom;
}

type SumKey = keyof Sums;
type Definition = [key: MetricKey, label: string, kind: MetricKind, about: string, top: SumKey, bottom?: SumKey];

const DEFINITIONS: Definition[] = [
  ["impressions", "Impressions", "count", "Times an ad was shown.", "impressions"],
  ["clicks", "Clicks", "count", "Times an ad was clicked.", "clicks"],
  ["cost", "Spend", "money", "What the clicks cost.", "cost"],
  ["orders", "Ad orders", "count", "Orders that came from ads.", "orders"],
  ["units", "Ad units", "count", "Units sold in ad orders.", "units"],
  ["revenue", "Ad sales", "money", "Sales value of ad orders.", "revenue"],
  ["storeOrders", "Store orders", "count", "All orders in the shop, with or without an ad.", "storeOrders"],
  ["storeRevenue", "Store sales", "money", "All sales in the shop, with or without an ad.", "storeRevenue"],
  ["ctr", "CTR", "percent", "Clicks ÷ impressions.", "clicks", "impressions"],
  ["cpc", "CPC", "money", "Spend ÷ clicks.", "cost", "clicks"],
  ["cvr", "CVR", "percent", "Ad orders ÷ clicks.", "orders", "clicks"],
  ["aov", "AOV", "money", "Ad sales ÷ ad orders.", "revenue", "orders"],
  ["rpc", "Sales per click", "money", "Ad sales ÷ clicks.", "revenue", "clicks"],
  ["roas", "ROAS", "ratio", "Ad sales ÷ spend.", "revenue", "cost"],
  ["acos", "ACOS", "percent", "Spend ÷ ad sales.", "cost", "revenue"],
  ["tacos", "TACOS", "percent", "Spend ÷ all store sales.", "cost", "storeRevenue"],
  ["cpo", "Cost per order", "money", "Spend ÷ ad orders.", "cost", "orders"],
  ["adDependence", "Ad dependence", "percent", "Ad sales ÷ all store sales.", "revenue", "storeRevenue"],
];

/** Every metric, defined once (`docs/formulas.md` 1): a sum, or one sum ÷ another. Ratios are worked from sums, never averaged. */
export const METRICS: Record<MetricKey, Metric> = ownRecord(
  Object.fromEntries(
    DEFINITIONS.map(([key, label, kind, about, top, bottom]): [MetricKey, Metric] => [
      key,
      {
        ...{ key, label, kind, about },
        needs: bottom ? [top, bottom] : [top],
        of: (sums) => (bottom ? ratio(sums[top], sums[bottom]) : sums[top]),
      },
    ]),
  ) as Record<MetricKey, Metric>,
);

/** A metric's value where all it is worked from is reported, else null. */
export function valueOf(key: MetricKey, sums: Sums, missing: readonly SumKey[]): number | null {
  const { needs, of } = METRICS[key];
  return needs.some((need) => missing.includes(need)) ? null : of(sums);
}

/** What a metric is put in order by: what cost money and brought nothing has the highest cost share there is. */
export function orderOf(key: MetricKey, sums: Sums, missing: readonly SumKey[]): number | null {
  const isCostShare = METRICS[key].needs[0] === "cost" && key !== "cpc" && METRICS[key].needs.length > 1;
  const value = valueOf(key, sums, missing);
  return value === null && isCostShare && sums.cost > 0 && !METRICS[key].needs.some((need) => missing.includes(need))
    ? Number.MAX_VALUE
    : value;
}

/** Share gap in points: sales share − spend share, each within the same scope. Null when either scope total is zero. */
export function shareGap(
  part: Sums,
  scope: Sums,
): { spendShare: number | null; salesShare: number | null; gap: number | null } {
  const spendShare = ratio(part.cost, scope.cost);
  const salesShare = ratio(part.revenue, scope.revenue);
  return { spendShare, salesShare, gap: spendShare === null || salesShare === null ? null : salesShare - spendShare };
}
