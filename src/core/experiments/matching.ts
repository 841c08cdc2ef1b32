import { quantile } from "../kit/stats";
import type { Random } from "../kit/random";

/** Two units that are alike, of which a coin says which one goes with the change. */
export interface Pairs {
  /** Units with the change and without it, pair by pair. */
  with: Uint32Array;
  without: Uint32Array;
  /** Units that are in no pair: an odd one. */
  left: number[];
}

/** So many units that come next by size are looked through for the one most like the unit at hand. */
const LOOKED_THROUGH = 40;

/**
 * Puts units into pairs by what they were before: from the largest on, each with the nearest of those that come next by size.
 * Traits are on a log scale in steps of their own spread, so that a large one counts no more than a small one.
 * @param traits a list of the units' values each, the one that they are sorted by first; all of one length
 */
export function pairUnits(traits: readonly Float64Array[], random: Random): Pairs {
  const size = traits[0]?.length ?? 0;
  const scaled = traits.map(inSteps);
  const order = Array.from({ length: size }, (_, unit) => unit).sort(
    (a, b) => traits[0]![b]! - traits[0]![a]! || a - b,
  );
  const isTaken = new Uint8Array(size);
  const pairs: [number, number][] = [];
  const left: number[] = [];
  for (let at = 0; at < size; at++) {
    const unit = order[at]!;
    if (isTaken[unit] === 1) continue;
    isTaken[unit] = 1;
    let [best, least, looked] = [-1, Infinity, 0];
    for (let next = at + 1; next < size && looked < LOOKED_THROUGH; next++) {
      const other = order[next]!;
      if (isTaken[other] === 1) continue;
      looked++;
      const apart = scaled.reduce((sum, values) => sum + (values[unit]! - values[other]!) ** 2, 0);
      if (best < 0 || apart < least) [best, least] = [other, apart];
    }
    if (best < 0) {
      left.push(unit);
      continue;
    }
    isTaken[best] = 1;
    pairs.push(random() < 0.5 ? [unit, best] : [best, unit]);
  }
  return {
    with: Uint32Array.from(pairs, ([one]) => one),
    without: Uint32Array.from(pairs, ([, other]) => other),
    left,
  };
}

/** Values on a log scale around their usual size, divided by their spread. */
function inSteps(values: Float64Array): Float64Array {
  const sizes = values.map(Math.abs).filter((value) => value > 0);
  const usual = quantile(sizes, 0.5) ?? 1;
  const logs = values.map((value) => Math.sign(value) * Math.log1p(Math.abs(value) / usual));
  const mean = logs.reduce((sum, value) => sum + value, 0) / Math.max(1, logs.length);
  const spread = Math.sqrt(logs.reduce((sum, value) => sum + (value - mean) ** 2, 0) / Math.max(1, logs.length)) || 1;
  return logs.map((value) => (value - mean) / spread);
}
