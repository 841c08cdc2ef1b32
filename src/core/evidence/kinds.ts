import { fitEffects } from "./effects";
import { fitAmounts, poolAmount, poolAmounts, type PooledAmounts } from "./pool-amounts";
import { poolRates } from "./pool-rates";

/** Times that effects and means are worked out in turn. */
const ROUNDS = 2;

/** No factor goes further than this, as a logarithm. */
const WIDEST = 3;

/** By what factor rows differ from their group, from what is known of them. */
export interface Factors {
  /** One a row. */
  rows: Float64Array;
  /** The factor of a row that was not among them; `group` its code. */
  of: (known: number[], group?: number) => number;
}

/**
 * By what factor the order rate of each row is expected to differ from that of its group, before its own orders
 * (regression, `maths.md` 2).
 * @param clicks whose orders have come in
 * @param ladder groups from finest to coarsest, a code a row
 * @param known one array a covariate; NaN where it is not known. Each counts around its mean in the finest group, so that
 *   groups keep their own level
 */
export function factorsOf(
  orders: ArrayLike<number>,
  clicks: ArrayLike<number>,
  ladder: ArrayLike<number>[],
  known: ArrayLike<number>[],
): Factors {
  const centred = withLevels(
    known.map((values) => centre(values, ladder[0])),
    ladder[0],
  );
  const rows = new Float64Array(orders.length).fill(1);
  let effects = centred.map(() => 0);
  for (let round = 0; round < ROUNDS; round++) {
    const exposure = rows.map((factor, row) => clicks[row]! * factor);
    const { priorMean, spread } = poolRates(orders, exposure, ladder);
    const bare = rows.map((_, row) => clicks[row]! * priorMean[row]!);
    effects = fitEffects(orders, bare, valuesOf(centred), 1 / Math.expm1(spread * spread));
    for (let row = 0; row < rows.length; row++) rows[row] = factorOf(effects, (a) => centred[a]!.values[row]!);
  }
  return { rows, of: outside(effects, centred) };
}

function factorOf(effects: number[], value: (a: number) => number): number {
  let log = 0;
  effects.forEach((effect, a) => (log += effect * value(a)));
  return Math.exp(Math.max(-WIDEST, Math.min(WIDEST, log)));
}

function outside(effects: number[], centred: Centred[]): Factors["of"] {
  return (known, group = 0) =>
    factorOf(effects, (a) => (Number.isFinite(known[a]) ? known[a]! - (centred[a]!.means.get(group) ?? 0) : 0));
}

/**
 * What clicks themselves tell of their worth: cheap ones come from places that few bid for, and convert otherwise than dear
 * ones; many ones come from broad places.
 */
export function toldByClicks(clicks: number, cpc: number): [cost: number, count: number] {
  return [Math.log(cpc), Math.log(clicks + 0.5)];
}

/** Costs a click, pooled. */
export interface PooledCosts {
  rows: PooledAmounts;
  /** The pooled cost a click of a row that was not among them, where there are no groups. */
  of: (cost: number, clicks: number) => { mean: number; unsure: number };
}

/**
 * Costs a click, pooled by group around what is to be expected of as many clicks and of what else is known: rows with low
 * bids get few clicks, so few clicks are cheap ones.
 */
export function pooledCosts(
  cost: ArrayLike<number>,
  clicks: ArrayLike<number>,
  groups?: ArrayLike<number>,
  known: ArrayLike<number>[] = [],
): PooledCosts {
  const count = Float64Array.from(clicks, (clicked) => Math.log(clicked + 0.5));
  const centred = [count, ...known].map((values) => centre(values, groups));
  const { middle } = poolAmounts(cost, clicks, { groups });
  // A row weighs as ten clicks at most, so that a few large ones don't decide for all.
  const weight = Float64Array.from(clicks, (clicked) => clicked / (1 + clicked / 10));
  const paid = weight.map((w, row) => (clicks[row]! > 0 ? (w * cost[row]!) / clicks[row]! / middle[row]! : 0));
  const effects = fitEffects(paid, weight, valuesOf(centred), 10);
  const base = weight.map((_, row) => factorOf(effects, (a) => centred[a]!.values[row]!));
  const fit = fitAmounts(cost, clicks, { base });
  const factor = outside(effects, centred);
  return {
    rows: poolAmounts(cost, clicks, { groups, base }),
    of: (spent, clicked) => {
      const scale = factor([Math.log(clicked + 0.5)]);
      const { mean, unsure } = poolAmount(fit, fit.overall, spent / scale, clicked);
      return { mean: mean * scale, unsure };
    },
  };
}

interface Centred {
  values: Float64Array;
  means: Map<number, number>;
}

function valuesOf(centred: Centred[]): Float64Array[] {
  return centred.map(({ values }) => values);
}

/** The same once more as the means of groups, by which these differ among each other. */
function withLevels(centred: Centred[], groups: ArrayLike<number> | undefined): Centred[] {
  if (!groups) return centred;
  const levels = centred.map(({ means }) =>
    centre(
      Float64Array.from(groups, (group) => means.get(group) ?? NaN),
      undefined,
    ),
  );
  return [...centred, ...levels];
}

/** Values less the mean of their group; 0 where there is none. */
function centre(values: ArrayLike<number>, groups: ArrayLike<number> | undefined): Centred {
  const sums = new Map<number, [sum: number, count: number]>();
  const groupOf = (row: number) => groups?.[row] ?? 0;
  for (let row = 0; row < values.length; row++) {
    if (!Number.isFinite(values[row])) continue;
    const sum = sums.get(groupOf(row)) ?? [0, 0];
    sum[0] += values[row]!;
    sum[1]++;
    sums.set(groupOf(row), sum);
  }
  const means = new Map([...sums].map(([group, [sum, count]]) => [group, sum / count]));
  const around = Float64Array.from(values, (value, row) =>
    Number.isFinite(value) ? value - means.get(groupOf(row))! : 0,
  );
  return { values: around, means };
}
