import { gammaCdf, gammaQuantile } from "../kit/stats";
import type { Sums } from "../kit/metrics";
import { DEFAULT_HEAT_RULES, heatOf, type Heat } from "./heat";
import { fitShape } from "./pooling";

/** What is known of a line's return. */
export interface LineEvidence {
  mean: number;
  /** Ends of the interval that holds the true return with 80 % chance. */
  low: number;
  high: number;
  /** Chance that the true return reaches the goal. */
  chance: number;
  heat: Heat;
}

/** Orders of the whole that a line's own value an order is weighed against. */
const VALUE_ORDERS = 3;

/**
 * The evidence of lines of a table, each pooled towards all of them (`maths.md` 2): orders are Poisson in clicks, their
 * rate has a Gamma prior with the mean of the whole and a shape fitted to how the lines differ.
 * @returns for a line's sums its evidence, or only its chance of reaching the goal; null without spend
 */
export function linesEvidence(lines: Sums[], goal: number) {
  const clicks = lines.map((line) => Math.max(0, line.clicks));
  const orders = lines.map((line) => Math.max(0, line.orders));
  const allClicks = clicks.reduce((a, b) => a + b, 0);
  const allOrders = orders.reduce((a, b) => a + b, 0);
  const allRevenue = lines.reduce((sum, line) => sum + line.revenue, 0);
  const overall = allClicks > 0 ? Math.max(allOrders, 0.5) / allClicks : 0.01;
  const shape = fitShape(orders, clicks, () => overall);
  const valueOverall = allOrders > 0 ? allRevenue / allOrders : 0;
  const posterior = (line: Sums) => {
    if (line.cost <= 0 || line.clicks <= 0) return null;
    const a = shape + Math.max(0, line.orders);
    const b = shape / overall + line.clicks;
    const value = (line.revenue + VALUE_ORDERS * valueOverall) / (line.orders + VALUE_ORDERS);
    /** Return for one order a click. */
    const scale = Math.max(0, value / (line.cost / line.clicks));
    return { a, b, scale, chance: scale > 0 ? 1 - gammaCdf(goal / scale, a, b) : 0 };
  };
  return {
    chance: (line: Sums): number | null => posterior(line)?.chance ?? null,
    of: (line: Sums): LineEvidence | null => {
      const known = posterior(line);
      if (!known) return null;
      const { a, b, scale, chance } = known;
      return {
        mean: (a / b) * scale,
        low: gammaQuantile(0.1, a, b) * scale,
        high: gammaQuantile(0.9, a, b) * scale,
        chance,
        heat: heatOf(chance, line.clicks, DEFAULT_HEAT_RULES),
      };
    },
  };
}
