import { quantile } from "../kit/stats";
import { CLEARLY, degreesAbove, degreesBelow, JUST, NEARLY, NOT } from "./degrees";
import type { Cut } from "./shelf-set";

/** A metric's values over the rows that a band counts; NaN for a row without it, or of which too little is known. */
export interface CutInputs {
  values: Float64Array;
  /** What quantiles can be weighted by. Mills. */
  cost: Float64Array;
  revenue: Float64Array;
  /** Rows in the order of their item IDs, which settles ties; left out for their own order. */
  byId?: Uint32Array;
}

/** Whole numbers that are finite or not, but numbers. */
function known(values: Float64Array): Float64Array {
  return values.filter((value) => !Number.isNaN(value));
}

/** Type 7 on values that may hold infinities: those at the ends count as items, but don't spoil the step between two. */
function safeQuantile(values: Float64Array, q: number): number | null {
  const found = quantile(values, q);
  if (found === null || !Number.isNaN(found)) return found;
  const sorted = values.slice().sort();
  return sorted[Math.round((sorted.length - 1) * q)]!;
}

/**
 * The value at which so much of a weight lies below: the least value at which the weights up to and with it reach `q` of all.
 * Where nothing weighs anything, by count.
 */
function weightedQuantile(values: Float64Array, weights: Float64Array, q: number): number | null {
  const rows = [...values.keys()].filter((row) => !Number.isNaN(values[row]!));
  rows.sort((a, b) => values[a]! - values[b]! || a - b);
  const all = rows.reduce((sum, row) => sum + Math.max(0, weights[row]!), 0);
  if (all === 0) return safeQuantile(known(values), q);
  let sum = 0;
  for (const row of rows) {
    sum += Math.max(0, weights[row]!);
    if (sum > q * all) return values[row]!;
  }
  return rows.length ? values[rows.at(-1)!]! : null;
}

/** Where a cut falls among some values; null where no value is known, and for cuts that go by rank. */
export function cutValue(cut: Cut, { values, cost, revenue }: CutInputs): number | null {
  if (cut.by === "value") return cut.at;
  const some = known(values);
  if (some.length === 0) return null;
  if (cut.by === "quantile") {
    return cut.weight === "items"
      ? safeQuantile(some, cut.q)
      : weightedQuantile(values, cut.weight === "cost" ? cost : revenue, cut.q);
  }
  if (cut.by !== "middle") return null;
  const finite = some.filter(Number.isFinite);
  // A return on clicks that cost nothing has no size; where that is all there is, it is the middle too.
  if (finite.length === 0) return some[0]!;
  if (cut.of === "median") return quantile(finite, 0.5)! * cut.times;
  if (cut.of === "mean") return (finite.reduce((sum, value) => sum + value, 0) / finite.length) * cut.times;
  const [least, most] = finite.reduce(
    ([a, b], value) => [Math.min(a, value), Math.max(b, value)],
    [Infinity, -Infinity],
  );
  return ((least + most) / 2) * cut.times;
}

/** Rows that have a value, highest first; ties by item ID. */
export function ranked(values: Float64Array, byId?: Uint32Array): Uint32Array {
  const place = new Uint32Array(values.length);
  if (byId) byId.forEach((row, at) => (place[row] = at));
  else for (let row = 0; row < place.length; row++) place[row] = row;
  const rows = Uint32Array.from(values.keys()).filter((row) => !Number.isNaN(values[row]!));
  return rows.sort((a, b) => (values[a] === values[b] ? place[a]! - place[b]! : values[b]! - values[a]! || 0));
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
  if (side === "any" || cut === null) return Uint8Array.from(all, (value) => (Number.isNaN(value) ? NOT : CLEARLY));
  if (cut.by === "count" || cut.by === "share") return rankDegrees(side, cut, inputs, margin);
  const at = cutValue(cut, inputs);
  if (at === null) return new Uint8Array(all.length);
  return side === "above" ? degreesAbove(all, at, margin) : degreesBelow(all, at, margin);
}

function rankDegrees(
  side: "above" | "below",
  cut: Extract<Cut, { by: "count" | "share" }>,
  { values, byId }: CutInputs,
  margin: number,
): Uint8Array {
  const order = ranked(values, byId);
  const wanted = cut.by === "count" ? cut.n : Math.round(order.length * cut.share);
  const degrees = new Uint8Array(values.length);
  order.forEach((row, at) => {
    const rank = side === "above" ? at + 1 : order.length - at;
    degrees[row] =
      rank <= wanted
        ? rank <= wanted / (1 + margin) || margin === 0
          ? CLEARLY
          : JUST
        : rank <= wanted * (1 + margin)
          ? NEARLY
          : NOT;
  });
  return degrees;
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
