import { eq } from "drizzle-orm";
import { dayAt } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { experiments } from "@/db/schema";
import { channelChoice } from "../channel/choice";
import { approvalOf } from "../account/approval";
import { enqueueJob, isResting } from "../jobs/jobs";
import type { JobHandler } from "../jobs/work";
import { NOBODY } from "../person";
import { resultDays } from "../results/load";
import type { WorkspaceInfo } from "../workspaces";
import { lookAt } from "./look";
import { openExperiments, openInShort, standingOf } from "./running";
import { stopForHarm } from "./run";
import { noteDay, queueSwitches } from "./switches";

/** What a look at experiments came to. */
export interface LookedAt {
  looked: number;
  stopped: string[];
}

/** Looks at experiments that go on, and stops those whose harm is sure enough. */
async function run({ db, info }: { db: Database; info: WorkspaceInfo }): Promise<LookedAt> {
  const done: LookedAt = { looked: 0, stopped: [] };
  const lastDay = (await resultDays(db))?.to;
  if (lastDay === undefined) return done;
  const standing = await standingOf(db, info);
  const mayBeSent = !(await approvalOf(db)).isNeeded;
  for (const row of await openExperiments(db)) {
    const look = await lookAt(db, info, row, standing(row.id), lastDay);
    await db.update(experiments).set({ lookedDay: lastDay }).where(eq(experiments.id, row.id));
    if (look.stage !== "running") continue;
    done.looked++;
    if (!look.isHarmful || !row.definition.stopsForHarm) continue;
    await stopForHarm(db, row, `${NOBODY}, “${row.definition.name}”`, lastDay, mayBeSent);
    done.stopped.push(row.definition.name);
  }
  return done;
}

/** Each experiment is ended in one transaction, so there is nothing to take back. */
export const experimentsJob: JobHandler = { run, rollBack: async () => {} };

/** Queues a look at experiments once results have new days, and at real channels the switches of the day. */
export async function queueDueExperiments(db: Database, info: WorkspaceInfo): Promise<void> {
  // Asked every few seconds of every workspace.
  const open = await openInShort(db);
  if (open.length === 0) return;
  // The test market runs its days by itself and switches between them, see `market/run-days.ts`.
  if ((await channelChoice(db)).kind === "http") {
    const today = dayAt(Date.now(), info.timeZone);
    if ((await queueSwitches(db, info, today)) === 0) await noteDay(db, info, today);
  }
  const lastDay = (await resultDays(db))?.to ?? null;
  if (lastDay === null || open.every(({ lookedDay }) => (lookedDay ?? -1) >= lastDay)) return;
  if (!(await isResting(db, "experiments"))) await enqueueJob(db, "experiments", {});
}
