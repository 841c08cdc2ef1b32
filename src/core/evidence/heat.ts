export const HEATS = ["cold", "cool", "mild", "warm", "hot", "unread"] as const;
export type Heat = (typeof HEATS)[number];

/** House rules of heat, editable; each is a number with its reason in `docs/decisions.md`. */
export interface HeatRules {
  /** Below this many clicks nothing is said, whatever the ratio. */
  leastClicks: number;
  /** Nor below this many orders, had or to be expected of so many clicks: none of none expected says nothing. */
  leastOrders: number;
  /** With this many orders enough is known, however few the clicks. */
  provenOrders: number;
  /** Lowest chance of reaching the goal for hot, warm and mild; at or below `cool` it is cool, at or below `cold` cold. */
  hot: number;
  warm: number;
  cool: number;
  cold: number;
}

export const DEFAULT_HEAT_RULES: HeatRules = {
  ...{ leastClicks: 20, leastOrders: 1, provenOrders: 3 },
  ...{ hot: 0.9, warm: 0.7, cool: 0.3, cold: 0.1 },
};

/** How much is known: clicks, the orders they brought, and those they would have brought at the rate of their kind. */
export interface Known {
  clicks: number;
  orders: number;
  expected: number;
}

/** Whether enough is known to say anything. */
export function isRead({ clicks, orders, expected }: Known, rules: HeatRules = DEFAULT_HEAT_RULES): boolean {
  if (orders >= rules.provenOrders) return true;
  return clicks >= rules.leastClicks && Math.max(orders, expected) >= rules.leastOrders;
}

/** The step a chance of reaching the goal stands for. */
export function heatOf(chance: number, known: Known, rules: HeatRules): Heat {
  if (!isRead(known, rules)) return "unread";
  if (chance >= rules.hot) return "hot";
  if (chance >= rules.warm) return "warm";
  if (chance <= rules.cold) return "cold";
  if (chance <= rules.cool) return "cool";
  return "mild";
}
