/**
 * Shares a whole total out by weights with the largest-remainder method (Hamilton): parts are whole, each at least
 * `floor`, and they sum exactly to the total. Ties go to the earlier part.
 * @param total whole number to share, for example mills
 * @param weights none negative; all zero means evenly
 * @returns one part per weight. When the floors alone exceed the total, the total is shared evenly instead.
 */
export function shareOut(total: number, weights: number[], floor = 0): number[] {
  const count = weights.length;
  if (count === 0) return [];
  const base = floor * count > total ? 0 : floor;
  const rest = total - base * count;
  const sum = weights.reduce((a, b) => a + b, 0);
  const exact = weights.map((w) => (sum > 0 && base === floor ? (rest * w) / sum : rest / count));
  const parts = exact.map(Math.floor);
  let left = rest - parts.reduce((a, b) => a + b, 0);
  const order = exact.map((value, i) => [value - Math.floor(value), i] as const);
  order.sort((a, b) => b[0] - a[0] || a[1] - b[1]);
  for (const [, i] of order) {
    if (left <= 0) break;
    parts[i] = parts[i]! + 1;
    left--;
  }
  return parts.map((part) => part + base);
}

/** The least amount that people and other platforms deal in, mills: a cent. */
const CENT = 10;

/**
 * Shares money out like {@link shareOut}, in whole cents, since no other platform takes a budget of 43.997. Mills of the total
 * that make no cent go to the first part; money that is less than a cent each is shared in mills.
 * @param total mills
 * @param floor the least of each part, mills
 */
export function shareMoney(total: number, weights: number[], floor = 0): number[] {
  const cents = Math.floor(total / CENT);
  if (cents < weights.length) return shareOut(total, weights, floor);
  const parts = shareOut(cents, weights, Math.floor(floor / CENT));
  return parts.map((part, i) => part * CENT + (i === 0 ? total - cents * CENT : 0));
}
