import { z } from "zod";
import { windowEnding, type Window } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { resultDays } from "./load";

export const DEFAULT_WINDOW_DAYS = 30;

/** The window a request asks for: a number of days ending on the last day with results. */
export const windowSchema = z.coerce.number().int().min(1).max(730).default(DEFAULT_WINDOW_DAYS);

/** That window, or a window of nothing on day 0 when there are no results. */
export async function windowOfDays(db: Database, days: number): Promise<Window> {
  const span = await resultDays(db);
  return span ? windowEnding(span.to, days) : { from: 0, to: 0 };
}
