import type { TextColumn } from "../kit/columns";
import { shareGap, type Sums } from "../kit/metrics";
import { sumsByCode, totalOf, type RowSums } from "../results/window-sums";

/** What stands on one shelf. */
export interface ShelfSums {
  items: number;
  families: number;
  sums: Sums;
  spendShare: number | null;
  salesShare: number | null;
  gap: number | null;
  /** Mills; null on a shelf where no item has a price. */
  priceFrom: number | null;
  priceTo: number | null;
}

/** Figures of every shelf from each row's place in the set. */
export function shelfFigures(
  sums: RowSums,
  shelf: Uint8Array,
  count: number,
  family: TextColumn | null,
  price: Float64Array | null,
): ShelfSums[] {
  const total = totalOf(sums);
  const parts = sumsByCode(sums, shelf, count);
  const items = new Uint32Array(count);
  const families = new Uint32Array(count);
  const low = new Float64Array(count).fill(Infinity);
  const high = new Float64Array(count).fill(-Infinity);
  // Items without a family are one each.
  const seen = new Uint8Array((family?.values.length ?? 0) * count);
  for (let row = 0; row < shelf.length; row++) {
    const at = shelf[row]!;
    items[at] = items[at]! + 1;
    const code = family?.codes[row] ?? 0;
    if (code === 0 || !seen[code * count + at]) families[at] = families[at]! + 1;
    if (code !== 0) seen[code * count + at] = 1;
    const value = price?.[row] ?? NaN;
    if (value < low[at]!) low[at] = value;
    if (value > high[at]!) high[at] = value;
  }
  return parts.map((part, at) => ({
    ...{ items: items[at]!, families: families[at]!, sums: part },
    ...shareGap(part, total),
    priceFrom: low[at] === Infinity ? null : low[at]!,
    priceTo: high[at] === -Infinity ? null : high[at]!,
  }));
}

/** One cell of two sets laid over each other. */
export interface OverlapCell {
  items: number;
  cost: number;
  revenue: number;
  storeRevenue: number;
}

/** Two sets laid over each other: cell of shelf `a` of one and `b` of the other at `[a][b]`. */
export function overlap(
  first: { shelf: Uint8Array; count: number },
  second: { shelf: Uint8Array; count: number },
  sums: RowSums,
): OverlapCell[][] {
  const cells = Array.from({ length: first.count }, () =>
    Array.from({ length: second.count }, (): OverlapCell => ({ items: 0, cost: 0, revenue: 0, storeRevenue: 0 })),
  );
  for (let row = 0; row < first.shelf.length; row++) {
    const cell = cells[first.shelf[row]!]![second.shelf[row]!]!;
    cell.items++;
    cell.cost += sums.cost[row]!;
    cell.revenue += sums.revenue[row]!;
    cell.storeRevenue += sums.storeRevenue[row]!;
  }
  return cells;
}
