import { SLOTS } from "./slot-figures";
import type { Category } from "./world-types";

/** Of what stood before, so much of our pressure on rivals is left a day later. */
const MEMORY = 0.85;

/** How many of a category's auctions on queries and pages our ads stood in of late, 0 to 1, by its name. */
export type Pressure = Record<string, number>;

/**
 * Pressure after a day. Rivals see who stands above them and bid more where one of ours always does
 * ({@link conditionsOn} adds `answer` × pressure to the logarithm of their bids), so a bid costs more for having been made.
 * @param views by category: expected views of its queries and pages that day
 * @param shown by category: impressions of ours there
 */
export function pressureAfter(
  before: Pressure,
  views: ReadonlyMap<string, number>,
  shown: ReadonlyMap<string, number>,
): Pressure {
  const after: Pressure = {};
  for (const [name, all] of views) {
    const share = all > 0 ? Math.min(1, (shown.get(name) ?? 0) / all) : 0;
    const next = MEMORY * (before[name] ?? 0) + (1 - MEMORY) * share;
    if (next > 1e-6) after[name] = next;
  }
  return after;
}

/** What pressure comes to if every day is as the one that led from one to the other: the share of that day. */
export function settledPressure(before: Pressure, after: Pressure): Pressure {
  return Object.fromEntries(
    Object.entries(after).map(([name, value]) => [name, (value - MEMORY * (before[name] ?? 0)) / (1 - MEMORY)]),
  );
}

/** Rivals watch queries and pages, by the slot; partner media nobody watches. */
export const isWatched = (slot: number) => SLOTS[slot]!.key !== "partner-media";

/** Views of what rivals watch in a category on an average day. */
export function watchedViews({ surfaces }: Category): number {
  return surfaces.reduce((sum, { kind, volume }) => (kind === "placement" ? sum : sum + volume), 0);
}
