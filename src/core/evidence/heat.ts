export const HEATS = ["cold", "cool", "mild", "warm", "hot", "unread"] as const;
export type Heat = (typeof HEATS)[number];

/** House rules of heat, editable; each is a number with its reason in `docs/decisions.md`. */
export interface HeatRules {
  /** Below this many clicks nothing is said, whatever the ratio. */
  leastClicks: number;
  /** Lowest chance of reaching the goal for hot, warm and mild; at or below `cool` it is cool, at or below `cold` cold. */
  hot: number;
  warm: number;
  cool: number;
  cold: number;
}

export const DEFAULT_HEAT_RULES: HeatRules = { leastClicks: 20, hot: 0.9, warm: 0.7, cool: 0.3, cold: 0.1 };

/** The step a chance of reaching the goal stands for. */
export function heatOf(chance: number, clicks: number, rules: HeatRules): Heat {
  if (clicks < rules.leastClicks) return "unread";
  if (chance >= rules.hot) return "hot";
  if (chance >= rules.warm) return "warm";
  if (chance <= rules.cold) return "cold";
  if (chance <= rules.cool) return "cool";
  return "mild";
}
