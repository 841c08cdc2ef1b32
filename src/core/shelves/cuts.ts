import { CLEARLY, degreesAbove, degreesBelow, JUST, NEARLY, NOT } from "./degrees";
import type { Cut } from "./shelf-set";

/** A metric's values over the rows that a band counts; NaN for a row without it, or of which too little is known. */
export interface CutInputs {
  values: Float64Array;
  /** What quantiles can be weighted by. Mills. */
  cost: Float64Array;
  revenue: Float64Array;
  /** Rows in the order of their item IDs, which settles ties; asked for only where there are some. Left out for their own order. */
  byId?: () => Uint32Array;
}

/** Values in order, lowest first, for arrays that several cuts look at: sorting is most of the work. */
const sortedOf = new WeakMap<Float64Array, Float64Array>();

/** The values that are numbers, finite or not, lowest first. Not to be written to. */
function inOrder(values: Float64Array): Float64Array {
  let found = sortedOf.get(values);
  if (!found) {
    const known = new Float64Array(values.length);
    let count = 0;
    for (let row = 0; row < values.length; row++) if (!Number.isNaN(values[row]!)) known[count++] = values[row]!;
    sortedOf.set(values, (found = known.subarray(0, count).sort()));
  }
  return found;
}

/** Type 7 on sorted values that may hold infinities: those at the ends count as items, but don't spoil the step between two. */
function safeQuantile(sorted: Float64Array, q: number): number {
  const h = (sorted.length - 1) * q;
  const low = Math.floor(h);
  const [a, b] = [sorted[low]!, sorted[Math.min(low + 1, sorted.length - 1)]!];
  if (a === b || h === low) return a;
  return Number.isFinite(a) && Number.isFinite(b) ? a + (h - low) * (b - a) : sorted[Math.round(h)]!;
}

/**
 * The value at which so much of a weight lies below: the least value at which the weights up to and with it are more than `q`
 * of all. Where nothing weighs anything, by count.
 */
function weightedQuantile(values: Float64Array, weights: Float64Array, q: number): number {
  let rows = new Uint32Array(values.length);
  let count = 0;
  let all = 0;
  for (let row = 0; row < values.length; row++) {
    if (Number.isNaN(values[row]!)) continue;
    rows[count++] = row;
    all += Math.max(0, weights[row]!);
  }
  const sorted = inOrder(values);
  if (all === 0) return safeQuantile(sorted, q);
  rows = rows.subarray(0, count);
  // A search over the sorted values that keeps only the rows between its ends: two passes' worth of work in all.
  let [low, high, below] = [0, sorted.length - 1, 0];
  while (low < high) {
    const middle = (low + high) >> 1;
    const value = sorted[middle]!;
    let sum = 0;
    for (let i = 0; i < rows.length; i++) if (values[rows[i]!]! <= value) sum += Math.max(0, weights[rows[i]!]!);
    const isBelow = below + sum > q * all;
    if (isBelow) high = middle;
    else {
      low = middle + 1;
      below += sum;
    }
    let kept = 0;
    for (let i = 0; i < rows.length; i++) if (values[rows[i]!]! <= value === isBelow) rows[kept++] = rows[i]!;
    rows = rows.subarray(0, kept);
  }
  return sorted[low]!;
}

/** The finite ones of sorted values. */
function finiteOf(sorted: Float64Array): Float64Array {
  let [from, to] = [0, sorted.length];
  while (from < to && sorted[from] === -Infinity) from++;
  while (to > from && sorted[to - 1] === Infinity) to--;
  return sorted.subarray(from, to);
}

/** Where a cut falls among some values; null where no value is known, and for cuts that go by rank. */
export function cutValue(cut: Cut, { values, cost, revenue }: CutInputs): number | null {
  if (cut.by === "value") return cut.at;
  if (cut.by === "count" || cut.by === "share") return null;
  const sorted = inOrder(values);
  if (sorted.length === 0) return null;
  if (cut.by === "quantile") {
    return cut.weight === "items"
      ? safeQuantile(sorted, cut.q)
      : weightedQuantile(values, cut.weight === "cost" ? cost : revenue, cut.q);
  }
  const finite = finiteOf(sorted);
  // A return on clicks that cost nothing has no size; where that is all there is, it is the middle too.
  if (finite.length === 0) return sorted[0]!;
  if (cut.of === "median") return safeQuantile(finite, 0.5) * cut.times;
  if (cut.of === "mean") return (finite.reduce((sum, value) => sum + value, 0) / finite.length) * cut.times;
  return ((finite[0]! + finite.at(-1)!) / 2) * cut.times;
}

/**
 * Degrees of a band for every row.
 * @param side `above` holds from the cut on, `below` under it, so the two of one cut share every row that has the metric
 * @param inputs what the cut is looked for among
 * @param all the values that it is held against; others than those only where a row may be near to counting
 */
export function bandDegrees(
  side: "above" | "below" | "any",
  cut: Cut | null,
  inputs: CutInputs,
  margin: number,
  all = inputs.values,
): Uint8Array {
  if (side === "any" || cut === null) {
    const degrees = new Uint8Array(all.length);
    for (let row = 0; row < all.length; row++) degrees[row] = Number.isNaN(all[row]!) ? NOT : CLEARLY;
    return degrees;
  }
  if (cut.by === "count" || cut.by === "share") return rankDegrees(side, cut, inputs, margin);
  const at = cutValue(cut, inputs);
  if (at === null) return new Uint8Array(all.length);
  return side === "above" ? degreesAbove(all, at, margin) : degreesBelow(all, at, margin);
}

/**
 * Degrees by rank from the top or the bottom. Rows with one value are told apart by item ID: from the top the lesser ID comes
 * first, so from the bottom it comes last.
 */
function rankDegrees(
  side: "above" | "below",
  cut: Extract<Cut, { by: "count" | "share" }>,
  { values, byId }: CutInputs,
  margin: number,
): Uint8Array {
  const sorted = inOrder(values);
  const wanted = cut.by === "count" ? cut.n : Math.round(sorted.length * cut.share);
  const degrees = new Uint8Array(values.length);
  const isTop = side === "above";
  const ties = new Map<number, number[]>();
  const limits: [rank: number, degree: number][] = [
    [Math.floor(wanted * (1 + margin)), NEARLY],
    [wanted, JUST],
    [margin === 0 ? wanted : Math.floor(wanted / (1 + margin)), CLEARLY],
  ];
  for (const [rank, degree] of limits) {
    const count = Math.min(rank, sorted.length);
    if (count <= 0) continue;
    const edge = isTop ? sorted[sorted.length - count]! : sorted[count - 1]!;
    let taken = 0;
    for (let row = 0; row < values.length; row++) {
      const value = values[row]!;
      if (isTop ? value > edge : value < edge) {
        degrees[row] = degree;
        taken++;
      }
    }
    let equal = ties.get(edge);
    if (!equal) ties.set(edge, (equal = rowsAt(values, edge, isTop, byId)));
    for (let i = 0; i < count - taken; i++) degrees[equal[i]!] = degree;
  }
  return degrees;
}

/** The rows with one value, first from the top or from the bottom. */
function rowsAt(values: Float64Array, value: number, isTop: boolean, byId: CutInputs["byId"]): number[] {
  const equal: number[] = [];
  for (let row = 0; row < values.length; row++) if (values[row] === value) equal.push(row);
  const order = equal.length > 1 && byId ? byId() : null;
  if (!order) return isTop ? equal : equal.reverse();
  const held = new Uint8Array(values.length);
  for (const row of equal) held[row] = 1;
  const sorted: number[] = [];
  for (let i = 0; i < order.length; i++) if (held[order[i]!]) sorted.push(order[i]!);
  return isTop ? sorted : sorted.reverse();
}

/** How far apart the values are: nothing to cut where all are alike. */
export function spreadOf(values: Float64Array): { known: number; least: number; most: number } {
  let [count, least, most] = [0, Infinity, -Infinity];
  for (const value of values) {
    if (Number.isNaN(value)) continue;
    count++;
    if (value < least) least = value;
    if (value > most) most = value;
  }
  return { known: count, least, most };
}
