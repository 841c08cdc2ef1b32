import { eq } from "drizzle-orm";
import { z } from "zod";
import { plural } from "@/core/kit/format";
import { giveUp } from "@/core/kit/outcome";
import { materialise } from "@/core/planogram/materialise";
import { planogramDiff } from "@/core/planogram/change";
import { planCatalogue } from "@/core/planogram/plan";
import { planograms } from "@/db/schema";
import { addToBasket, plannedStructure } from "../dispatch/structure";
import type { JobContext, JobHandler } from "../jobs/work";
import { noteChange } from "../workspaces";
import { findPlanogram, planningColumns, rowMeasures } from "./planograms";

export const planogramApplySchema = z.object({ planogram: z.string() });

/** Puts the difference between the account (with the basket) and the planogram into the basket. */
async function run(context: JobContext, raw: unknown) {
  const { planogram: key } = planogramApplySchema.parse(raw);
  const { db } = context;
  const planogram = await findPlanogram(db, key);
  if (!planogram) giveUp("planogram-unknown", `There is no planogram "${key}".`);
  const catalogue = await planningColumns(db);
  for (const split of planogram.ladder) {
    if (!catalogue.columns[split.by]) {
      giveUp("planogram-field-gone", `The catalogue no longer has the field ${split.by}.`, "Choose another field.");
    }
  }
  await context.progress(0, 3, "steps");
  const plan = planCatalogue(planogram, catalogue, await rowMeasures(db));
  const planned = materialise(planogram, plan, catalogue);
  await context.progress(1, 3, "steps");
  const diff = planogramDiff(await plannedStructure(db), planned, planogram.key, planogram.replaces);
  await context.progress(2, 3, "steps");
  const changes = await addToBasket(db, diff, "planogram", `Planogram "${planogram.name}"`);
  await db.update(planograms).set({ appliedAt: Date.now() }).where(eq(planograms.key, key));
  await noteChange(
    db,
    `Planogram "${planogram.name}" applied: ${plural(changes, "change")} in the basket`,
    "",
    "planogram",
  );
  return { changes };
}

/** The basket is written in one transaction, so there is never half of one to undo. */
async function rollBack(): Promise<void> {}

export const planogramApply: JobHandler = { run, rollBack };
