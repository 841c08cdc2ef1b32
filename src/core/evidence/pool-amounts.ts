/** An amount for each count (value an order, cost a click), pooled. */
export interface PooledAmounts {
  mean: Float64Array;
  /** Relative variance of the mean. */
  unsure: Float64Array;
  /** What is to be expected of a row before its own amounts. */
  middle: Float64Array;
}

/** Relative variances taken before anything is known, and the rows that this stands for: single counts, and rows' means. */
const USUAL = { within: 0.3, between: 0.1, rows: 4 };

/** No two amounts are taken to be the same to the last cent. */
const LEAST_SPREAD = 0.003;

/** How single amounts and rows' means differ, as relative variances, and the mean of all. */
export interface AmountFit {
  overall: number;
  within: number;
  between: number;
}

export interface AmountOptions {
  /** A code a row; left out for one group. */
  groups?: ArrayLike<number> | undefined;
  /** Relative variance of single amounts within a row, where it is known. */
  within?: number | undefined;
  /** What an amount is expected to be, a row, where that is known (a price): what differs from it is pooled. */
  base?: ArrayLike<number>;
}

/** The mean of one row by credibility, between its own and the middle of those it is one of. */
export function poolAmount({ within, between }: AmountFit, middle: number, amount: number, count: number) {
  const ratio = within / between;
  const toMiddle = ratio / (ratio + count);
  return { mean: (ratio * middle + amount) / (ratio + count), unsure: between * toMiddle, toMiddle };
}

/**
 * How amounts differ. Both variances are relative, by moments; where the one of single amounts is not known, it is taken
 * from how much more the means of few scatter than the means of many.
 * @param amount sums a row
 * @param count how many it is the sum of
 */
export function fitAmounts(
  amount: ArrayLike<number>,
  count: ArrayLike<number>,
  { within, base }: AmountOptions = {},
): AmountFit {
  const use = usable(amount, count, base);
  let [sum, n] = [0, 0];
  for (const { share, count: times } of use) {
    sum += share;
    n += times;
  }
  const plain = n > 0 && sum > 0 ? sum / n : 1;
  const spread = spreads(use, plain, within);
  // The middle that rows are drawn to is one of rows, not of amounts: each counts by its credibility.
  const ratio = spread.within / spread.between;
  let [weighed, weight] = [0, 0];
  for (const { share, count: times } of use) {
    weighed += share / (ratio + times);
    weight += times / (ratio + times);
  }
  return { overall: weighed > 0 ? weighed / weight : plain, ...spread };
}

/** The rows that say something: their amounts over the base, and how many they are the sum of. */
function usable(amount: ArrayLike<number>, count: ArrayLike<number>, base?: ArrayLike<number>) {
  const use: { row: number; share: number; count: number }[] = [];
  for (let row = 0; row < amount.length; row++) {
    if (!(count[row]! > 0) || (base && !(base[row]! > 0))) continue;
    use.push({ row, share: amount[row]! / (base ? base[row]! : 1), count: count[row]! });
  }
  return use;
}

/**
 * Pools the mean amount a count by credibility (Bühlmann 1967): a row's own mean has weight N ÷ (N + within ÷ between)
 * against the mean of its group, which stands likewise between its rows and all.
 */
export function poolAmounts(
  amount: ArrayLike<number>,
  count: ArrayLike<number>,
  options: AmountOptions = {},
): PooledAmounts {
  const { groups, base } = options;
  const fit = fitAmounts(amount, count, options);
  const ratio = fit.within / fit.between;
  let groupCount = 1;
  if (groups) for (let row = 0; row < amount.length; row++) groupCount = Math.max(groupCount, groups[row]! + 1);
  const groupSum = new Float64Array(groupCount);
  const groupWeight = new Float64Array(groupCount);
  const own = new Float64Array(amount.length);
  const times = new Float64Array(amount.length);
  for (const { row, share, count: n } of usable(amount, count, base)) {
    const g = groups ? groups[row]! : 0;
    groupSum[g]! += share / (ratio + n);
    groupWeight[g]! += n / (ratio + n);
    own[row] = share;
    times[row] = n;
  }
  const blank = () => new Float64Array(amount.length);
  const result: PooledAmounts = { mean: blank(), unsure: blank(), middle: blank() };
  for (let row = 0; row < amount.length; row++) {
    const g = groups ? groups[row]! : 0;
    // Groups differ about as their rows do, so one row's worth of the whole stands against what a group has.
    const middle = groups ? (groupSum[g]! + fit.overall) / (groupWeight[g]! + 1) : fit.overall;
    const pooled = poolAmount(fit, middle, own[row]!, times[row]!);
    const unsureMiddle = groups ? fit.between / (groupWeight[g]! + 1) : 0;
    const scale = base && base[row]! > 0 ? base[row]! : 1;
    result.mean[row] = pooled.mean * scale;
    result.middle[row] = middle * scale;
    result.unsure[row] = pooled.unsure + pooled.toMiddle ** 2 * unsureMiddle;
  }
  return result;
}

/** Relative variances of single amounts and of rows' true means: least squares of (mean − 1)² on 1 and 1 ÷ count. */
function spreads(
  use: { share: number; count: number }[],
  overall: number,
  known: number | undefined,
): { within: number; between: number } {
  // Weighted by the count, at most 20, so that rows of one order don't drown those that know something.
  let [sw, sx, sy, sxx, sxy] = [0, 0, 0, 0, 0];
  for (const { share, count } of use) {
    const x = 1 / count;
    const w = Math.min(20, count);
    // One wild mean must not decide for all.
    const y = Math.min(25, (share / count / overall - 1) ** 2);
    sw += w;
    sx += w * x;
    sy += w * y;
    sxx += w * x * x;
    sxy += w * x * y;
  }
  const bounded = (value: number, usual: number, rows = USUAL.rows) => {
    const blended = (Math.max(0, value) * use.length + usual * rows) / (use.length + rows);
    return Math.min(10, Math.max(LEAST_SPREAD, blended));
  };
  if (known !== undefined) {
    const within = Math.max(LEAST_SPREAD, known);
    if (sw === 0) return { within, between: USUAL.between };
    // Where rows' own means are sure, how they differ is seen, and what is usual says the less.
    const noise = (within * sx) / sw;
    const between = bounded((sy - within * sx) / sw, USUAL.between, USUAL.rows * Math.min(1, noise / USUAL.between));
    return { within, between };
  }
  if (sw === 0) return { within: USUAL.within, between: USUAL.between };
  const determinant = sw * sxx - sx * sx;
  const slope = determinant > 1e-9 * sw * sxx ? Math.max(0, (sw * sxy - sx * sy) / determinant) : USUAL.within;
  const level = (sy - slope * sx) / sw;
  if (level >= 0) return { within: bounded(slope, USUAL.within), between: bounded(level, USUAL.between) };
  return { within: bounded(sxy / sxx, USUAL.within), between: bounded(0, USUAL.between) };
}
