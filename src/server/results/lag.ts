import type { Window } from "@/core/kit/days";
import { COMPLETE, estimateLag, NO_LAG, seenShare, type LagCurve } from "@/core/evidence/lag";
import type { Database } from "@/db/client";
import { marketState, orderArrivals } from "@/db/schema";
import { remember } from "../read/memo";
import { resultsVersion } from "./load";

/** How a workspace's orders come in after their clicks, and up to which day it is known. */
export interface Lag {
  curve: LagCurve;
  asOf: number;
}

/** The lag curve, learned from how the days filled up that have been restated since. Kept until results change. */
export async function loadLag(db: Database): Promise<Lag> {
  return remember(db, "lag", [await resultsVersion(db)], () => learnLag(db));
}

async function learnLag(db: Database): Promise<Lag> {
  const [state] = await db.select({ day: marketState.day }).from(marketState);
  const arrivals = await db.select().from(orderArrivals);
  const asOf = state?.day ?? arrivals.reduce((last, { day, age }) => Math.max(last, day + age), 0);
  return { curve: arrivals.length > 0 ? estimateLag(arrivals, asOf) : NO_LAG, asOf };
}

/** Days of a window whose orders are not all in yet. */
export function incompleteDays({ curve, asOf }: Lag, window: Window): number {
  let count = 0;
  for (let day = Math.min(window.to, asOf); day >= window.from && seenShare(curve, asOf - day) < COMPLETE; day--)
    count++;
  return count;
}

/** Share of a day's final orders that have come in. */
export function seenOn({ curve, asOf }: Lag, day: number): number {
  return seenShare(curve, asOf - day);
}
