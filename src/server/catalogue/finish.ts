import { and, asc, eq, isNull } from "drizzle-orm";
import { isDerivedColumn, columnsReadBy } from "@/core/catalogue/derive/derived-field";
import { finishColumns, isMade, type FinishSettings } from "@/core/catalogue/finish";
import { NO_TAX } from "@/core/catalogue/margins";
import type { Database } from "@/db/client";
import { catalogueColumns, derivedFields, feeds, itemCosts, lookupLists, revisions, workspace } from "@/db/schema";
import { enqueueJob, listJobs } from "../jobs/jobs";
import type { JobContext, JobHandler } from "../jobs/work";
import { loadFeedColumns } from "./load";
import { taxRuleOf } from "../workspaces";
import { dropOldColumns, inForce, storeColumns } from "./revisions";

/** What the workspace adds to its feed. */
export async function loadFinishSettings(db: Database): Promise<FinishSettings> {
  const fields = await db.select().from(derivedFields).orderBy(asc(derivedFields.position), asc(derivedFields.key));
  const costs = await db.select().from(itemCosts);
  const [settings] = await db.select().from(workspace);
  return {
    derived: fields.map(({ definition }) => definition),
    lists: await db.select().from(lookupLists),
    costs: new Map(costs.map(({ itemId, cost, fee }) => [itemId, { cost, fee }])),
    proposedFamilies: settings?.proposedFamilies ?? false,
    tax: settings ? taxRuleOf(settings) : NO_TAX,
  };
}

/** Columns of the feed that finishing always reads. */
const ALWAYS_READ = [
  "id",
  "title",
  "brand",
  "category",
  "availability",
  "family",
  "link",
  "image",
  "gtin",
  "color",
  "size",
  "description",
  "price",
  "salePrice",
  "cost",
  "fee",
  "stock",
  "tax",
];

/** Makes derived fields, costs, families and findings anew on the reading in force, without reading the feed. */
async function run(context: JobContext): Promise<{ items: number; fields: number }> {
  const { db } = context;
  const now = await inForce(db);
  if (!now) return { items: 0, fields: 0 };
  const settings = await loadFinishSettings(db);
  const reads = settings.derived.flatMap(columnsReadBy).filter((name) => !isDerivedColumn(name));
  const feed = await loadFeedColumns(db, [...ALWAYS_READ, ...reads]);
  await context.progress(0, feed.length, "items");
  const finished = finishColumns(feed, settings);
  const before = now.revision.columns ?? {};
  const [made] = await db
    .insert(revisions)
    .values({ feed: now.feed.key, job: context.id, startedAt: Date.now(), reading: now.reading.id })
    .returning();
  const rev = made!.id;
  const stored = await storeColumns(db, rev, finished.columns, before);
  const columns = { ...(now.reading.columns ?? {}), ...stored };
  // The reading's own added columns are from before; only those of its feed are carried over.
  for (const name of Object.keys(columns)) if (!(name in stored) && isMade(name)) delete columns[name];
  await db.transaction(async (tx) => {
    const { aliases, findings, notices } = finished;
    const done = { finishedAt: Date.now(), columns, aliases, findings, notices };
    await tx.update(revisions).set(done).where(eq(revisions.id, rev));
    await tx.update(feeds).set({ currentRevision: rev }).where(eq(feeds.key, now.feed.key));
  });
  await dropOldColumns(db, columns, now.reading.columns ?? {}, before);
  return { items: feed.length, fields: settings.derived.length };
}

async function rollBack({ db, id }: JobContext): Promise<void> {
  const open = await db
    .select({ id: revisions.id })
    .from(revisions)
    .where(and(eq(revisions.job, id), isNull(revisions.finishedAt)));
  for (const { id: rev } of open) {
    await db.delete(catalogueColumns).where(eq(catalogueColumns.revision, rev));
    await db.delete(revisions).where(eq(revisions.id, rev));
  }
}

export const catalogueFinish: JobHandler = { run, rollBack };

/** Queues the making of the added columns, unless that waits already. @returns the job, null without a catalogue */
export async function startFinish(db: Database): Promise<string | null> {
  if (!(await inForce(db))) return null;
  const waiting = (await listJobs(db)).find((job) => job.kind === "catalogue-finish" && job.state === "waiting");
  return (waiting ?? (await enqueueJob(db, "catalogue-finish", {}))).id;
}
