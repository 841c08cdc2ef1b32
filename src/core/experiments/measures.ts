/** What an experiment goes by. */
interface Measure {
  label: string;
  /** As it stands in the middle of a sentence. */
  inWords: string;
  /** Mills, or a plain count. */
  unit: "money" | "count";
  /** Whether more of it is better, so that less is harm; clicks and spend are neither. */
  more: "better" | "plain";
  /** Whether it speaks of items whose margin is known only. */
  needsMargin: boolean;
  /** Whether it is told by item and day, and of a campaign never. */
  isOfStore: boolean;
}

/** Every measure an experiment can go by. Contribution is sales × margin − ad cost (`maths.md` 1). */
export const MEASURES = {
  everything: {
    ...{ label: "Contribution with all sales", inWords: "contribution with all sales", unit: "money", more: "better" },
    ...{ needsMargin: true, isOfStore: true },
  },
  contribution: {
    ...{ label: "Contribution from ads", inWords: "contribution from ads", unit: "money", more: "better" },
    ...{ needsMargin: true, isOfStore: false },
  },
  revenue: {
    ...{ label: "Ad sales", inWords: "ad sales", unit: "money", more: "better" },
    ...{ needsMargin: false, isOfStore: false },
  },
  orders: {
    ...{ label: "Ad orders", inWords: "ad orders", unit: "count", more: "better" },
    ...{ needsMargin: false, isOfStore: false },
  },
  clicks: {
    ...{ label: "Clicks", inWords: "clicks", unit: "count", more: "plain" },
    ...{ needsMargin: false, isOfStore: false },
  },
  cost: {
    ...{ label: "Spend", inWords: "spend", unit: "money", more: "plain" },
    ...{ needsMargin: false, isOfStore: false },
  },
} as const satisfies Record<string, Measure>;

export type MeasureKey = keyof typeof MEASURES;
export const MEASURE_KEYS = Object.keys(MEASURES) as [MeasureKey, ...MeasureKey[]];

/** What one line of results holds of an item; money in mills, orders and sales completed for lateness. */
export interface Line {
  clicks: number;
  cost: number;
  orders: number;
  revenue: number;
}

/**
 * What a line of ad results counts for.
 * @param margin share of a sale that is left; NaN where it is not known, and then contribution is not known either: 0 is counted
 * here, and whoever asks tells how many there are
 */
export function adPart(measure: MeasureKey, { clicks, cost, orders, revenue }: Line, margin: number): number {
  switch (measure) {
    case "everything":
      return Number.isNaN(margin) ? 0 : -cost;
    case "contribution":
      return Number.isNaN(margin) ? 0 : revenue * margin - cost;
    case "revenue":
      return revenue;
    case "orders":
      return orders;
    case "clicks":
      return clicks;
    case "cost":
      return cost;
  }
}
