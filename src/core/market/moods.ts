import type { Day } from "../kit/days";
import type { World } from "./world-types";

const kept = new WeakMap<World, { day: Day; values: Float64Array }>();

/**
 * Orders a click by row on a day: an item's own × e^(wander × sin), its swing over months. Which is why the longest window
 * is not always the best. The last day asked of a world is kept.
 */
export function conversionsOn(world: World, day: Day): Float64Array {
  const { truth, nature } = world;
  if (nature.wander === 0) return truth.cvr;
  const last = kept.get(world);
  if (last?.day === day) return last.values;
  const values = truth.cvr.map((cvr, row) => cvr * moodOn(world, row, day));
  kept.set(world, { day, values });
  return values;
}

/** The factor on one row's conversion on a day. */
export function moodOn({ truth, nature }: World, row: number, day: Day): number {
  return Math.exp(nature.wander * Math.sin((2 * Math.PI * day) / truth.swingDays[row]! + truth.swingPhase[row]!));
}
