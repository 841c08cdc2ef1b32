/*
 * An order that follows a click on one item is now and then of another. What a dear item's clicks bring is then less than
 * its price, and what a cheap one's bring is more; taken for its own price, dear items would look a fifth too good.
 */

/** Share of orders that are of another item, before anything is known, and how sure that is (1 ÷ variance). */
const USUAL_SHARE = 0.08;
const SURE_OF_USUAL = 1 / 0.08 ** 2;
const MOST_SHARE = 0.5;

/** Relative variance of the value of single orders, by which rows say more or less. */
const SINGLE = 0.5;

/** Beyond this a kind's mean price tells no more of how orders of a row differ from its own. */
const FURTHEST = 4;

/**
 * The price that an order after a click on each row is expected to be of: (1 − h) × its own + h × the mean of its kind. The
 * share h is one for all rows, by weighted least squares of value an order ÷ own price on 1 and (mean of kind ÷ own price −
 * 1), drawn to what is usual.
 * @param revenue mills a row
 * @param paid what a shopper pays for each row, mills; NaN for unknown
 * @param kinds a code a row
 * @returns mills a row, NaN where the own price is not known; and the share
 */
export function orderPrices(
  revenue: ArrayLike<number>,
  orders: ArrayLike<number>,
  paid: Float64Array,
  kinds: ArrayLike<number>,
): { prices: Float64Array; share: number } {
  const means = meansOf(paid, kinds);
  let [sw, sx, sy, sxx, sxy] = [0, 0, 0, 0, 0];
  for (let row = 0; row < paid.length; row++) {
    if (!(orders[row]! > 0) || !(paid[row]! > 0)) continue;
    const x = Math.min(FURTHEST, means[kinds[row]!]! / paid[row]! - 1);
    const y = revenue[row]! / orders[row]! / paid[row]!;
    // An order that may be of a much dearer item says less.
    const w = orders[row]! / (1 + x * x);
    sw += w;
    sx += w * x;
    sy += w * y;
    sxx += w * x * x;
    sxy += w * x * y;
  }
  const apart = sw > 0 ? sxx - (sx * sx) / sw : 0;
  const slope = apart > 1e-9 ? (sxy - (sx * sy) / sw) / apart : 0;
  const level = sw > 0 ? (sy - slope * sx) / sw : 1;
  const known = apart / SINGLE;
  const found = level > 0 ? slope / level : 0;
  const share = Math.max(
    0,
    Math.min(MOST_SHARE, (found * known + USUAL_SHARE * SURE_OF_USUAL) / (known + SURE_OF_USUAL)),
  );
  const prices = paid.map((price, row) => (price > 0 ? (1 - share) * price + share * means[kinds[row]!]! : NaN));
  return { prices, share };
}

/** The mean price of each kind, over rows whose price is known. */
function meansOf(paid: Float64Array, kinds: ArrayLike<number>): Float64Array {
  let count = 1;
  for (let row = 0; row < paid.length; row++) count = Math.max(count, kinds[row]! + 1);
  const sums = new Float64Array(count);
  const known = new Float64Array(count);
  for (let row = 0; row < paid.length; row++) {
    if (!(paid[row]! > 0)) continue;
    sums[kinds[row]!]! += paid[row]!;
    known[kinds[row]!]!++;
  }
  return sums.map((sum, kind) => sum / known[kind]!);
}
