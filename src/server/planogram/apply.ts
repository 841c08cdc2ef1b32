import { eq } from "drizzle-orm";
import { z } from "zod";
import { recordName } from "@/core/account/names";
import { fieldOf } from "@/core/account/records";
import type { Draft } from "@/core/account/draft";
import { diffSize } from "@/core/kit/diff";
import { plural } from "@/core/kit/format";
import { FailureError, giveUp, ok } from "@/core/kit/outcome";
import { replan, type HandSet, type PlansBefore } from "@/core/planogram/merge";
import { planCatalogue } from "@/core/planogram/plan";
import { plannedRecords, type PlannedRecords } from "@/core/planogram/planned-records";
import type { Database } from "@/db/client";
import { planograms } from "@/db/schema";
import { commit } from "../account/commit";
import { packPlan, unpackPlan } from "../account/packed-plan";
import { readVersions, type AccountAt } from "../account/state";
import type { JobContext, JobHandler } from "../jobs/work";
import { remember } from "../read/memo";
import { findPlanogram, missingFields, planningColumns, rowMeasures, wantedRows } from "./planograms";

export const planogramApplySchema = z.object({ planogram: z.string() });

/** Fields that stayed as people set them, listed in the job's result. */
const MOST_KEPT = 200;

/** Puts the difference between the account (with the basket) and the planogram into the basket. */
async function run(context: JobContext, raw: unknown) {
  const { planogram: key } = planogramApplySchema.parse(raw);
  const { db } = context;
  const planogram = await findPlanogram(db, key);
  if (!planogram) giveUp("planogram-unknown", `There is no planogram "${key}".`);
  const catalogue = await planningColumns(db);
  const missing = missingFields(planogram, catalogue);
  if (missing) throw new FailureError(missing);
  await context.progress(0, 3, "steps");
  const measures = await rowMeasures(db, planogram);
  const plan = planCatalogue(planogram, catalogue, measures, await wantedRows(db, planogram));
  const planned = plannedRecords(planogram, plan, catalogue);
  await context.progress(1, 3, "steps");
  const done = await keepPlan(db, context.who, key, async (at) => {
    const before = await plansBefore(db, key);
    const { draft, kept, plan } = replan(at.planned, planned, before, planogram.key, planogram.replaces);
    await context.progress(2, 3, "steps");
    const diff = draft.diff();
    const changes = diffSize(diff);
    return {
      ...{ draft, plan, kind: "planogram" as const, reason: `Planogram "${planogram.name}"` },
      told: `Planogram "${planogram.name}" applied: ${plural(changes, "change")} in the basket`,
      value: { changes, kept: kept.length, keptByHand: keptInWords(at, kept) },
    };
  });
  if (!done.ok) throw new FailureError(done.error);
  return done.value;
}

/** What a plan puts into the basket, and what is told of it. */
interface PlanInto<T> {
  draft: Draft;
  /** Whether it was applied, or kept in step; or is the structure of a copy plan. */
  kind: "planogram" | "step" | "copy";
  /** The records as the plan wants them: what the next one is merged against once this is sent. */
  plan: PlannedRecords;
  reason: string;
  /** For the change log; null where nothing is to be put in after all. */
  told: string | null;
  value: T;
}

/** Puts a plan's difference into the basket, and keeps the plan beside it for the next time. */
export function keepPlan<T>(
  db: Database,
  who: string,
  key: string,
  decide: (at: AccountAt) => PlanInto<T> | Promise<PlanInto<T>>,
) {
  return commit(db, who, null, async (at) => {
    const { draft, plan, kind, reason, told, value } = await decide(at);
    if (told === null) return ok({ told, value });
    const packed = packPlan(plan);
    return ok({
      into: { draft, cause: { kind, id: key }, reason },
      told:
        kind === "copy"
          ? { what: told, place: "copy", about: key.replace(":", "/") }
          : { what: told, place: "planogram", about: `planogram/${key}` },
      also: async (tx) => {
        await tx.execute({
          sql: "UPDATE planograms SET applied_at = ?, waiting_plan = ?, waiting_part = ? WHERE key = ?",
          args: [Date.now(), packed, at.part, key],
        });
      },
      value,
    });
  });
}

/** The plans of a planogram before the next one: the last that was sent, and the one that waits in the basket. */
export async function plansBefore(db: Database, key: string): Promise<PlansBefore> {
  const { version } = await readVersions(db.$client);
  return remember(db, "plans before", [key, version], async () => {
    const { lastPlan, waitingPlan } = planograms;
    const [row] = await db.select({ lastPlan, waitingPlan }).from(planograms).where(eq(planograms.key, key));
    return {
      sent: row?.lastPlan ? unpackPlan(row.lastPlan) : null,
      waiting: row?.waitingPlan ? unpackPlan(row.waitingPlan) : null,
    };
  });
}

/** What people set by hand and the plan left alone, as `name: field`. */
export function keptInWords({ planned }: AccountAt, kept: HandSet[]): string[] {
  return kept.slice(0, MOST_KEPT).map(({ key, field }) => {
    const record = planned.get(key);
    return record ? `${recordName(planned, record)}: ${fieldOf(record.type, field)?.label ?? field}` : key;
  });
}

/** The basket is written in one transaction, so there is never half of one to undo. */
async function rollBack(): Promise<void> {}

export const planogramApply: JobHandler = { run, rollBack };
