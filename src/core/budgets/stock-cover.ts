import type { Ground } from "../moves/ground";

/** Stock below so many days of sales is thin: more money would sell it out. */
export const THIN_DAYS = 14;

/**
 * Of each campaign the share of its items' ad sales that comes from items whose stock lasts less than so many days at the
 * shop's sales of the window: more money would sell them out.
 * @param stock pieces of each row; NaN where nobody knows, which counts as neither
 */
export function stockCover(
  { homes, aimed, sums, days }: Ground,
  stock: ArrayLike<number>,
  thin: number,
): Map<string, number> {
  const shares = new Map<string, { thin: number; all: number; seen: Set<number> }>();
  for (const { campaign, rows } of [...homes, ...aimed]) {
    let share = shares.get(campaign.key);
    if (!share) shares.set(campaign.key, (share = { thin: 0, all: 0, seen: new Set() }));
    for (const row of rows) {
      const sold = sums.storeOrders[row]! / days;
      if (share.seen.has(row) || Number.isNaN(stock[row]!)) continue;
      share.seen.add(row);
      share.all += sums.revenue[row]!;
      if (sold > 0 && stock[row]! / sold < thin) share.thin += sums.revenue[row]!;
    }
  }
  return new Map(
    [...shares].flatMap(([key, share]) => (share.all > 0 ? [[key, share.thin / share.all] as const] : [])),
  );
}
