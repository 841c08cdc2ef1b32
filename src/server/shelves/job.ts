import type { Database } from "@/db/client";
import { copyPlans, planograms } from "@/db/schema";
import { queueCopyKeepUp, queuePlanogramSteps, queueShelves } from "../jobs/jobs";
import type { JobContext, JobHandler } from "../jobs/work";
import type { WorkspaceInfo } from "../workspaces";
import { dayAt } from "@/core/kit/days";
import { recomputeAll } from "./compute";

async function run(context: JobContext) {
  const done = await recomputeAll(context.db, (count, total) => context.progress(count, total, "sets"));
  // Shelves come last of all that a reading or new results bring along, so now planograms and ads see things as they are.
  const all = await context.db.select({ definition: planograms.definition }).from(planograms);
  if (all.some(({ definition }) => definition.keepStep?.how === "apply")) await queuePlanogramSteps(context.db);
  const copies = await context.db.select({ definition: copyPlans.definition }).from(copyPlans);
  if (copies.some(({ definition }) => definition.keepUp)) await queueCopyKeepUp(context.db);
  return done;
}

/** Recomputes all shelf sets. Each is kept as a whole or not at all, so there is nothing to roll back. */
export const shelvesJob: JobHandler = { run, rollBack: async () => {} };

/** Queues a recompute on the days on which dated picks begin or end, once a day. */
export async function queueDueShelves(db: Database, { timeZone }: WorkspaceInfo): Promise<void> {
  const today = dayAt(Date.now(), timeZone);
  const { rows } = await db.$client.execute({
    sql: `SELECT max(s.computed_at) FROM shelf_picks p JOIN shelf_sets s ON s.key = p.set_key
      WHERE p.from_day = ? OR p.until_day = ?`,
    args: [today, today - 1],
  });
  const computedAt = rows[0]?.[0];
  if (typeof computedAt === "number" && dayAt(computedAt, timeZone) < today) await queueShelves(db);
}
