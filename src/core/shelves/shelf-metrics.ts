import type { TextColumn } from "../kit/columns";
import { chanceOfGoal, pooledReturn, type Evidence } from "../evidence/evidence";
import { METRIC_KEYS, METRICS, SUM_KEYS, type MetricKey, type MetricKind } from "../kit/metrics";
import { ownRecord } from "../kit/own-record";
import { emptyRowSums, sumsOfRow, type RowSums } from "../results/window-sums";

/** What a shelf can be cut by beside the metrics of results. */
export const MORE_METRIC_KEYS = [
  "shopRevenue",
  "shopOrders",
  "storeGap",
  "contribution",
  "chance",
  "pooledReturn",
  "goodOrders",
  "pace",
  "paid",
  "margin",
  "breakEven",
  "stockCover",
  "age",
] as const;
export type MoreMetricKey = (typeof MORE_METRIC_KEYS)[number];
export type ShelfMetricKey = MetricKey | MoreMetricKey;

export interface ShelfMetric {
  key: ShelfMetricKey;
  label: string;
  kind: MetricKind | "days" | "points";
  about: string;
  /** Where it comes from, as choosers group it. */
  group: "Ads" | "Whole store" | "Both" | "Evidence" | "Item";
  /** Whether it can be asked of the item's whole family: all that is worked from sums. */
  ofFamily: boolean;
}

type More = [MoreMetricKey, string, ShelfMetric["kind"], ShelfMetric["group"], boolean, string];

const MORE: More[] = [
  ["shopRevenue", "Store sales without ads", "money", "Both", true, "All store sales less those that came from ads."],
  ["shopOrders", "Store orders without ads", "count", "Both", true, "All store orders less those that came from ads."],
  [
    ...(["storeGap", "Store share less spend share", "points", "Both", true] as const),
    "Share of all store sales less share of all ad spend, in points: high is sold by the shop and neglected by ads.",
  ],
  ["contribution", "Contribution", "money", "Ads", true, "Ad sales × margin − spend. Needs a margin."],
  [
    "chance",
    "Chance of the goal",
    "percent",
    "Evidence",
    false,
    "Chance that the true return reaches the goal; of items that nobody clicked, by their kind.",
  ],
  [
    "pooledReturn",
    "Pooled return",
    "ratio",
    "Evidence",
    false,
    "Return, pulled towards that of its like where little is known.",
  ],
  [
    ...(["goodOrders", "Profitable orders", "count", "Ads", true] as const),
    "Ad orders, where what they left after costs pays the spend (without known costs: where the return reaches the goal); else none.",
  ],
  [
    ...(["pace", "Pace", "ratio", "Whole store", true] as const),
    "Store orders a day in the last quarter of the window ÷ those a day before it: above 1 it picks up.",
  ],
  ["paid", "Price paid", "money", "Item", false, "The sale price where there is one, else the price."],
  ["margin", "Margin", "percent", "Item", false, "Share of the price left after tax, cost and fee."],
  ["breakEven", "Break-even return", "ratio", "Item", false, "Return at which the margin is just used up: 1 ÷ margin."],
  ["stockCover", "Stock cover", "days", "Both", false, "Stock ÷ store orders a day, one piece an order."],
  [
    "age",
    "Age in the catalogue",
    "days",
    "Item",
    false,
    "Days since a reading first had it; items of the first reading have none.",
  ],
];

/** Every metric that bands and rules of shelves can use. */
export const SHELF_METRICS: Record<string, ShelfMetric> = ownRecord(
  Object.fromEntries(
    [
      ...METRIC_KEYS.map((key): ShelfMetric => {
        const { label, kind, about, needs } = METRICS[key];
        const store = needs.filter((need) => need.startsWith("store")).length;
        const group = store === 0 ? "Ads" : store === needs.length ? "Whole store" : "Both";
        return { key, label, kind, about, group, ofFamily: true };
      }),
      ...MORE.map(([key, label, kind, group, ofFamily, about]): ShelfMetric => ({
        key,
        label,
        kind,
        group,
        ofFamily,
        about,
      })),
    ].map((metric) => [metric.key, metric]),
  ),
);

/** A metric asked of the item's whole family is named with this before it. */
export const FAMILY_PREFIX = "family:";

/** The metric a name stands for and whether it is the family's; null for a name that is none. */
export function metricOfName(name: string): { metric: ShelfMetric; isFamily: boolean } | null {
  const isFamily = name.startsWith(FAMILY_PREFIX);
  const metric = SHELF_METRICS[isFamily ? name.slice(FAMILY_PREFIX.length) : name];
  return metric && (!isFamily || metric.ofFamily) ? { metric, isFamily } : null;
}

/** What a metric's name is called. */
export function metricLabel(name: string): string {
  const found = metricOfName(name);
  if (!found) return name;
  return found.isFamily ? `${found.metric.label} of the family` : found.metric.label;
}

/** What metrics are worked from: each row a catalogue item. Money in mills; NaN for no value. */
export interface MetricInputs {
  sums: RowSums;
  /** The same over the last quarter of the window, with its days; for `pace`. */
  late: { sums: RowSums; days: number } | null;
  /** Days of the window that have results. */
  days: number;
  goal: number;
  family: TextColumn | null;
  evidence: Evidence | null;
  paid: Float64Array | null;
  margin: Float64Array | null;
  breakEven: Float64Array | null;
  stock: Float64Array | null;
  age: Float64Array | null;
}

/** Sums of each row's whole family; a row without a family stands for itself. */
export function familySums(sums: RowSums, family: TextColumn | null): RowSums {
  if (!family) return sums;
  const made = emptyRowSums(sums.clicks.length);
  for (const key of SUM_KEYS) {
    const byCode = new Float64Array(family.values.length);
    const from = sums[key];
    for (let row = 0; row < from.length; row++) byCode[family.codes[row]!] = byCode[family.codes[row]!]! + from[row]!;
    const to = made[key];
    for (let row = 0; row < from.length; row++)
      to[row] = family.codes[row] === 0 ? from[row]! : byCode[family.codes[row]!]!;
  }
  return made;
}

/** What is left of ad sales after each item's costs, summed over the family where asked; NaN where a margin is not known. */
function earned({ sums, margin, family }: MetricInputs, isFamily: boolean): Float64Array {
  const own = sums.revenue.map((revenue, row) => (revenue === 0 ? 0 : revenue * (margin?.[row] ?? NaN)));
  if (!isFamily || !family) return own.map((value, row) => (Number.isNaN(margin?.[row] ?? NaN) ? NaN : value));
  const byCode = new Float64Array(family.values.length);
  own.forEach((value, row) => (byCode[family.codes[row]!] = byCode[family.codes[row]!]! + value));
  return own.map((value, row) => (family.codes[row] === 0 ? value : byCode[family.codes[row]!]!));
}

const total = (values: Float64Array) => values.reduce((sum, value) => sum + value, 0);

/**
 * A metric of every row, NaN where it has no value; null for a name that is no metric. A return on clicks that cost nothing
 * is `Infinity`.
 */
export function metricValues(name: string, inputs: MetricInputs): Float64Array | null {
  const found = metricOfName(name);
  if (!found) return null;
  const { metric, isFamily } = found;
  const sums = isFamily ? familySums(inputs.sums, inputs.family) : inputs.sums;
  const length = sums.clicks.length;
  const none = () => new Float64Array(length).fill(NaN);
  const { key } = metric;
  if (key in METRICS) return resultValues(key as MetricKey, sums);
  switch (key as MoreMetricKey) {
    case "shopRevenue":
      return sums.storeRevenue.map((all, row) => Math.max(0, all - sums.revenue[row]!));
    case "shopOrders":
      return sums.storeOrders.map((all, row) => Math.max(0, all - sums.orders[row]!));
    case "storeGap": {
      const [store, cost] = [total(inputs.sums.storeRevenue), total(inputs.sums.cost)];
      if (store === 0 || cost === 0) return none();
      return sums.storeRevenue.map((value, row) => 100 * (value / store - sums.cost[row]! / cost));
    }
    case "contribution":
      return earned(inputs, isFamily).map((value, row) => value - sums.cost[row]!);
    case "chance": {
      const { evidence, goal } = inputs;
      return evidence ? Float64Array.from({ length }, (_, row) => chanceOfGoal(evidence, row, goal)) : none();
    }
    case "pooledReturn": {
      const { evidence } = inputs;
      return evidence ? Float64Array.from({ length }, (_, row) => pooledReturn(evidence, row)?.mean ?? NaN) : none();
    }
    case "goodOrders": {
      const left = earned(inputs, isFamily);
      return sums.orders.map((orders, row) => {
        const pays = Number.isNaN(left[row]!)
          ? sums.revenue[row]! >= inputs.goal * sums.cost[row]!
          : left[row]! >= sums.cost[row]!;
        return pays ? orders : 0;
      });
    }
    case "pace": {
      const { late, days } = inputs;
      if (!late || days <= late.days) return none();
      const lateOrders = (isFamily ? familySums(late.sums, inputs.family) : late.sums).storeOrders;
      return sums.storeOrders.map((all, row) => {
        const before = all - lateOrders[row]!;
        return before <= 0 ? NaN : lateOrders[row]! / late.days / (before / (days - late.days));
      });
    }
    case "stockCover": {
      const { stock, days } = inputs;
      if (!stock || days <= 0) return none();
      return sums.storeOrders.map((orders, row) => (orders > 0 ? stock[row]! / (orders / days) : NaN));
    }
    case "paid":
    case "margin":
    case "breakEven":
    case "age":
      return inputs[key as "paid" | "margin" | "breakEven" | "age"] ?? none();
  }
}

function resultValues(key: MetricKey, sums: RowSums): Float64Array {
  if (key in sums) return sums[key as keyof RowSums];
  const { of, needs } = METRICS[key];
  const [top, bottom] = needs as [keyof RowSums, keyof RowSums];
  const values = new Float64Array(sums.clicks.length);
  // A sum over a sum is worked straight from the columns; that is all there is today, and the fallback is the definition.
  if (needs.length === 2) {
    const [over, under] = [sums[top], sums[bottom]];
    for (let row = 0; row < values.length; row++) {
      const below = under[row]!;
      values[row] = below !== 0 ? over[row]! / below : over[row]! > 0 && bottom === "cost" ? Infinity : NaN;
    }
    return values;
  }
  return values.map((_, row) => of(sumsOfRow(sums, row)) ?? NaN);
}

/** Fields of the catalogue that metrics are worked from. */
const FIELDS: Partial<Record<ShelfMetricKey, string[]>> = {
  contribution: ["margin"],
  goodOrders: ["margin"],
  paid: ["price", "salePrice"],
  margin: ["margin"],
  breakEven: ["breakEven"],
  stockCover: ["stock"],
};

export interface MetricNeeds {
  evidence: boolean;
  late: boolean;
  age: boolean;
  store: boolean;
  /** Fields of the catalogue. */
  fields: string[];
}

/** What the metrics of some names need beside ad sums. */
export function metricNeeds(names: Iterable<string>): MetricNeeds {
  const found = [...names].flatMap((name) => metricOfName(name) ?? []);
  const has = (...some: ShelfMetricKey[]) => found.some(({ metric }) => some.includes(metric.key));
  return {
    evidence: has("chance", "pooledReturn"),
    late: has("pace"),
    age: has("age"),
    store: found.some(({ metric: { group } }) => group === "Whole store" || group === "Both"),
    fields: [
      ...new Set(
        found.flatMap(({ metric, isFamily }) => [...(FIELDS[metric.key] ?? []), ...(isFamily ? ["family"] : [])]),
      ),
    ],
  };
}
