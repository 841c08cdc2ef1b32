import { rm } from "node:fs/promises";
import { and, eq, isNull } from "drizzle-orm";
import { z } from "zod";
import type { FeedFormat } from "@/core/catalogue/detect";
import { OWN_TEXTS } from "@/core/catalogue/catalogue-columns";
import { finishColumns } from "@/core/catalogue/finish";
import { mappingSchema, type Mapping } from "@/core/catalogue/mapping";
import type { PriceJudge } from "@/core/catalogue/price-judge";
import type { Columns } from "@/core/kit/columns";
import { sameValue } from "@/core/kit/diff";
import { plural } from "@/core/kit/format";
import { FailureError, giveUp } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { catalogueColumns, feeds, refreshChanges, revisions, setAside, type RefreshCounts } from "@/db/schema";
import { BULK_ROWS } from "../bulk";
import type { JobContext, JobHandler } from "../jobs/work";
import { noteChange } from "../workspaces";
import { checkShape, chooseMapping } from "./choose-mapping";
import { feedVersionSchema, keptSourceSchema } from "./feed-source";
import { loadFinishSettings } from "./finish";
import { loadFeedColumns } from "./load";
import { TextSpool } from "./text-spool";
import { collectGarbageFully } from "../memory";
import { lookBeforeReading } from "./reading/look";
import { openFeed, readingSchema, removeFeedFile, type OpenFeed } from "./reading/open-feed";
import { dropOldColumns, inForce, storeColumns } from "./revisions";
import { writeRows, type WrittenRows } from "./write-rows";

export const feedImportSchema = z.object({
  feed: z.string(),
  file: z.string(),
  fileName: z.string(),
  /** Null takes the feed's saved mapping, or the proposed one for a new feed. */
  mapping: mappingSchema.nullable(),
  /** Null takes the feed's saved choices, or finds everything out for a new feed. */
  reading: readingSchema.nullable().default(null),
  /** Where the feed is read from by itself from now on; left out keeps what is set. */
  source: keptSourceSchema.nullable().optional(),
  /** Go on even when more of the catalogue is lost than the house rule allows. */
  acceptLoss: z.boolean(),
  /** The version of the source that the file is; it counts as read only once it is in. */
  version: feedVersionSchema.nullable().default(null),
});

export type FeedImport = z.infer<typeof feedImportSchema>;

/** The feed's columns in force, and whether its items can be carried over as they are: same headings, same mapping. */
async function earlierCatalogue(db: Database, headings: string[], mapping: Mapping) {
  const now = await inForce(db);
  if (!now) return { earlier: { length: 0, columns: {} } as Columns, isSame: false };
  // What the reading was made with: the mapping itself may have been taught something since.
  const isSame = sameValue(now.reading.headings, headings) && sameValue(now.reading.mapping, mapping);
  return { earlier: await loadFeedColumns(db, "all"), isSame };
}

/** Reads a feed file into the catalogue. The file is removed once it is in. */
export async function importFeedFile(context: JobContext, input: FeedImport): Promise<RefreshCounts> {
  const { db } = context;
  const [finished] = await db.select().from(revisions).where(eq(revisions.job, context.id));
  if (finished?.finishedAt && finished.counts) return finished.counts;
  const [other] = await db.select().from(feeds);
  if (other && other.key !== input.feed) {
    giveUp(
      "feed-second",
      `This workspace reads the feed "${other.key}"; a second one can't stand beside it.`,
      `Send it as "${other.key}", or make a workspace for it.`,
    );
  }
  const reading = input.reading ?? readingSchema.parse(other?.reading ?? {});
  await lookBeforeReading(input.file, reading);
  const feed = await openFeed(input.file, reading);
  const chosen = await chooseMapping(db, feed, input.mapping);
  // A person who maps the columns anew has seen which are gone; only a saved mapping can lose one unnoticed.
  const mayLose = input.acceptLoss || input.mapping !== null;
  // Without a header a column counts as gone only when the whole feed has been read.
  const shape = feed.grows ? chosen : await checkShape(db, chosen.mapping, feed.headings, mayLose);
  const [revision] = await db
    .insert(revisions)
    .values({ feed: input.feed, job: context.id, startedAt: Date.now() })
    .returning();
  const rev = revision!.id;
  const earlier = await earlierCatalogue(db, feed.headings, shape.mapping);
  const written = await writeWithOneMark(context, rev, feed, shape.mapping, earlier, input.file);
  const { counts, columns, closing, live, judge, mapping } = written;
  const notices = [
    ...new Set([
      ...chosen.notices,
      ...shape.notices,
      ...written.notices,
      ...noticesOfPrices(judge, mapping),
      ...noticesOfCategories(columns),
    ]),
  ];
  checkWorthKeeping(counts, judge, live, context.info.mostLoss, input.acceptLoss);
  if (feed.grows) await checkShape(db, mapping, feed.headings, mayLose);
  for (let from = 0; from < closing.length; from += BULK_ROWS) {
    await db.$client.execute({
      sql: "UPDATE items SET to_rev = ?1 WHERE item_no IN (SELECT value FROM json_each(?2)) AND to_rev IS NULL AND from_rev < ?1",
      args: [rev, JSON.stringify(closing.slice(from, from + BULK_ROWS))],
    });
    await context.progress(counts.rows, counts.rows, "rows");
  }
  const before = (await inForce(db))?.revision.columns ?? {};
  const own = columns.finish();
  if (Object.keys(own.sunk).length > 0) await collectGarbageFully();
  const added = finishColumns(own, await loadFinishSettings(db));
  const kept = earlier.earlier.columns;
  const stored = {
    ...(await storeColumns(db, rev, own.columns, before, kept, own.sunk)),
    ...(await storeColumns(db, rev, added.columns, before)),
  };
  const now = Date.now();
  // The one step that makes all of it count.
  await db.transaction(async (tx) => {
    const { aliases, findings } = added;
    const said = [...noticesOf(feed), ...notices, ...added.notices];
    const done = { finishedAt: now, reading: rev, mapping, headings: feed.headings, columns: stored, counts };
    await tx
      .update(revisions)
      .set({ ...done, aliases, findings, notices: said })
      .where(eq(revisions.id, rev));
    const row = {
      ...{ fileName: input.fileName, mapping, reading, currentRevision: rev, readAt: now, trouble: null },
      ...(input.version === null ? {} : { version: input.version, attempt: null }),
      ...(input.source === undefined ? {} : { source: input.source }),
    };
    await tx
      .insert(feeds)
      .values({ key: input.feed, ...row })
      .onConflictDoUpdate({ target: feeds.key, set: row });
    const what = `Feed read: ${plural(counts.new, "new item")}, ${counts.changed} changed, ${counts.gone} gone, ${counts.setAside} set aside`;
    await noteChange(tx, what, "", "catalogue", "mapping");
  });
  await dropOldColumns(db, stored, before);
  await removeFiles(input.file);
  return counts;
}

/**
 * Writes the rows of a feed, and once more where amounts that can be read two ways were left unread, and all amounts
 * together tell how: points that group thousands in a feed whose other amounts have decimal commas. Nothing of the first
 * try stays.
 */
async function writeWithOneMark(
  context: JobContext,
  rev: number,
  feed: OpenFeed,
  mapping: Mapping,
  earlier: Awaited<ReturnType<typeof earlierCatalogue>>,
  file: string,
): Promise<WrittenRows & { mapping: Mapping; notices: string[] }> {
  const sink = (name: string) => new TextSpool(spoolFile(file, name));
  const first = await writeRows(context, rev, feed, mapping, earlier, sink);
  if (mapping.decimal !== "auto" || !first.judge.isMisread()) return { ...first, mapping, notices: [] };
  await forgetRows(context.db, rev);
  for (const name of OWN_TEXTS) await rm(spoolFile(file, name), { force: true });
  const marked: Mapping = { ...mapping, decimal: first.judge.mark() };
  const again = await writeRows(context, rev, feed, marked, { ...earlier, isSame: false }, sink);
  const [cents, thousands] = marked.decimal === "," ? ["commas", "points"] : ["points", "commas"];
  const notices = [`Amounts have decimal ${cents}, so ${thousands} in them group thousands.`];
  return { ...again, mapping: marked, notices };
}

/** How many ways of writing amounts that could not be read are told. */
const TOLD_FORMS = 5;

/** Asks whether a sign in categories parts levels, where most have it and nothing told. */
function noticesOfCategories({ unparted }: WrittenRows["columns"]): string[] {
  if (unparted === null) return [];
  const { sign, example } = unparted;
  return [
    `Categories such as “${example}” were read as one level each. If “${sign}” parts levels there, say so beside the category when the feed is read again.`,
  ];
}

function noticesOfPrices(judge: PriceJudge, { decimal }: Mapping): string[] {
  const told = judge.unread().slice(0, TOLD_FORMS);
  const forms = told.map(({ example, count }) => `“${example}”${count > 1 ? ` and ${count - 1} alike` : ""}`);
  const unread = told.length > 0 ? [`Amounts that could not be read: ${forms.join("; ")}.`] : [];
  return [...(decimal === "auto" ? judge.notices() : []), ...unread];
}

/** Where a large feed's texts are put while it is read. */
function spoolFile(file: string, name: string): string {
  return `${file}.${name}.texts`;
}

/** Removes a feed file and what was made of it on the way. */
async function removeFiles(file: string): Promise<void> {
  await removeFeedFile(file);
  for (const name of OWN_TEXTS) await rm(spoolFile(file, name), { force: true });
}

function checkWorthKeeping(
  counts: RefreshCounts,
  judge: PriceJudge,
  live: number,
  mostLoss: number,
  acceptLoss: boolean,
): void {
  if (counts.stored === 0) {
    giveUp(
      "feed-nothing-usable",
      counts.rows === 0
        ? "The feed has a header but no rows. The catalogue is as it was."
        : `None of the ${plural(counts.rows, "row")} could be used; all were set aside. The catalogue is as it was.`,
      judge.notices()[0] ??
        "Check that the columns for ID, title and price are mapped, and that prices are in the workspace's currency.",
    );
  }
  if (live > 0 && counts.gone / live > mostLoss && !acceptLoss) {
    const share = Math.round((100 * counts.gone) / live);
    giveUp(
      "feed-loses-too-much",
      `The feed no longer has ${plural(counts.gone, "item")}, ${share} % of the catalogue. The house rule stops at ${Math.round(mostLoss * 100)} %, so the catalogue is as it was.`,
      "If the loss is right, upload the feed again and allow it.",
    );
  }
}

/** What files of a format hold rows in several of. */
const PARTS_OF: Partial<Record<FeedFormat, string>> = {
  xlsx: "sheets",
  xml: "kinds of element that could be items",
  json: "lists",
};

function noticesOf(feed: OpenFeed): string[] {
  const notices: string[] = [];
  if (feed.encoding === "windows-1252") {
    notices.push("The file is not valid UTF-8, so it was read as Latin-1 (Windows-1252). Look at accents in titles.");
  } else if (feed.encoding === "windows-1250") {
    notices.push("The file is not valid UTF-8; by its letters it was read as Windows-1250. Look at accents in titles.");
  } else if (feed.encoding !== null && feed.encoding !== "utf-8") {
    notices.push(`Read as ${feed.encoding.toUpperCase()}.`);
  }
  if (feed.parts.length > 1) {
    const what = PARTS_OF[feed.format] ?? "parts";
    notices.push(`The file has ${feed.parts.length} ${what}; "${feed.part}" was read.`);
  }
  if (feed.headerRow !== null && feed.headerRow > 1) notices.push(`The header was found in row ${feed.headerRow}.`);
  if (feed.blank > 0) notices.push(`${plural(feed.blank, "empty row")} skipped.`);
  if (feed.twice) {
    const bear = feed.twice === 1 ? "bears" : "bear";
    notices.push(
      `${plural(feed.twice, "row")} of the sheet ${bear} a number that another one has; rows were counted on.`,
    );
  }
  if (feed.repeated.length > 0) {
    notices.push(`Headings that stand twice were told apart by a number: ${[...new Set(feed.repeated)].join(", ")}.`);
  }
  return notices;
}

/** Undoes an unfinished reading of this job: its versions, set-aside rows, columns and closings go. */
export async function rollBackReading({ db, id }: JobContext): Promise<void> {
  const unfinished = await db
    .select({ id: revisions.id })
    .from(revisions)
    .where(and(eq(revisions.job, id), isNull(revisions.finishedAt)));
  for (const { id: rev } of unfinished) {
    await db.$client.execute({ sql: "UPDATE items SET to_rev = NULL WHERE to_rev = ?", args: [rev] });
    await forgetRows(db, rev);
    await db.delete(catalogueColumns).where(eq(catalogueColumns.revision, rev));
    await db.delete(revisions).where(eq(revisions.id, rev));
  }
}

/** Removes the rows that a reading wrote, a few thousand at a time so that others can write between them. */
async function forgetRows(db: Database, rev: number): Promise<void> {
  for (;;) {
    const { rowsAffected } = await db.$client.execute({
      sql: "DELETE FROM items WHERE from_rev = ?1 AND item_no IN (SELECT item_no FROM items WHERE from_rev = ?1 LIMIT 5000)",
      args: [rev],
    });
    if (rowsAffected === 0) break;
  }
  await db.delete(setAside).where(eq(setAside.revision, rev));
  await db.delete(refreshChanges).where(eq(refreshChanges.revision, rev));
}

/** Reads a feed in; when that fails, the failure stays in sight at the feed until a reading succeeds. */
async function run(context: JobContext, raw: unknown): Promise<RefreshCounts> {
  const input = feedImportSchema.parse(raw);
  try {
    return await importFeedFile(context, input);
  } catch (error) {
    if (error instanceof FailureError) {
      const trouble = { ...error.failure, at: Date.now() };
      await context.db.update(feeds).set({ trouble }).where(eq(feeds.key, input.feed));
    }
    throw error;
  }
}

export const feedImport: JobHandler = { run, rollBack: rollBackReading };
