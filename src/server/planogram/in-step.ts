import { isNotNull } from "drizzle-orm";
import type { Account } from "@/core/account/account";
import type { Draft } from "@/core/account/draft";
import { changesInWords } from "@/core/account/words";
import { diffSize } from "@/core/kit/diff";
import { plural } from "@/core/kit/format";
import { fail, FailureError, ok, type Outcome } from "@/core/kit/outcome";
import { replan } from "@/core/planogram/merge";
import { planCatalogue } from "@/core/planogram/plan";
import { plannedRecords, type PlannedRecords } from "@/core/planogram/planned-records";
import type { Planogram } from "@/core/planogram/planogram";
import type { Database } from "@/db/client";
import { planograms } from "@/db/schema";
import { homesBetween } from "../account/homes-between";
import { walkAccount } from "../account/serving";
import { readAccount } from "../account/state";
import { loadCatalogue } from "../catalogue/load";
import type { JobContext, JobHandler } from "../jobs/work";
import { remember } from "../read/memo";
import { resultsVersion } from "../results/load";
import { listShelfSets } from "../shelves/sets";
import type { WorkspaceInfo } from "../workspaces";
import { keepPlan, plansBefore } from "./apply";
import { findPlanogram, missingFields, neededColumns, planningColumns, rowMeasures, wantedRows } from "./planograms";

/** How far a planogram and the account have come apart. */
export interface OutOfStep {
  key: string;
  name: string;
  how: NonNullable<Planogram["keepStep"]>["how"];
  most: number;
  /** Records that would change. */
  changes: number;
  /** Items that get a home, that change theirs, and that lose it. */
  homed: number;
  moved: number;
  homeless: number;
  /** The changes in words, as many as are shown. */
  words: string[];
}

/** Changes shown in words. */
const MOST_WORDS = 200;

/** The difference, and what it does to items. */
interface Step {
  draft: Draft;
  plan: PlannedRecords;
  homed: number;
  moved: number;
  homeless: number;
}

/**
 * What brings the account back in step with a planogram: its plan laid over the catalogue and shelves as they are now. Budgets,
 * and bids by worth, stay as they are, since nobody decided on them, and groups of items that are only sold out stay, so that they come back
 * with their stock. What the planogram took the place of is not paused once more.
 */
async function stepOf(db: Database, planogram: Planogram, account: Account): Promise<Outcome<Step>> {
  const catalogue = await planningColumns(db, neededColumns(planogram));
  const missing = missingFields(planogram, catalogue);
  if (missing) return { ok: false, error: missing };
  const [measures, wanted] = [await rowMeasures(db, planogram), await wantedRows(db, planogram)];
  const recordsOf = (one: Planogram) => plannedRecords(one, planCatalogue(one, catalogue, measures, wanted), catalogue);
  const records = recordsOf(planogram);
  if (planogram.inStockOnly) {
    for (const [key, record] of recordsOf({ ...planogram, inStockOnly: false })) {
      if (!records.has(key) && account.has(key)) {
        records.set(key, record.type === "campaign" ? { ...record, inStockOnly: true } : record);
      }
    }
  }
  const before = await plansBefore(db, planogram.key);
  for (const [key, record] of records) {
    const [is, was] = [account.get(key), before.waiting?.get(key) ?? before.sent?.get(key)];
    if (record.type === "campaign" && is?.type === "campaign") {
      records.set(key, { ...record, dailyBudget: was?.type === "campaign" ? was.dailyBudget : is.dailyBudget });
    }
    if (record.type === "adGroup" && is?.type === "adGroup" && planogram.bidBy === "worth") {
      records.set(key, { ...record, bid: was?.type === "adGroup" ? was.bid : is.bid });
    }
  }
  const { draft, plan } = replan(account, records, before, planogram.key, []);
  const diff = draft.diff();
  const [now, then] = [await walkAccount(db, account), await walkAccount(db, account.with(diff))];
  const { homed, moved, homeless } = homesBetween(now, then);
  return ok({ draft, plan, homed, moved, homeless });
}

/** Planograms that were applied and are to be kept in step. */
async function kept(db: Database): Promise<Planogram[]> {
  const rows = await db
    .select({ definition: planograms.definition })
    .from(planograms)
    .where(isNotNull(planograms.appliedAt));
  return rows.flatMap(({ definition }) => (definition.keepStep ? [definition] : []));
}

/** The planograms that the account is out of step with, with what would bring it back. */
export async function outOfStep(db: Database, info: WorkspaceInfo): Promise<OutOfStep[]> {
  const all = await kept(db);
  if (all.length === 0) return [];
  const { planned, version } = await readAccount(db);
  const { revision } = await loadCatalogue(db, []);
  const computed = (await listShelfSets(db)).map(({ computedAt }) => computedAt);
  const stamp = [version, revision, await resultsVersion(db), JSON.stringify(all), ...computed];
  return remember(db, "out of step", stamp, async () => {
    const found: OutOfStep[] = [];
    for (const planogram of all) {
      const step = await stepOf(db, planogram, planned);
      if (!step.ok) continue;
      const { draft, plan: _, ...items } = step.value;
      const diff = draft.diff();
      const changes = diffSize(diff);
      if (changes === 0) continue;
      const words = changesInWords(planned, diff, info.currency)
        .slice(0, MOST_WORDS)
        .map(({ text }) => text);
      const { how, most } = planogram.keepStep!;
      found.push({ key: planogram.key, name: planogram.name, how, most, changes, ...items, words });
    }
    return found;
  });
}

/** Puts into the basket what brings the account back in step with one planogram. */
export async function comeIntoStep(db: Database, who: string, key: string): Promise<Outcome<{ changes: number }>> {
  const planogram = await findPlanogram(db, key);
  if (!planogram) return fail("planogram-unknown", `There is no planogram "${key}".`);
  return keep(db, who, planogram, () => true);
}

/**
 * Worked out on the account as it is when it is written, so that what somebody changes meanwhile is seen.
 * @param mayGoIn whether a step may go into the basket; one that may not is no change
 */
function keep(db: Database, who: string, planogram: Planogram, mayGoIn: (step: Step) => boolean) {
  return keepPlan(db, who, planogram.key, async ({ planned }) => {
    const step = await stepOf(db, planogram, planned);
    if (!step.ok) throw new FailureError(step.error);
    const { draft, plan } = step.value;
    const changes = mayGoIn(step.value) ? diffSize(draft.diff()) : 0;
    const told = `Planogram "${planogram.name}" kept in step: ${plural(changes, "change")} in the basket`;
    const reason = `In step with “${planogram.name}”`;
    return { draft, plan, kind: "step", reason, value: { changes }, told: changes > 0 ? told : null };
  });
}

/** Brings planograms into step that do so by themselves, where no more items move than they let pass. */
async function run({ db, who }: JobContext) {
  const done: string[] = [];
  for (const planogram of await kept(db)) {
    const { how, most } = planogram.keepStep!;
    if (how !== "apply") continue;
    const few = ({ homed, moved, homeless }: Step) => homed + moved + homeless <= most;
    const kept = await keep(db, who, planogram, few);
    if (!kept.ok) throw new FailureError(kept.error);
    if (kept.value.changes > 0) done.push(planogram.key);
  }
  return { planograms: done };
}

/** Each planogram goes into the basket as a whole or not at all. */
export const planogramSteps: JobHandler = { run, rollBack: async () => {} };
