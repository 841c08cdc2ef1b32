/** A home of an item as far as it matters when it serves. */
export interface HomeHours {
  /** The hour at which its campaign usually runs out of money, or null where it usually does not. */
  dryAt: number | null;
  /** Hours of the day in which its campaign bids nothing. */
  offHours: readonly number[];
}

/**
 * Which of an item's homes serves it at an hour: the first in serve order that has money then and bids.
 * @param homes first to serve first
 * @returns its place, or −1 where none does
 */
export function servesAt(homes: readonly HomeHours[], hour: number): number {
  return homes.findIndex(({ dryAt, offHours }) => (dryAt === null || hour < dryAt) && !offHours.includes(hour));
}

/** The day in runs of hours that one home serves, from midnight on. */
export function servingDay(homes: readonly HomeHours[]): { from: number; to: number; home: number }[] {
  const runs: { from: number; to: number; home: number }[] = [];
  for (let hour = 0; hour < 24; hour++) {
    const home = servesAt(homes, hour);
    const last = runs.at(-1);
    if (last?.home === home) last.to = hour + 1;
    else runs.push({ from: hour, to: hour + 1, home });
  }
  return runs;
}
