import { eq, sql } from "drizzle-orm";
import { LINK_STATE_LABEL, type LinkState } from "@/core/catalogue/check-page";
import { SOLD_OUT } from "@/core/account/walk";
import { isMoneyColumn } from "@/core/catalogue/finish";
import { CHANNEL_LIMITS } from "@/core/channel/limits";
import { fieldsOfPlan, type CopyPlan } from "@/core/copy/copy-plan";
import { structureOf } from "@/core/copy/structure";
import { unitsOf, type Units } from "@/core/copy/units";
import { COPY_COLUMNS, COPY_FIELDS, CopyValues } from "@/core/copy/values";
import { approval, CopyWriter, type Approved } from "@/core/copy/write-plan";
import { asText, cellText, type Columns } from "@/core/kit/columns";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { planCatalogue, type Plan } from "@/core/planogram/plan";
import type { Database } from "@/db/client";
import { copyApprovals, linkChecks } from "@/db/schema";
import { listDerived } from "../catalogue/derived";
import { loadCatalogue } from "../catalogue/load";
import { missingFields, planningColumns, rowMeasures, wantedRows } from "../planogram/planograms";
import { remember } from "../read/memo";
import { resultsVersion } from "../results/load";
import { listShelfSets } from "../shelves/sets";
import type { WorkspaceInfo } from "../workspaces";

/** A copy plan laid over the catalogue: its ad groups, and what fields say of them. */
export interface CopyGround {
  structure: Plan;
  catalogue: Columns;
  units: Units;
  values: CopyValues;
  /** What the last 90 days brought, a value a row; mills. */
  revenue: Float64Array | null;
  /** Moves with everything that it is made of. */
  stamp: string;
}

/** How many grounds are kept beside each other: drafts that differ in their structure, and what is applied. */
const KEPT = 3;

/** What a copy plan's structure and values hang on beside the plan. */
async function revisionsOf(db: Database): Promise<string> {
  const { revision } = await loadCatalogue(db, []);
  const computed = (await listShelfSets(db)).map(({ computedAt }) => computedAt);
  return JSON.stringify([revision, await resultsVersion(db), ...computed]);
}

/** Lays a copy plan over the catalogue; fields that only lines ask for and that are gone say nothing and are told by the proof. */
export async function copyGround(db: Database, info: WorkspaceInfo, plan: CopyPlan): Promise<Outcome<CopyGround>> {
  const structure = structureOf(plan);
  const derived = await listDerived(db);
  const { where, campaignsBy, groupsBy, leftOut, inStockOnly, language } = plan;
  const fields = fieldsOfPlan(plan).filter((field) => !(field in COPY_FIELDS));
  const { bidBy, startingBid, goal } = plan;
  const stamp = JSON.stringify([
    ...[
      await revisionsOf(db),
      info.currency,
      language,
      where,
      campaignsBy,
      groupsBy,
      leftOut,
      inStockOnly,
      fields.sort(),
    ],
    ...[bidBy, goal, startingBid],
  ]);
  return remember(
    db,
    "copy ground",
    [stamp],
    async () => {
      const columns = [...new Set([...campaignsBy, ...groupsBy, ...COPY_COLUMNS, ...fields])];
      const catalogue = await planningColumns(db, columns);
      if (catalogue.length === 0)
        return fail("copy-no-catalogue", "There is no catalogue to write from yet.", "Upload a feed first.");
      const missing = missingFields(structure, catalogue);
      if (missing) return { ok: false as const, error: missing };
      const wanted = await wantedWithout(db, plan, catalogue);
      const measures = await rowMeasures(db, structure);
      const planned = planCatalogue(structure, catalogue, measures, wanted);
      const units = unitsOf(planned, structure.adGroupLine, sellableRows(catalogue));
      const values = new CopyValues(units, catalogue, {
        ...{ currency: info.currency, language, wideCountTwice: CHANNEL_LIMITS.wideCountTwice },
        isMoney: (field) => isMoneyColumn(field, derived),
      });
      return ok({ structure: planned, catalogue, units, values, revenue: measures.revenue ?? null, stamp });
    },
    KEPT,
  );
}

/** The rows that a plan's filter lets through and that nobody left out by hand; null where that is all. */
async function wantedWithout(
  db: Database,
  { where, leftOut }: CopyPlan,
  catalogue: Columns,
): Promise<Uint8Array | null> {
  const wanted = await wantedRows(db, where ? { where } : {});
  if (leftOut.length === 0) return wanted;
  const marks = wanted ? wanted.slice() : new Uint8Array(catalogue.length).fill(1);
  const out = new Set(leftOut);
  const id = catalogue.columns["id"];
  if (id?.kind === "text")
    for (let row = 0; row < marks.length; row++) if (out.has(id.values[id.codes[row]!]!)) marks[row] = 0;
  return marks;
}

function sellableRows({ columns, length }: Columns): Uint8Array {
  const marks = new Uint8Array(length).fill(1);
  const availability = columns["availability"];
  if (!availability) return marks;
  const { codes, values } = asText(availability);
  const sold = values.indexOf(SOLD_OUT);
  if (sold >= 0) for (let row = 0; row < length; row++) if (codes[row] === sold) marks[row] = 0;
  return marks;
}

/** The rows that meet the condition of each design of a plan; null where all do. */
async function meetsOf(db: Database, plan: CopyPlan, stamp: string): Promise<(Uint8Array | null)[]> {
  const marks: (Uint8Array | null)[] = [];
  for (const { when } of plan.ads) {
    const isAsked = when !== undefined && when.of.length > 0;
    marks.push(
      isAsked
        ? await remember(db, "copy condition", [stamp, JSON.stringify(when)], () => wantedRows(db, { where: when }), 20)
        : null,
    );
  }
  return marks;
}

/** Texts of a plan that people let pass. */
export async function approvedTexts(db: Database, plan: string): Promise<Approved> {
  const rows = await db
    .select({ cause: copyApprovals.cause, text: copyApprovals.text })
    .from(copyApprovals)
    .where(eq(copyApprovals.plan, plan));
  return new Set(rows.map(({ cause, text }) => approval(cause, text)));
}

/** Makes a plan ready to be written. */
export async function copyWriter(db: Database, plan: CopyPlan, ground: CopyGround): Promise<CopyWriter> {
  const meets = await meetsOf(db, plan, ground.stamp);
  const { found } = await checkedPages(db, ground);
  const bad = new Map(
    found.flatMap(({ row, id, state, detail }) =>
      NOT_ITS_OWN.has(state) ? [[row, `${id}: ${LINK_STATE_LABEL[state]}. ${detail}`.trim()] as const] : [],
    ),
  );
  return new CopyWriter(plan, ground.units, ground.values, meets, await approvedTexts(db, plan.key), bad);
}

/** What keeps an ad for one item back: its page is not there, or not its own. */
const NOT_ITS_OWN: ReadonlySet<LinkState> = new Set(["gone", "variant", "moved"]);

/** What was last found on the landing pages of a plan's items, where the link is still the one that was looked at. */
export async function checkedPages(db: Database, { catalogue, units }: CopyGround) {
  const { itemId, link, state, detail, checkedAt } = linkChecks;
  const checks = await db.select({ itemId, link, state, detail, checkedAt }).from(linkChecks);
  const of = new Map(checks.map((check) => [check.itemId, check]));
  const { id: ids, link: links } = catalogue.columns;
  const found: { row: number; id: string; state: LinkState; detail: string }[] = [];
  let at: number | null = null;
  if (of.size > 0 && ids && links) {
    for (const row of units.rows) {
      const check = of.get(cellText(ids, row));
      if (!check || check.link !== cellText(links, row)) continue;
      at = Math.max(at ?? 0, check.checkedAt);
      found.push({ row, id: check.itemId, state: check.state as LinkState, detail: check.detail });
    }
  }
  return { found, at };
}

/** Moves with every look at a landing page. */
export async function pagesVersion(db: Database): Promise<string> {
  const [row] = await db
    .select({ count: sql<number>`count(*)`, at: sql<number | null>`max(${linkChecks.checkedAt})` })
    .from(linkChecks);
  return `${row?.count ?? 0} ${row?.at ?? ""}`;
}

/** Fields that a plan's lines and keywords name and the catalogue does not have. */
export async function goneFields(db: Database, plan: CopyPlan): Promise<string[]> {
  const catalogue = await loadCatalogue(
    db,
    fieldsOfPlan(plan).filter((field) => !(field in COPY_FIELDS)),
  );
  return fieldsOfPlan(plan).filter((field) => !(field in COPY_FIELDS) && !catalogue.columns[field]);
}
