import { windowEnding } from "@/core/kit/days";
import type { RowSums } from "@/core/results/window-sums";
import type { Database } from "@/db/client";
import { loadWindow, resultDays } from "./load";
import { PAST_DAYS } from "./past-terms";

/** What the last 90 days brought each row of the catalogue; null where there are no results. */
export async function recentRows(db: Database): Promise<RowSums | null> {
  const span = await resultDays(db);
  return span ? (await loadWindow(db, windowEnding(span.to, PAST_DAYS))).rows : null;
}
