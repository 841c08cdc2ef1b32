import { z } from "zod";
import { copyOrigin, type CopyPlan } from "@/core/copy/copy-plan";
import { copyRecords, keepOwnFigures } from "@/core/copy/copy-records";
import { structureOf } from "@/core/copy/structure";
import { diffSize } from "@/core/kit/diff";
import { plural } from "@/core/kit/format";
import { FailureError, giveUp } from "@/core/kit/outcome";
import { replan } from "@/core/planogram/merge";
import type { PlannedRecords } from "@/core/planogram/planned-records";
import type { Database } from "@/db/client";
import { planograms } from "@/db/schema";
import type { JobContext, JobHandler } from "../jobs/work";
import { keepPlan, keptInWords, plansBefore } from "../planogram/apply";
import { findCopyPlan } from "./plans";
import { wholeCopy } from "./proof";
import type { WorkspaceInfo } from "../workspaces";

export const copyApplySchema = z.object({ plan: z.string() });

/** The records that a plan makes of the catalogue as it is. */
export async function recordsOfPlan(db: Database, info: WorkspaceInfo, plan: CopyPlan): Promise<PlannedRecords> {
  const whole = await wholeCopy(db, info, plan);
  if (!whole.ok) throw new FailureError(whole.error);
  const { ground, writer, keywords } = whole.value;
  const { structure, catalogue, values } = ground;
  return copyRecords(plan, { plan: structure, catalogue }, writer, values, keywords);
}

/** Writes a copy plan and puts the difference to the account, with the basket, into the basket. What the proof holds back stays out. */
async function run({ db, info, who, progress }: JobContext, raw: unknown) {
  const { plan: key } = copyApplySchema.parse(raw);
  const plan = await findCopyPlan(db, key);
  if (!plan) giveUp("copy-plan-unknown", `There is no copy plan "${key}".`);
  await progress(0, 3, "steps");
  const records = await recordsOfPlan(db, info, plan);
  const ads = [...records.values()].filter(({ type }) => type === "ad").length;
  if (ads === 0) giveUp("copy-no-ad", "No ad of this plan may go out.", "See in the proof what stands in the way.");
  await progress(1, 3, "steps");
  const origin = copyOrigin(key);
  const shadow = { key: origin, definition: structureOf(plan), savedAt: Date.now() };
  await db
    .insert(planograms)
    .values(shadow)
    .onConflictDoUpdate({ target: planograms.key, set: { definition: shadow.definition } });
  const done = await keepPlan(db, who, origin, async (at) => {
    const before = await plansBefore(db, origin);
    const { draft, kept, plan: wanted } = replan(at.planned, records, before, origin, []);
    keepOwnFigures(at.planned, draft, kept);
    await progress(2, 3, "steps");
    const changes = diffSize(draft.diff());
    return {
      ...{ draft, plan: wanted, kind: "copy" as const, reason: `Copy plan "${plan.name}"` },
      told: `Copy plan "${plan.name}" written: ${plural(changes, "change")} in the basket`,
      value: { changes, ads, kept: kept.length, keptByHand: keptInWords(at, kept) },
    };
  });
  if (!done.ok) throw new FailureError(done.error);
  return done.value;
}

/** The basket is written in one transaction, so there is never half of one to undo. */
async function rollBack(): Promise<void> {}

export const copyApply: JobHandler = { run, rollBack };
