import { asc, eq, notLike } from "drizzle-orm";
import { copyOrigin } from "@/core/copy/copy-plan";
import { NO_VALUE_LABEL } from "@/core/account/names";
import { asText, coverage, type Columns } from "@/core/kit/columns";
import { windowEnding } from "@/core/kit/days";
import { ownRecord } from "@/core/kit/own-record";
import { fail, giveUp, ok, type Failure, type Outcome } from "@/core/kit/outcome";
import { ancestorAt, nodePath, nodeLabel, planCatalogue, type Plan, type RowMeasures } from "@/core/planogram/plan";
import { ladderFields, type Planogram } from "@/core/planogram/planogram";
import { Account } from "@/core/account/account";
import { usesProduct } from "@/core/planogram/names";
import { PAGE_COLUMNS } from "@/core/planogram/kinds/pages";
import { plannedRecords } from "@/core/planogram/planned-records";
import { someAims, type Aimed } from "@/core/planogram/kinds/needs";
import { isUnheard } from "@/core/targets/target-card";
import type { PlanWarning } from "@/core/planogram/enough";
import { previewPlan, type PlanogramPreview } from "@/core/planogram/preview";
import { shelfColumn } from "@/core/account/records/labels";
import { fieldsIn, matchRows } from "@/core/catalogue/where";
import { columnLabel, OWN_PREFIX, OWN_TEXTS, ROW_HASH } from "@/core/catalogue/catalogue-columns";
import type { Database } from "@/db/client";
import { planograms, workspace } from "@/db/schema";
import { loadTable } from "../across/catalogue/table";
import { changedMeanwhile } from "../meanwhile";
import { rememberReady } from "../read/ready";
import { loadCatalogue } from "../catalogue/load";
import { rateBook } from "../channel/places";
import { loadEvidence } from "../evidence/items";
import { loadWindow, resultDays } from "../results/load";
import { listShelfSets } from "../shelves/sets";
import { shelfColumns } from "../shelves/view";
import { noteChange } from "../workspaces";

/** Days of results that shares by spend or sales, and "largest by", look back on. */
export const MEASURE_DAYS = 90;

/** The catalogue with every column, and the shelf sets beside them. */
export async function planningColumns(db: Database, names: string[] | "all" = "all"): Promise<Columns> {
  const catalogue = await loadCatalogue(db, names);
  const wantsShelves = names === "all" || names.some((name) => name.startsWith(shelfColumn("")));
  const shelves = wantsShelves ? await shelfColumns(db) : {};
  return { length: catalogue.length, columns: ownRecord({ ...catalogue.columns, ...shelves }) };
}

/** The columns a planogram reads. */
export function neededColumns(planogram: Planogram): string[] {
  const pages = planogram.kind === "listing" ? PAGE_COLUMNS : [];
  const { campaignName, adGroupName, keywords } = planogram;
  const isNamed = [campaignName, adGroupName, ...(keywords?.patterns ?? [])].some(usesProduct);
  return [...ladderFields(planogram), "availability", ...pages, ...(isNamed ? ["title"] : [])];
}

/** The rows that a planogram's filter lets through, marked; null where it has none. Metrics are those of the last 90 days. */
export async function wantedRows(db: Database, { where }: Pick<Planogram, "where">): Promise<Uint8Array | null> {
  if (!where || where.of.length === 0) return null;
  const days = await resultDays(db);
  const results = await loadWindow(db, windowEnding(days?.to ?? 0, MEASURE_DAYS));
  const [settings] = await db.select({ goal: workspace.goal }).from(workspace);
  return matchRows(await loadTable(db, settings!.goal, results, fieldsIn(where)), where);
}

/** What the last 90 days brought, a value a row, for weighing; where a planogram bids by it, what a click is worth too. */
export async function rowMeasures(db: Database, planogram?: Planogram): Promise<RowMeasures> {
  const days = await resultDays(db);
  if (!days) return {};
  const results = await loadWindow(db, windowEnding(days.to, MEASURE_DAYS));
  const { cost, clicks, revenue, orders } = results.rows;
  if (planogram?.bidBy !== "worth") return { cost, clicks, revenue, orders };
  const { orderRate, orderValue } = await loadEvidence(db, results);
  return { cost, clicks, revenue, orders, worth: orderRate.map((rate, row) => rate * orderValue[row]!) };
}

export interface SplitField {
  by: string;
  label: string;
  /** Items with a value, and distinct values. */
  filled: number;
  distinct: number;
  total: number;
}

/** Columns that divide nothing sensibly. Of the texts that are an item's own only the ID is a split: the items themselves. */
const NOT_FOR_SPLITS = new Set([
  ...["itemNo", ROW_HASH, "warnings", "cost", "stock"],
  ...[...OWN_TEXTS].filter((name) => name !== "id"),
]);

/** Whether a ladder can divide by a column, or by the feed's own value beside a stand-in. */
function canSplit(name: string): boolean {
  return !NOT_FOR_SPLITS.has(name.startsWith(OWN_PREFIX) ? name.slice(OWN_PREFIX.length) : name);
}

/** Everything a planogram can split by, with coverage and number of values. */
export async function splitFields(db: Database): Promise<SplitField[]> {
  const { revision } = await loadCatalogue(db, []);
  const computed = (await listShelfSets(db)).map(({ definition, computedAt }) => `${definition.name} ${computedAt}`);
  return rememberReady(db, "split fields", [revision, ...computed], () => makeSplitFields(db));
}

async function makeSplitFields(db: Database): Promise<SplitField[]> {
  const catalogue = await loadCatalogue(db, "all");
  const sets = await listShelfSets(db);
  const shelves = await shelfColumns(db);
  const fields = Object.entries({ ...catalogue.columns, ...shelves })
    .filter(([name]) => canSplit(name))
    .map(([by, column]) => {
      const set = sets.find(({ definition }) => shelfColumn(definition.key) === by);
      const label = set ? `Shelf set: ${set.definition.name}` : columnLabel(by);
      return { by, label, ...coverage(column), total: catalogue.length };
    })
    .filter((field) => field.filled > 0);
  const rank = (by: string) =>
    by.startsWith("shelf:") ? 0 : by.startsWith("category") ? 1 : by === "brand" ? 2 : by === "id" ? 9 : 5;
  return fields.sort((a, b) => rank(a.by) - rank(b.by) || (a.by < b.by ? -1 : 1));
}

/** A value of a field with what the last 90 days brought its items; money in mills. */
export interface SplitValue {
  value: string;
  label: string;
  items: number;
  clicks: number;
  cost: number;
  revenue: number;
}

/** The values of a field that a ladder can split by, those with the most sales first. @throws FailureError when there is no such field */
export async function splitValues(db: Database, by: string): Promise<SplitValue[]> {
  const { columns } = await planningColumns(db, [by]);
  const column = columns[by];
  if (!column || !canSplit(by) || by === "id") giveUp("split-field-unknown", `Nothing is divided by "${by}".`);
  const text = asText(column);
  const measures = await rowMeasures(db);
  const found = text.values.map((value, code): SplitValue => ({
    ...{ value, label: text.labels?.[code] || value || NO_VALUE_LABEL },
    ...{ items: 0, clicks: 0, cost: 0, revenue: 0 },
  }));
  text.codes.forEach((code, row) => {
    const one = found[code]!;
    one.items++;
    one.clicks += measures.clicks?.[row] ?? 0;
    one.cost += measures.cost?.[row] ?? 0;
    one.revenue += measures.revenue?.[row] ?? 0;
  });
  return found
    .filter(({ items }) => items > 0)
    .sort((a, b) => b.revenue - a.revenue || b.items - a.items || (a.label < b.label ? -1 : 1))
    .slice(0, MOST_VALUES);
}

/** Values listed to choose from; a split can't take more by hand. */
const MOST_VALUES = 50_000;

/** Why a planogram can't be made of a catalogue: fields of its ladder that are gone. Null when it can. */
export function missingFields({ ladder }: Planogram, { columns }: Columns): Failure | null {
  const fields = ladderFields({ ladder });
  const unfit = fields.find((field) => !canSplit(field));
  if (unfit) {
    return {
      code: "planogram-split-unfit",
      message: `${columnLabel(unfit)} is an item's own and divides nothing.`,
      hint: "Choose another field, or single items.",
    };
  }
  const missing = fields.filter((field) => !columns[field]).map((field) => columnLabel(field));
  if (missing.length === 0) return null;
  return {
    code: "planogram-field-gone",
    message: `The catalogue no longer has the field ${missing.join(", ")}.`,
    hint: "Choose another field for that split.",
  };
}

/** A planogram laid over the catalogue as it is. */
export async function planFor(
  db: Database,
  planogram: Planogram,
): Promise<Outcome<{ plan: Plan; catalogue: Columns }>> {
  const catalogue = await planningColumns(db, neededColumns(planogram));
  if (catalogue.length === 0) {
    return fail("planogram-no-catalogue", "There is no catalogue to plan with yet.", "Upload a feed first.");
  }
  const missing = missingFields(planogram, catalogue);
  if (missing) return { ok: false, error: missing };
  const wanted = await wantedRows(db, planogram);
  const measures = await rowMeasures(db, planogram);
  return ok({ plan: planCatalogue(planogram, catalogue, measures, wanted), catalogue });
}

/** What a planogram would make, before anything exists, with what the rate card says of what it aims at. */
export async function previewPlanogram(db: Database, planogram: Planogram): Promise<Outcome<PlanogramPreview>> {
  const planned = await planFor(db, planogram);
  if (!planned.ok) return planned;
  const span = await resultDays(db);
  const days = span ? Math.min(MEASURE_DAYS, span.to - span.from + 1) : 0;
  const { plan, catalogue } = planned.value;
  const preview = previewPlan(planogram, plan, catalogue, days);
  const aims = someAims(planogram, plan, catalogue, preview.campaigns, MOST_JUDGED);
  const unheard = aims.length > 0 ? await unheardAims(db, aims) : null;
  return ok(unheard === null ? preview : { ...preview, warnings: [...preview.warnings, unheard] });
}

/** Aims that are looked up in the rate card; of more, as many spread over all. */
const MOST_JUDGED = 400;

/** Warns of keywords that nobody searches for and of pages that nobody looks at; null where there are none. */
async function unheardAims(db: Database, aims: Aimed[]): Promise<PlanWarning | null> {
  const book = await rateBook(db);
  const unheard = aims.filter((aim) => isUnheard(book, aim));
  const [first] = unheard;
  if (!first) return null;
  const what = first.type === "keyword" ? "keywords are searched for by nobody" : "aims have no page to show on";
  const example = first.type === "keyword" ? `, such as “${first.text}”` : "";
  return { text: `${unheard.length} of ${aims.length} ${what}, by the rate card${example}.`, repair: null };
}

/** The records that a planogram stands for, as an account of their own: what a file shows before anything exists. */
export async function plannedStructureOf(db: Database, planogram: Planogram): Promise<Outcome<Account>> {
  const planned = await planFor(db, planogram);
  if (!planned.ok) return planned;
  return ok(Account.of(plannedRecords(planogram, planned.value.plan, planned.value.catalogue).values()));
}

export interface PlannedItems {
  total: number;
  items: { id: string; title: string; image: string; path: string[] }[];
}

/** The items of one planned campaign or ad group (by node; -1 is the whole), a page at a time. */
export async function previewItems(
  db: Database,
  planogram: Planogram,
  node: number,
  offset: number,
  limit: number,
): Promise<Outcome<PlannedItems>> {
  const planned = await planFor(db, planogram);
  if (!planned.ok) return planned;
  const { plan } = planned.value;
  if (node >= plan.parent.length)
    return fail("planogram-node", "That group is not in the plan any more.", "Preview again.");
  const level = node < 0 ? 0 : plan.level[node]!;
  const rows: number[] = [];
  for (let row = 0; row < plan.home.length; row++) {
    const home = plan.home[row]!;
    if (home >= 0 && ancestorAt(plan, home, level) === node) rows.push(row);
  }
  const { columns } = await loadCatalogue(db, ["id", "title", "image"]);
  const text = (field: string, row: number) => {
    const column = columns[field];
    return column?.kind === "text" ? column.values[column.codes[row]!]! : "";
  };
  const items = rows.slice(offset, offset + limit).map((row) => ({
    id: text("id", row),
    title: text("title", row),
    image: text("image", row),
    path: nodePath(plan, plan.home[row]!).map((at) => nodeLabel(plan, at)),
  }));
  return ok({ total: rows.length, items });
}

/** Keeps a planogram under its key. */
export async function savePlanogram(db: Database, definition: Planogram, since?: string): Promise<Outcome<null>> {
  const stored = await findPlanogram(db, definition.key);
  const { name } = stored ?? definition;
  const seen = await changedMeanwhile(db, since, {
    ...{ what: `The planogram "${name}"`, about: `planogram/${definition.key}`, stored, given: definition },
  });
  if (!seen.ok) return seen;
  const values = { definition, savedAt: Date.now() };
  await db
    .insert(planograms)
    .values({ key: definition.key, ...values })
    .onConflictDoUpdate({ target: planograms.key, set: values });
  await noteChange(db, `Planogram "${definition.name}" saved`, "", "planogram", `planogram/${definition.key}`);
  return seen;
}

/** All planograms, oldest first; the structures of copy plans lie beside them and are none. */
export async function listPlanograms(db: Database) {
  const { key, definition, savedAt, appliedAt } = planograms;
  return db
    .select({ key, definition, savedAt, appliedAt })
    .from(planograms)
    .where(notLike(key, `${copyOrigin("")}%`))
    .orderBy(asc(savedAt));
}

/** A planogram by its key, or null. */
export async function findPlanogram(db: Database, key: string): Promise<Planogram | null> {
  const [row] = await db.select({ definition: planograms.definition }).from(planograms).where(eq(planograms.key, key));
  return row?.definition ?? null;
}
