import { dayAt } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { workspace } from "@/db/schema";

/** Today's day in the workspace's time zone. */
export async function today(db: Database): Promise<number> {
  const [row] = await db.select({ timeZone: workspace.timeZone }).from(workspace);
  return dayAt(Date.now(), row?.timeZone ?? "UTC");
}
