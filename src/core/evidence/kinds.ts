import { fitEffects, unsureAt, type Effects } from "./effects";
import { fitAmounts, poolAmount, poolAmounts, type PooledAmounts } from "./pool-amounts";
import { priorsOf } from "./pool-rates";

/** Times that effects and means are worked out in turn. */
const ROUNDS = 2;

/** No factor goes further than this, as a logarithm. */
const WIDEST = 3;

/** By what factor rows differ from their group, from what is known of them. */
export interface Factors {
  /** One a row. */
  rows: Float64Array;
  /** How unsure the logarithm of each is, as a variance. */
  unsure: Float64Array;
  /** The factor of a row that was not among them, and how unsure it is; `group` its code. */
  of: (known: number[], group?: number) => Factor;
}

interface Factor {
  factor: number;
  unsure: number;
}

/**
 * By what factor the order rate of each row is expected to differ from that of its group, before its own orders
 * (regression, `docs/formulas.md` 2).
 * @param clicks whose orders have come in
 * @param ladder groups from finest to coarsest, a code a row
 * @param known one array a covariate; NaN where it is not known. Each counts around its mean in the finest group, so that
 *   groups keep their own level
 * @param trust share of each covariate's effect that is taken, where part of it is another's; left out: all
 */
export function factorsOf(
  orders: ArrayLike<number>,
  clicks: ArrayLike<number>,
  ladder: ArrayLike<number>[],
  known: ArrayLike<number>[],
  trust: number[] = known.map(() => 1),
): Factors {
  const centred = withLevels(
    known.map((values) => centre(values, ladder[0], clicks)),
    ladder[0],
    clicks,
  );
  const rows = new Float64Array(orders.length).fill(1);
  let fit: Effects = { effects: [], covariance: [] };
  for (let round = 0; round < ROUNDS; round++) {
    const exposure = rows.map((factor, row) => clicks[row]! * factor);
    const { priorMean, spread } = priorsOf(orders, exposure, ladder, ROUNDS);
    const bare = rows.map((_, row) => clicks[row]! * priorMean[row]!);
    fit = fitEffects(
      orders,
      bare,
      centred.map(({ values }) => values),
      1 / Math.expm1(spread * spread),
    );
    fit = trusted(fit, trust);
    setFactors(rows, fit.effects, centred);
  }
  return { rows, unsure: unsureRows(fit.covariance, centred, rows.length), of: outside(fit, centred) };
}

/** Effects of which only a share is taken; those of groups' means stand behind those within groups, in the same order. */
function trusted({ effects, covariance }: Effects, trust: number[]): Effects {
  const share = (a: number) => trust[a % trust.length]!;
  return {
    effects: effects.map((effect, a) => share(a) * effect),
    covariance: covariance.map((row, a) => row.map((value, b) => share(a) * share(b) * value)),
  };
}

function factorOf(effects: number[], value: (a: number) => number): number {
  let log = 0;
  effects.forEach((effect, a) => (log += effect * value(a)));
  return Math.exp(Math.max(-WIDEST, Math.min(WIDEST, log)));
}

/** The factors of all rows, one covariate after the other: a loop over two arrays runs fastest. */
function setFactors(rows: Float64Array, effects: number[], centred: Centred[]): Float64Array {
  rows.fill(0);
  centred.forEach(({ values }, a) => {
    const effect = effects[a]!;
    for (let row = 0; row < rows.length; row++) rows[row]! += effect * values[row]!;
  });
  for (let row = 0; row < rows.length; row++) rows[row] = Math.exp(Math.max(-WIDEST, Math.min(WIDEST, rows[row]!)));
  return rows;
}

/** Rows gone through at once: so few that all their covariates stay in the processor's own memory. */
const BLOCK = 1024;

/** {@link unsureAt} of all rows, one pair of covariates after the other: a loop over three arrays runs fastest. */
function unsureRows(covariance: readonly number[][], centred: Centred[], rows: number): Float64Array {
  const unsure = new Float64Array(rows);
  for (let from = 0; from < rows; from += BLOCK) {
    const to = Math.min(rows, from + BLOCK);
    for (let a = 0; a < covariance.length; a++) {
      for (let b = 0; b <= a; b++) {
        const times = (a === b ? 1 : 2) * covariance[a]![b]!;
        const [x, y] = [centred[a]!.values, centred[b]!.values];
        for (let row = from; row < to; row++) unsure[row]! += times * x[row]! * y[row]!;
      }
    }
  }
  for (let row = 0; row < rows; row++) unsure[row] = Math.max(0, unsure[row]!);
  return unsure;
}

function outside({ effects, covariance }: Effects, centred: Centred[]): Factors["of"] {
  return (known, group = 0) => {
    const value = (a: number) => (Number.isFinite(known[a]) ? known[a]! - (centred[a]!.means[group] || 0) : 0);
    return { factor: factorOf(effects, value), unsure: unsureAt(covariance, value) };
  };
}

/**
 * What clicks themselves tell of their worth: cheap ones come from places that few bid for, and convert otherwise than dear
 * ones; many ones come from broad places.
 * @param few clicks below which their number is mostly chance
 */
export function toldByClicks(clicks: number, cpc: number, few = 0.5): [cost: number, count: number] {
  return [Math.log(cpc), Math.log(clicks + few)];
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
  const centred = [count, ...known].map((values) => centre(values, groups, clicks));
  const { middle } = poolAmounts(cost, clicks, { groups });
  // A row weighs as ten clicks at most, so that a few large ones don't decide for all.
  const weight = Float64Array.from(clicks, (clicked) => clicked / (1 + clicked / 10));
  const paid = weight.map((w, row) => (clicks[row]! > 0 ? (w * cost[row]!) / clicks[row]! / middle[row]! : 0));
  const paidEffects = fitEffects(
    paid,
    weight,
    centred.map(({ values }) => values),
    10,
  );
  const base = setFactors(new Float64Array(weight.length), paidEffects.effects, centred);
  const fit = fitAmounts(cost, clicks, { base });
  const factorFor = outside(paidEffects, centred);
  return {
    rows: poolAmounts(cost, clicks, { groups, base }),
    of: (spent, clicked) => {
      const scale = factorFor([Math.log(clicked + 0.5)]).factor;
      const { mean, unsure } = poolAmount(fit, fit.overall, spent / scale, clicked);
      return { mean: mean * scale, unsure };
    },
  };
}

interface Centred {
  values: Float64Array;
  /** By group; NaN for one in which nothing is known. */
  means: Float64Array;
}

/** The same once more as the means of groups, by which these differ among each other. */
function withLevels(centred: Centred[], groups: ArrayLike<number> | undefined, clicks: ArrayLike<number>): Centred[] {
  if (!groups) return centred;
  const levels = centred.map(({ means }) => {
    const values = new Float64Array(groups.length);
    for (let row = 0; row < values.length; row++) values[row] = means[groups[row]!]!;
    return centre(values, undefined, clicks);
  });
  return [...centred, ...levels];
}

/**
 * Values less the mean of their group, 0 where a value is not known. Rows with clicks count, hardly more the more they have:
 * how many items stand in a catalogue without one moves nothing. Where a group has none at all, its rows count alike.
 */
function centre(values: ArrayLike<number>, groups: ArrayLike<number> | undefined, clicks: ArrayLike<number>): Centred {
  let count = 1;
  if (groups) for (let row = 0; row < values.length; row++) count = Math.max(count, groups[row]! + 1);
  const blank = () => new Float64Array(count);
  const [plain, rows, means, weight] = [blank(), blank(), blank(), blank()];
  for (let row = 0; row < values.length; row++) {
    if (!Number.isFinite(values[row])) continue;
    const group = groups ? groups[row]! : 0;
    plain[group]! += values[row]!;
    rows[group]!++;
    const known = clicks[row]! / (1 + clicks[row]!);
    means[group]! += known * values[row]!;
    weight[group]! += known;
  }
  for (let group = 0; group < count; group++) {
    means[group] = weight[group]! > 0 ? means[group]! / weight[group]! : plain[group]! / rows[group]!;
  }
  const around = new Float64Array(values.length);
  for (let row = 0; row < values.length; row++) {
    if (Number.isFinite(values[row])) around[row] = values[row]! - means[groups ? groups[row]! : 0]!;
  }
  return { values: around, means };
}
