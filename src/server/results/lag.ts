import type { Window } from "@/core/kit/days";
import { betweenLooks, COMPLETE, estimateLag, NO_LAG, seenShare, type LagCurve } from "@/core/evidence/lag";
import type { Database } from "@/db/client";
import { marketState, orderArrivals, reportArrivals } from "@/db/schema";
import { remember } from "../read/memo";
import { resultsVersion } from "./load";

/** How a workspace's orders come in after their clicks, and how old each day was when it was last seen. */
export interface Lag {
  curve: LagCurve;
  ageOf: (day: number) => number;
}

/** The lag curve, learned from how the days filled up that have been restated since. Kept until results change. */
export async function loadLag(db: Database): Promise<Lag> {
  return remember(db, "lag", [await resultsVersion(db)], () => learnLag(db));
}

/**
 * The test market restates every day up to its last one. A day that report files tell of is as old as it was when the last
 * of them was written; later files about other days say nothing of it.
 */
async function learnLag(db: Database): Promise<Lag> {
  const [state] = await db.select({ day: marketState.day }).from(marketState);
  const ofMarket = await db.select().from(orderArrivals);
  const ofFiles = await db.select().from(reportArrivals);
  const seenAt = new Map<number, number>();
  for (const { day, age } of ofFiles) seenAt.set(day, Math.max(seenAt.get(day) ?? 0, age));
  const marketDay = state?.day ?? -Infinity;
  // A day that nothing is known of was there before anybody looked, and is complete.
  const ageOf = (day: number) => seenAt.get(day) ?? (day <= marketDay ? marketDay - day : Infinity);
  const arrivals = [...ofMarket, ...betweenLooks(ofFiles)];
  return { curve: arrivals.length > 0 ? estimateLag(arrivals, ageOf) : NO_LAG, ageOf };
}

/** Days of a window whose orders are not all in yet. */
export function incompleteDays(lag: Lag, window: Window): number {
  let count = 0;
  for (let day = window.from; day <= window.to; day++) if (seenOn(lag, day) < COMPLETE) count++;
  return count;
}

/** Share of a day's final orders that have come in. */
export function seenOn({ curve, ageOf }: Lag, day: number): number {
  return seenShare(curve, ageOf(day));
}

/** The days of a window that may not be complete, as one run; null where all are. */
export function openDays(lag: Lag, window: Window): Window | null {
  let from = Infinity;
  let to = -Infinity;
  for (let day = window.from; day <= window.to; day++) {
    if (seenOn(lag, day) >= 1) continue;
    from = Math.min(from, day);
    to = day;
  }
  return from > to ? null : { from, to };
}
