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
  "adDependence",
] as const;

export type MetricKey = (typeof METRIC_KEYS)[number];

function ratio(top: number, bottom: number): number | null {
  return bottom === 0 ? null : top / bottom;
}

/** Every metric, defined once (`maths.md` 1). Ratios are worked from sums, never averaged. */
export const METRICS: Record<MetricKey, Metric> = Object.fromEntries(
  (
    [
      ["impressions", "Impressions", "count", "Times an ad was shown.", (s) => s.impressions],
      ["clicks", "Clicks", "count", "Times an ad was clicked.", (s) => s.clicks],
      ["cost", "Spend", "money", "What the clicks cost.", (s) => s.cost],
      ["orders", "Ad orders", "count", "Orders that came from ads.", (s) => s.orders],
      ["units", "Ad units", "count", "Units sold in ad orders.", (s) => s.units],
      ["revenue", "Ad sales", "money", "Sales value of ad orders.", (s) => s.revenue],
      ["storeOrders", "Store orders", "count", "All orders in the shop, with or without an ad.", (s) => s.storeOrders],
      ["storeRevenue", "Store sales", "money", "All sales in the shop, with or without an ad.", (s) => s.storeRevenue],
      ["ctr", "CTR", "percent", "Clicks ÷ impressions.", (s) => ratio(s.clicks, s.impressions)],
      ["cpc", "CPC", "money", "Spend ÷ clicks.", (s) => ratio(s.cost, s.clicks)],
      ["cvr", "CVR", "percent", "Ad orders ÷ clicks.", (s) => ratio(s.orders, s.clicks)],
      ["aov", "AOV", "money", "Ad sales ÷ ad orders.", (s) => ratio(s.revenue, s.orders)],
      ["rpc", "Sales per click", "money", "Ad sales ÷ clicks.", (s) => ratio(s.revenue, s.clicks)],
      ["roas", "ROAS", "ratio", "Ad sales ÷ spend.", (s) => ratio(s.revenue, s.cost)],
      ["acos", "ACOS", "percent", "Spend ÷ ad sales.", (s) => ratio(s.cost, s.revenue)],
      ["tacos", "TACOS", "percent", "Spend ÷ all store sales.", (s) => ratio(s.cost, s.storeRevenue)],
      [
        "adDependence",
        "Ad dependence",
        "percent",
        "Ad sales ÷ all store sales.",
        (s) => ratio(s.revenue, s.storeRevenue),
      ],
    ] as [MetricKey, string, MetricKind, string, Metric["of"]][]
  ).map(([key, label, kind, about, of]) => [key, { key, label, kind, about, of }]),
) as Record<MetricKey, Metric>;

/** Share gap in points: sales share − spend share, each within the same scope. Null when either scope total is zero. */
export function shareGap(
  part: Sums,
  scope: Sums,
): { spendShare: number | null; salesShare: number | null; gap: number | null } {
  const spendShare = ratio(part.cost, scope.cost);
  const salesShare = ratio(part.revenue, scope.revenue);
  return { spendShare, salesShare, gap: spendShare === null || salesShare === null ? null : salesShare - spendShare };
}
