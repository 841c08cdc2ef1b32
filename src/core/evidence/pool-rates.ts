import { fitSpread, posteriorLog } from "./spread";

/** Orders a unit of exposure of every row, pooled over a ladder. */
export interface PooledRates {
  /** Mean and variance of the logarithm of the rate. */
  log: Float64Array;
  variance: Float64Array;
  /** Mean of the prior that the levels above give, before the row's own orders, and the variance of its logarithm. */
  priorMean: Float64Array;
  priorVariance: Float64Array;
  /** How rows differ around the level above: standard deviation of the logarithm. */
  spread: number;
}

/** What the levels above say of every row, and how rows differ around that. */
export type Priors = Pick<PooledRates, "priorMean" | "priorVariance" | "spread">;

/** Rounds of fitting: means need the shapes for their weights, spreads need the means. Two settle it. */
const ROUNDS = 2;

/** Spread of rows that fitting begins with; the levels above begin with half of it, since rows differ most. */
const FIRST_SPREAD = 0.7;

/** What is known of the members of one level. */
interface Level {
  /** Of each member the one above it; null at the top. */
  parent: ArrayLike<number> | null;
  /** Members that have clicks or orders below them: the others tell the levels above nothing, and need no mean while spreads are fitted. */
  told: Uint32Array;
  /** What its members below say: orders and exposure, weighed. */
  orders: Float64Array;
  exposure: Float64Array;
  /** What all but the member itself say of it: mean and relative variance. */
  priorMean: Float64Array;
  priorUnsure: Float64Array;
  /** Of that, what is unsure about the level above, as a variance of the logarithm. */
  aboveUnsure: Float64Array;
  /** How members differ around the one above: standard deviation of the logarithm. */
  spread: number;
}

/**
 * Pools order rates over a ladder of levels (`docs/formulas.md` 2): orders are Poisson with mean rate × exposure; the rate of a
 * member is log-normal around the level above, with a spread fitted by marginal likelihood for each level (why not a Gamma:
 * `docs/decisions.md`). A member counts towards the level above with weight 1 ÷ (1 + exposure × mean × v), v the relative
 * variance of members, as the variance of its orders has it: many clicks on one item say little about the others. What a
 * level says of a member leaves the member's own orders out, or they would count twice.
 * @param ladder from finest to coarsest, a code a row; rows of one code have one code on every coarser level. Above the
 *   last stands one level for all.
 * @param unsure how unsure each row's exposure is, as a variance of its logarithm
 */
export function poolRates(
  orders: ArrayLike<number>,
  exposure: ArrayLike<number>,
  ladder: ArrayLike<number>[],
  unsure?: ArrayLike<number>,
): PooledRates {
  const blank = () => new Float64Array(orders.length);
  const rates = { ...priorsOf(orders, exposure, ladder), log: blank(), variance: blank() };
  if (unsure) for (let row = 0; row < orders.length; row++) rates.priorVariance[row]! += unsure[row]!;
  for (let row = 0; row < orders.length; row++) seeOrders(rates, row, orders[row]!, exposure[row]!);
  return rates;
}

/**
 * Only what the levels above say of every row, which is all that some need.
 * @param rounds of fitting; fewer where the exposure is going to be worked out anew anyway
 */
export function priorsOf(
  orders: ArrayLike<number>,
  exposure: ArrayLike<number>,
  ladder: ArrayLike<number>[],
  rounds = ROUNDS,
): Priors {
  const levels = build(orders, exposure, ladder);
  for (let round = 0; round < rounds; round++) {
    levels.slice(0, -1).forEach((level, l) => {
      // What one level takes for spread the next must not take again, so each is fitted to what the others left. Only the
      // spread of the level before has changed since, so those below it say the same, and rows are gone through once a round.
      sumUp(levels, Math.max(0, l - 1));
      pullDown(levels, l);
      level.spread = fitSpread(level.orders, level.exposure, level.priorMean, level.aboveUnsure);
    });
  }
  sumUp(levels);
  pullDown(levels, 0, "all");
  const { spread, priorMean, aboveUnsure } = levels[0]!;
  // How rows differ, and how unsure the level above is.
  return { priorMean, priorVariance: aboveUnsure.map((unsure) => spread * spread + unsure), spread };
}

function build(orders: ArrayLike<number>, exposure: ArrayLike<number>, ladder: ArrayLike<number>[]): Level[] {
  const rows = orders.length;
  const blank = (count: number) => ({
    ...{ orders: new Float64Array(count), exposure: new Float64Array(count) },
    ...{ priorMean: new Float64Array(count), priorUnsure: new Float64Array(count) },
    ...{ aboveUnsure: new Float64Array(count), spread: FIRST_SPREAD / 2, told: new Uint32Array(0) },
  });
  const sizes = ladder.map((codes) => {
    let highest = 0;
    for (let row = 0; row < rows; row++) highest = Math.max(highest, codes[row]!);
    return highest + 1;
  });
  const levels: Level[] = [{ ...blank(rows), parent: ladder[0] ?? new Uint8Array(rows) }];
  ladder.forEach((codes, l) => {
    const parent = new Uint32Array(sizes[l]!);
    const above = ladder[l + 1];
    if (above) for (let row = 0; row < rows; row++) parent[codes[row]!] = above[row]!;
    levels.push({ ...blank(sizes[l]!), parent });
  });
  levels.push({ ...blank(1), parent: null });
  levels[0]!.orders.set(orders);
  levels[0]!.exposure.set(exposure);
  let [n, k] = [0, 0];
  for (let row = 0; row < rows; row++) {
    n += orders[row]!;
    k += exposure[row]!;
  }
  const overall = k > 0 ? Math.max(n, 0.5) / k : 0.01;
  for (const level of levels) level.priorMean.fill(overall);
  levels[0]!.spread = FIRST_SPREAD;
  noteTold(levels);
  return levels;
}

/** Notes of every level which members have anything below them. */
function noteTold(levels: Level[]): void {
  const { orders, exposure } = levels[0]!;
  let has = new Uint8Array(orders.length);
  for (let row = 0; row < has.length; row++) has[row] = orders[row]! > 0 || exposure[row]! > 0 ? 1 : 0;
  for (const [l, level] of levels.entries()) {
    const next = new Uint8Array(levels[l + 1]?.orders.length ?? 0);
    const told = new Uint32Array(has.length);
    let count = 0;
    for (let i = 0; i < has.length; i++) {
      if (has[i] === 0) continue;
      told[count++] = i;
      if (level.parent) next[level.parent[i]!] = 1;
    }
    level.told = told.slice(0, count);
    has = next;
  }
}

/** The relative variance of members: of a log-normal with their spread. */
function differ({ spread }: Level): number {
  return Math.expm1(spread * spread);
}

/** What each level's members know, from the ones below: their orders and exposure, weighed by how much they say. @param from the first level below */
function sumUp(levels: Level[], from = 0): void {
  for (let l = from; l < levels.length - 1; l++) {
    const below = levels[l]!;
    const above = levels[l + 1]!;
    above.orders.fill(0);
    above.exposure.fill(0);
    const apart = differ(below);
    for (const i of below.told) {
      const p = below.parent![i]!;
      const weight = 1 / (1 + below.exposure[i]! * below.priorMean[i]! * apart);
      above.orders[p]! += weight * below.orders[i]!;
      above.exposure[p]! += weight * below.exposure[i]!;
    }
  }
}

/** The least orders that the whole is taken to have had, so that a shop without one has a rate too. */
const LEAST_ORDERS = 0.5;

/**
 * From the whole downwards: what the level above and its other members say of each member.
 * @param to the last level
 * @param whose of all members, or only of those that tell anything, which is all that fitting needs
 */
function pullDown(levels: Level[], to = 0, whose: "told" | "all" = "told"): void {
  for (let l = levels.length - 2; l >= to; l--) {
    const level = levels[l]!;
    const above = levels[l + 1]!;
    const { parent, orders, exposure } = level;
    const own = differ(level);
    const count = whose === "all" ? orders.length : level.told.length;
    for (let at = 0; at < count; at++) {
      const i = whose === "all" ? at : level.told[at]!;
      const p = parent![i]!;
      const weight = 1 / (1 + exposure[i]! * level.priorMean[i]! * own);
      // As a Gamma of the same relative variance: the others' orders are so many that the form hardly matters.
      const shape = above.parent ? 1 / above.priorUnsure[p]! : LEAST_ORDERS;
      const others = Math.max(0, above.orders[p]! - weight * orders[i]!);
      const exposed = Math.max(0, above.exposure[p]! - weight * exposure[i]!);
      const mean = (shape + others) / (shape / above.priorMean[p]! + exposed);
      const unsure = 1 / (shape + others);
      level.priorMean[i] = mean;
      level.aboveUnsure[i] = Math.log1p(unsure);
      level.priorUnsure[i] = (1 + own) * (1 + unsure) - 1;
    }
  }
}

/** Sets the posterior of a row from its prior and what came of it. */
export function seeOrders(rates: PooledRates, row: number, orders: number, exposure: number): void {
  const mean = rates.priorMean[row]!;
  const known = posteriorLog(orders, exposure * mean, rates.priorVariance[row]!);
  rates.log[row] = Math.log(mean) + known.mean;
  rates.variance[row] = known.variance;
}
