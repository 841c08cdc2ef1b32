import { asc, eq } from "drizzle-orm";
import { copyOrigin, copyPlanSchema, type CopyPlan } from "@/core/copy/copy-plan";
import { usualPlan } from "@/core/copy/usual-plan";
import { LANGUAGES, type Language } from "@/core/copy/languages";
import { coverage } from "@/core/kit/columns";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { versionOf } from "@/core/kit/version-of";
import type { Database } from "@/db/client";
import { copyApprovals, copyPlans, planograms } from "@/db/schema";
import { loadCatalogue } from "../catalogue/load";
import { changedMeanwhile } from "../meanwhile";
import { itemCard, everyItemPlace } from "../channel/places";
import { noteChange, type WorkspaceInfo } from "../workspaces";

export interface CopyPlanInfo {
  key: string;
  definition: CopyPlan;
  savedAt: number;
  /** When it was last written into the basket; null: never. */
  appliedAt: number | null;
  /** To be sent along with a change; see `meanwhile.ts`. */
  version: string;
}

/** All copy plans, oldest first. */
export async function listCopyPlans(db: Database): Promise<CopyPlanInfo[]> {
  const rows = await db.select().from(copyPlans).orderBy(asc(copyPlans.savedAt), asc(copyPlans.key));
  const structures = await db.select({ key: planograms.key, appliedAt: planograms.appliedAt }).from(planograms);
  const applied = new Map(structures.map(({ key, appliedAt }) => [key, appliedAt]));
  return rows.map(({ key, definition, savedAt }) => ({
    ...{ key, definition: copyPlanSchema.parse(definition), savedAt },
    appliedAt: applied.get(copyOrigin(key)) ?? null,
    version: versionOf(definition),
  }));
}

/** A copy plan by its key, or null. */
export async function findCopyPlan(db: Database, key: string): Promise<CopyPlan | null> {
  const [row] = await db.select({ definition: copyPlans.definition }).from(copyPlans).where(eq(copyPlans.key, key));
  return row ? copyPlanSchema.parse(row.definition) : null;
}

export function unknownPlan(key: string) {
  return fail("copy-plan-unknown", `There is no copy plan "${key}".`, "Choose one from the list.");
}

/** Keeps a copy plan under its key. */
export async function saveCopyPlan(db: Database, definition: CopyPlan, since?: string): Promise<Outcome<null>> {
  const [row] = await db.select().from(copyPlans).where(eq(copyPlans.key, definition.key));
  const about = `copy/${definition.key}`;
  const stored = row?.definition ?? null;
  const seen = await changedMeanwhile(db, since, {
    ...{ what: `The copy plan "${stored?.name ?? definition.name}"`, about, stored, given: definition },
  });
  if (!seen.ok) return seen;
  const values = { definition, savedAt: Date.now() };
  await db
    .insert(copyPlans)
    .values({ key: definition.key, ...values })
    .onConflictDoUpdate({ target: copyPlans.key, set: values });
  await noteChange(db, `Copy plan "${definition.name}" saved`, "", "copy", about);
  return ok(null);
}

/** Removes a copy plan and what was let pass in it; what it made in the account stays. */
export async function removeCopyPlan(db: Database, key: string): Promise<Outcome<CopyPlan>> {
  const plan = await findCopyPlan(db, key);
  if (!plan) return unknownPlan(key);
  await db.delete(copyPlans).where(eq(copyPlans.key, key));
  await db.delete(copyApprovals).where(eq(copyApprovals.plan, key));
  await noteChange(db, `Copy plan "${plan.name}" removed`, "", "copy", `copy/${key}`);
  return ok(plan);
}

/** A field is worth a line where this share of the items has a value. */
const WORTH_A_LINE = 0.1;

/** A copy plan to begin with, made for the catalogue as it is. */
export async function freshCopyPlan(
  db: Database,
  info: WorkspaceInfo,
  language: Language = LANGUAGES[0],
): Promise<Outcome<CopyPlan>> {
  const catalogue = await loadCatalogue(db, [
    "brand",
    "category",
    "category1",
    "salePrice",
    "stock",
    "description",
    "color",
    "size",
  ]);
  if (catalogue.length === 0)
    return fail("copy-no-catalogue", "There is no catalogue to write from yet.", "Upload a feed first.");
  const has = (field: string) => {
    const column = catalogue.columns[field];
    return column !== undefined && coverage(column).filled >= WORTH_A_LINE * catalogue.length;
  };
  const taken = new Set((await listCopyPlans(db)).map(({ key }) => key));
  let n = taken.size + 1;
  while (taken.has(`copy-${n}`)) n++;
  const typical = await typicalPrice(db);
  return ok(
    usualPlan({
      ...{ key: `copy-${n}`, name: n === 1 ? "Text ads" : `Text ads ${n}`, language, has },
      ...{ totalBudget: 50_000, startingBid: typical ?? 300, goal: info.goal },
    }),
  );
}

/** The middle of what clicks on items cost by the rate card, mills; null where the channel tells nothing. */
async function typicalPrice(db: Database): Promise<number | null> {
  const items = await everyItemPlace(db);
  const prices = [...items.keys()].flatMap((id) => itemCard(items, id)?.typical ?? []).sort((a, b) => a - b);
  const middle = prices[Math.floor(prices.length / 2)];
  return middle === undefined ? null : Math.max(10, Math.round(middle / 10) * 10);
}

/** What people let pass, by cause and text, or took back. */
export async function keepApprovals(
  db: Database,
  who: string,
  plan: string,
  texts: readonly { cause: typeof copyApprovals.$inferInsert.cause; text: string }[],
  letPass: boolean,
): Promise<void> {
  const pairs = JSON.stringify(texts.map(({ cause, text }) => [cause, text]));
  if (letPass)
    await db.$client.execute({
      sql: `INSERT OR IGNORE INTO copy_approvals (plan, cause, text, who, at)
        SELECT ?, value ->> 0, value ->> 1, ?, ? FROM json_each(?)`,
      args: [plan, who, Date.now(), pairs],
    });
  else
    await db.$client.execute({
      sql: `DELETE FROM copy_approvals WHERE plan = ?
        AND (cause, text) IN (SELECT value ->> 0, value ->> 1 FROM json_each(?))`,
      args: [plan, pairs],
    });
}
