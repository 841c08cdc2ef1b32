import { dayAt } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { workspace } from "@/db/schema";

/** Today's day in the workspace's time zone. */
export function today(db: Database): Promise<number> {
  return dayOf(db, Date.now());
}

/** The day of a moment in the workspace's time zone. */
export async function dayOf(db: Database, moment: number): Promise<number> {
  const [row] = await db.select({ timeZone: workspace.timeZone }).from(workspace);
  return dayAt(moment, row?.timeZone ?? "UTC");
}
