import { normalCdf } from "../kit/stats";
import { deviationsAt, harmDeviationsAt, LEAST_KNOWN } from "./bounds";
import { gainOf } from "./series";
import { knownShare, type Noise } from "./noise";
import type { Pairs } from "./matching";

/** What a change brings a day to all units that go with it, as far as it is known. */
export interface Effect {
  mean: number;
  error: number;
  /** Ends that hold on whatever day one looks: each side is passed by the truth one time in twenty at most. */
  low: number;
  high: number;
  /** The chance that it brings more rather than less. */
  chance: number;
  /** What is known by now as a share of what the plan comes to know. */
  known: number;
  /** Whether what was lost is sure enough to stop for. */
  isHarmful: boolean;
}

/** An effect with its bound, or null where too little is known to say anything. */
function withBounds(mean: number, error: number, known: number, degrees: number): Effect | null {
  if (known < LEAST_KNOWN || !(error > 0)) return null;
  const reach = deviationsAt(known, degrees) * error;
  return {
    ...{ mean, error, low: mean - reach, high: mean + reach, known },
    chance: normalCdf(mean / error),
    isHarmful: mean < -harmDeviationsAt(known, degrees) * error,
  };
}

/**
 * What a change brings to the units that go with it: the sum over pairs of how the one with it differs from the one without,
 * beyond what they differed by before. Its error is that of the pairs among each other, so that days of one unit, which are no
 * independent witnesses, count as one.
 * @param before and @param during a unit's mean of a day
 */
export function effectOfPairs(
  before: Float64Array,
  during: Float64Array,
  pairs: Pairs,
  noise: Noise,
  days: number,
  planned: number,
): Effect | null {
  const count = pairs.with.length;
  if (count < 2) return null;
  const gain = gainOf(before, during, pairs);
  const differences = Float64Array.from(pairs.with, (one, at) => {
    const other = pairs.without[at]!;
    return during[one]! - during[other]! - gain * (before[one]! - before[other]!);
  });
  const sum = differences.reduce((all, value) => all + value, 0);
  const mean = sum / count;
  const squares = differences.reduce((all, value) => all + (value - mean) ** 2, 0);
  const error = Math.sqrt((count * squares) / (count - 1));
  return withBounds(sum, error, knownShare(noise, days, planned), count - 1);
}

/**
 * What a change brings on a day on which it is in force, from pairs of days. How far days stray is known from the past as well,
 * so that the first pairs need not tell it alone.
 * @param differences with − without, a pair of days each @param planned pairs of the whole plan
 */
export function effectOfDays(differences: readonly number[], noise: Noise, planned: number): Effect | null {
  const count = differences.length;
  if (count === 0) return null;
  const mean = differences.reduce((sum, value) => sum + value, 0) / count;
  const squares = differences.reduce((sum, value) => sum + (value - mean) ** 2, 0);
  // A pair's variance: half of what the noise of a day comes to, see `noiseOfDays`.
  const past = noise.daily / 2;
  const variance = (past * noise.degrees + squares) / (noise.degrees + count - 1);
  return withBounds(mean, Math.sqrt(variance / count), count / planned, noise.degrees + count - 1);
}
