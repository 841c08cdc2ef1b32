import { and, eq } from "drizzle-orm";
import type { Account } from "@/core/account/account";
import type { AccountRecord } from "@/core/account/records";
import { sameValue, type Diff } from "@/core/kit/diff";
import type { Day } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { experimentDays } from "@/db/schema";
import { liveAccount, diffRows } from "../account/state";
import { enqueueJob } from "../jobs/jobs";
import type { WorkspaceInfo } from "../workspaces";
import { openExperiments, standingOf, type ExperimentRow } from "./running";

/** Whether a change stands at the channel: all of it, nothing of it, or some. */
export function stands(live: Account, diff: Diff<AccountRecord>): "on" | "off" | "in part" {
  const rows = diffRows(diff);
  if (rows.every(([key, , after]) => sameValue(live.get(key) ?? null, after))) return "on";
  return rows.every(([key, before]) => sameValue(live.get(key) ?? null, before)) ? "off" : "in part";
}

/** Experiments by days that go on, with what is planned for a day: from the day after the last one on, nothing. */
async function switched(db: Database, info: Pick<WorkspaceInfo, "timeZone">, day: Day) {
  const open = await openExperiments(db, "days");
  if (open.length === 0) return [];
  const standing = await standingOf(db, info);
  return open.flatMap((row): { row: ExperimentRow; isOn: boolean; isOver: boolean }[] => {
    const { start, takenBack } = standing(row.id);
    if (row.arms.of !== "days" || start === null || takenBack !== null || day < start) return [];
    const at = day - start;
    return [{ row, isOn: row.arms.on[at] ?? false, isOver: at >= row.arms.on.length }];
  });
}

/**
 * Queues what experiments by days have to change for a day, once a day and experiment.
 * @returns how many switches are on their way
 */
export async function queueSwitches(db: Database, info: Pick<WorkspaceInfo, "timeZone">, day: Day): Promise<number> {
  let live: Account | null = null;
  for (const { row, isOn } of await switched(db, info, day)) {
    live ??= await liveAccount(db);
    const now = stands(live, row.diff);
    // What somebody changed meanwhile is theirs: nothing is written over it, and the day does not count.
    if (now === "in part" || now === (isOn ? "on" : "off")) continue;
    const where = and(eq(experimentDays.experiment, row.id), eq(experimentDays.day, day));
    const [known] = await db.select().from(experimentDays).where(where);
    if (known?.isTried) continue;
    await db
      .insert(experimentDays)
      .values({ experiment: row.id, day, isTried: true })
      .onConflictDoUpdate({ target: [experimentDays.experiment, experimentDays.day], set: { isTried: true } });
    await enqueueJob(db, "dispatch", { takesBack: null, switches: { experiment: row.id, isOn } });
  }
  const { rows } = await db.$client.execute(
    "SELECT count(*) AS n FROM jobs WHERE kind = 'dispatch' AND state = 'waiting' AND input ->> '$.switches' IS NOT NULL",
  );
  return Number(rows[0]!["n"]);
}

/** Notes for each experiment by days what stood at the channel on a day. */
export async function noteDay(db: Database, info: Pick<WorkspaceInfo, "timeZone">, day: Day): Promise<void> {
  const all = (await switched(db, info, day)).filter(({ isOver }) => !isOver);
  if (all.length === 0) return;
  const live = await liveAccount(db);
  for (const { row } of all) {
    const now = stands(live, row.diff);
    const stood = now === "in part" ? null : now === "on";
    // Where the clock says when to look this is asked again and again, and writing would have it asked once more.
    const where = and(eq(experimentDays.experiment, row.id), eq(experimentDays.day, day));
    const [known] = await db.select().from(experimentDays).where(where);
    if (known && known.stood === stood) continue;
    await db
      .insert(experimentDays)
      .values({ experiment: row.id, day, stood })
      .onConflictDoUpdate({ target: [experimentDays.experiment, experimentDays.day], set: { stood } });
  }
}
