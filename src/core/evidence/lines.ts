import type { Told } from "../results/told";
import { DEFAULT_HEAT_RULES, heatOf, type Heat } from "./heat";
import { chanceOf, intervalOf, type ReturnBelief, type ReturnInterval } from "./evidence";
import { fitAmounts, poolAmount, type AmountFit } from "./pool-amounts";
import { shareIdle, unlucky } from "./idle";
import { factorsOf, pooledCosts, toldByClicks } from "./kinds";
import { poolRates } from "./pool-rates";
import { posteriorLog } from "./spread";

/** What is known of a line's return. */
export interface LineEvidence extends ReturnInterval {
  /** Chance that the true return reaches the goal. */
  chance: number;
  heat: Heat;
}

/** The heat of what is known: unread where clicks are few or would have brought no order anyway. */
export function heatOfLine(chance: number, clicks: number, orders: number, expected: number): Heat {
  return heatOf(chance, { clicks, orders, expected }, DEFAULT_HEAT_RULES);
}

/**
 * The evidence of result lines of one level, each pooled towards the whole account (`docs/formulas.md` 2): order rates, values an
 * order and costs a click, with what is unsure about each. A line without an order may be one that sells nothing at all, as
 * searches for pictures or for how a thing is done are.
 * @param all every line of the level in the window, whatever is looked at, so that a line says the same seen alone
 * @returns for what a line tells its evidence, or only its chance of reaching the goal; null without spend
 */
export function linesEvidence(all: Told[], goal: number) {
  const lines = all.filter(({ clicks }) => clicks > 0);
  const of = (key: keyof Told) => Float64Array.from(lines, (line) => Math.max(0, line[key]));
  const [orders, revenue, seen, clicks] = [of("orders"), of("revenue"), of("seenClicks"), of("clicks")];
  const costs = pooledCosts(of("cost"), clicks);
  const values = fitAmounts(revenue, orders, { within: spreadOfOrders(lines) });
  // What costs more is bought less often, so the value of a line's orders says something of their rate too.
  const known = lines.map((line, i) => [
    ...toldByClicks(clicks[i]!, costs.rows.mean[i]!),
    Math.log(valueOf(values, line).mean),
  ]);
  const columns = [0, 1, 2].map((at) => known.map((one) => one[at]!));
  const factors = factorsOf(orders, seen, [], columns);
  const exposure = seen.map((count, i) => count * factors.rows[i]!);
  const rates = poolRates(orders, exposure, []);
  // Without a line there is nothing to be asked about either.
  const prior = { variance: rates.priorVariance[0] ?? 1, mean: rates.priorMean[0] ?? 0.01 };
  const luck = lines.flatMap((_, i) =>
    orders[i]! > 0 ? [] : [unlucky(exposure[i]! * rates.priorMean[i]!, prior.variance)],
  );
  const idleShare = shareIdle(luck, lines.length);
  const believe = (line: Told): (ReturnBelief & { expected: number }) | null => {
    if (line.cost <= 0 || line.clicks <= 0) return null;
    const sold = Math.max(0, line.orders);
    const value = valueOf(values, line);
    const cost = costs.of(line.cost, line.clicks);
    const { factor, unsure } = factors.of([...toldByClicks(line.clicks, cost.mean), Math.log(value.mean)]);
    const expected = line.seenClicks * factor * prior.mean;
    const rate = posteriorLog(sold, expected, prior.variance + unsure);
    const orderRate = Math.exp(rate.mean + rate.variance / 2) * (expected / line.seenClicks);
    const variance = rate.variance + Math.log1p(value.unsure) + Math.log1p(cost.unsure);
    const idle = sold > 0 ? 0 : idleShare / (idleShare + (1 - idleShare) * unlucky(expected, prior.variance));
    return { mean: (orderRate * value.mean) / cost.mean, variance, nothing: idle, expected };
  };
  const chance = (line: Told): number | null => {
    const belief = believe(line);
    return belief && chanceOf(belief, goal);
  };
  return {
    chance,
    of: (line: Told): LineEvidence | null => {
      const belief = believe(line);
      if (!belief) return null;
      const likely = chanceOf(belief, goal);
      const heat = heatOfLine(likely, line.clicks, line.orders, belief.expected);
      return { ...intervalOf(belief), chance: likely, heat };
    },
  };
}

/** The value of a line's orders, pooled. */
function valueOf(fit: AmountFit, { revenue, orders }: Told) {
  return poolAmount(fit, fit.overall, Math.max(0, revenue), Math.max(0, orders));
}

/** Relative variance of the value of single orders within lines; undefined where no line has two. */
function spreadOfOrders(lines: Told[]): number | undefined {
  let [orders, revenue, apart, free] = [0, 0, 0, 0];
  for (const line of lines) {
    if (line.orders <= 0) continue;
    orders += line.orders;
    revenue += line.revenue;
    apart += Math.max(0, line.squares - line.revenue ** 2 / line.orders);
    free += Math.max(0, line.orders - 1);
  }
  if (free < 1 || revenue <= 0) return undefined;
  return apart / free / (revenue / orders) ** 2;
}
