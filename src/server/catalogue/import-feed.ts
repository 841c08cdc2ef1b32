import { createHash } from "node:crypto";
import { rm } from "node:fs/promises";
import { and, eq, isNull, notInArray } from "drizzle-orm";
import { z } from "zod";
import { CatalogueColumnsBuilder, ROW_HASH } from "@/core/catalogue/catalogue-columns";
import { faultBits } from "@/core/catalogue/faults";
import { mappingFrom, mappingGaps, mappingSchema, proposeMapping, type Mapping } from "@/core/catalogue/mapping";
import { rowReader } from "@/core/catalogue/read-row";
import { encodeColumn } from "@/core/kit/column-bytes";
import type { Columns } from "@/core/kit/columns";
import { sameValue } from "@/core/kit/diff";
import { plural } from "@/core/kit/format";
import { giveUp } from "@/core/kit/outcome";
import { hashCells } from "@/core/kit/random";
import type { Database } from "@/db/client";
import { catalogueColumns, feeds, items, revisions, setAside, type RefreshCounts } from "@/db/schema";
import { BULK_ROWS, bulkInsert } from "../bulk";
import type { JobContext, JobHandler } from "../jobs/work";
import { noteChange } from "../workspaces";
import { openFeedRows, type FeedRows } from "./feed-rows";
import { loadCatalogue } from "./load";
import { openFeedText, type FeedText } from "./feed-text";

export const feedImportSchema = z.object({
  feed: z.string(),
  file: z.string(),
  fileName: z.string(),
  /** Null takes the feed's saved mapping, or the proposed one for a new feed. */
  mapping: mappingSchema.nullable(),
  /** Go on even when more of the catalogue is lost than the house rule allows. */
  acceptLoss: z.boolean(),
});

export type FeedImport = z.infer<typeof feedImportSchema>;

const SAMPLE_ROWS = 200;
/** Rows set aside that are kept; their count is always true. */
const MOST_SET_ASIDE = 100_000;

interface Known {
  itemNo: number;
  /** Hash of the version in force, or null when the item is gone. */
  hash: number | null;
  /** Its row in the revision in force, or -1. */
  row: number;
  seen: boolean;
}

/** Every item ever seen, by ID: those in force from the columns of the catalogue, those gone from their closed versions. */
async function knownItems(
  db: Database,
  earlier: Columns,
): Promise<{ byId: Map<string, Known>; highest: number; live: number }> {
  const byId = new Map<string, Known>();
  const { id, itemNo, [ROW_HASH]: hash } = earlier.columns;
  let highest = 0;
  if (id?.kind === "text" && itemNo?.kind === "number" && hash?.kind === "number") {
    for (let row = 0; row < earlier.length; row++) {
      const no = itemNo.values[row] as number;
      highest = Math.max(highest, no);
      byId.set(id.values[id.codes[row] as number] as string, {
        itemNo: no,
        hash: hash.values[row] as number,
        row,
        seen: false,
      });
    }
  }
  const live = byId.size;
  const { rows } = await db.$client.execute("SELECT DISTINCT item_id, item_no FROM items WHERE to_rev IS NOT NULL");
  for (const row of rows) {
    const no = Number(row[1]);
    highest = Math.max(highest, no);
    if (!byId.has(String(row[0]))) byId.set(String(row[0]), { itemNo: no, hash: null, row: -1, seen: false });
  }
  return { byId, highest, live };
}

/** The catalogue in force, and whether its items can be carried over as they are: same headings, same mapping. */
async function earlierCatalogue(
  db: Database,
  feed: typeof feeds.$inferSelect | undefined,
  headings: string[],
  mapping: Mapping,
) {
  if (!feed?.currentRevision) return { earlier: { length: 0, columns: {} } as Columns, isSame: false };
  const [revision] = await db.select().from(revisions).where(eq(revisions.id, feed.currentRevision));
  const isSame = sameValue(revision?.headings, headings) && sameValue(feed.mapping, mapping);
  const earlier = await loadCatalogue(db, isSame ? "all" : ["id", ROW_HASH]);
  return { earlier, isSame };
}

async function chooseMapping(input: FeedImport, db: Database, rows: FeedRows): Promise<Mapping> {
  let mapping = input.mapping;
  if (!mapping) {
    const [saved] = await db.select().from(feeds).where(eq(feeds.key, input.feed));
    mapping = saved?.mapping ?? null;
  }
  if (!mapping) {
    const samples: string[][] = [];
    for await (const batch of rows.batches()) {
      samples.push(...batch.rows.slice(0, SAMPLE_ROWS - samples.length));
      if (samples.length >= SAMPLE_ROWS) break;
    }
    mapping = mappingFrom(proposeMapping(rows.headings, samples));
  }
  const { missing, gone } = mappingGaps(mapping, rows.headings);
  if (missing.length > 0) {
    const names = missing.map((field) => field.label).join(", ");
    const lost = gone.length > 0 ? ` The mapping names ${gone.join(", ")}, which the feed no longer has.` : "";
    giveUp(
      "mapping-incomplete",
      `No column is mapped to: ${names}.${lost} The catalogue is as it was.`,
      "Upload the feed in the Catalogue and choose the columns.",
    );
  }
  return mapping;
}

async function run(context: JobContext, raw: unknown): Promise<RefreshCounts> {
  const input = feedImportSchema.parse(raw);
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
  const text = await openFeedText(input.file);
  const rows = await openFeedRows(text);
  const mapping = await chooseMapping(input, db, rows);
  const [revision] = await db
    .insert(revisions)
    .values({ feed: input.feed, job: context.id, startedAt: Date.now() })
    .returning();
  const rev = revision!.id;
  const { counts, columns, closing, live } = await writeRows(context, rev, other, text, rows, mapping);
  checkWorthKeeping(counts, live, context.info.mostLoss, input.acceptLoss);
  for (let from = 0; from < closing.length; from += BULK_ROWS) {
    await db.$client.execute({
      sql: "UPDATE items SET to_rev = ?1 WHERE item_no IN (SELECT value FROM json_each(?2)) AND to_rev IS NULL AND from_rev < ?1",
      args: [rev, JSON.stringify(closing.slice(from, from + BULK_ROWS))],
    });
    await context.progress(counts.rows, counts.rows, "rows");
  }
  const before = other?.currentRevision ? await columnsOf(db, other.currentRevision) : {};
  const stored = await storeColumns(db, rev, columns.finish(), before);
  const now = Date.now();
  // The one step that makes all of it count.
  await db.transaction(async (tx) => {
    const done = { finishedAt: now, headings: rows.headings, columns: stored, counts, notices: noticesOf(text, rows) };
    await tx.update(revisions).set(done).where(eq(revisions.id, rev));
    const feed = { fileName: input.fileName, mapping, currentRevision: rev, readAt: now };
    await tx
      .insert(feeds)
      .values({ key: input.feed, ...feed })
      .onConflictDoUpdate({ target: feeds.key, set: feed });
    const what = `Feed read: ${plural(counts.new, "new item")}, ${counts.changed} changed, ${counts.gone} gone, ${counts.setAside} set aside`;
    await noteChange(tx, what, "", "catalogue");
  });
  // The revision before stays a while for readers that have just looked up which one is in force.
  const needed = new Set([...Object.values(stored), ...Object.values(before)]);
  await db.delete(catalogueColumns).where(notInArray(catalogueColumns.revision, [...needed]));
  await rm(input.file, { force: true });
  return counts;
}

/** Which revision's column serves each name in a revision. */
async function columnsOf(db: Database, revision: number): Promise<Record<string, number>> {
  const [row] = await db.select({ columns: revisions.columns }).from(revisions).where(eq(revisions.id, revision));
  return row?.columns ?? {};
}

/** Stores the columns that differ from the revision before. @returns which revision's column serves each name */
async function storeColumns(db: Database, rev: number, made: Columns, before: Record<string, number>) {
  const digests = await db
    .select({ name: catalogueColumns.name, revision: catalogueColumns.revision, digest: catalogueColumns.digest })
    .from(catalogueColumns);
  const known = new Map(digests.map((row) => [`${row.revision}/${row.name}`, row.digest]));
  const serving: Record<string, number> = {};
  for (const [name, column] of Object.entries(made.columns)) {
    const data = Buffer.from(encodeColumn(column).buffer);
    const digest = createHash("sha1").update(data).digest("hex");
    const last = before[name];
    if (last !== undefined && known.get(`${last}/${name}`) === digest) {
      serving[name] = last;
      continue;
    }
    await db.insert(catalogueColumns).values({ revision: rev, name, digest, data });
    serving[name] = rev;
  }
  return serving;
}

async function writeRows(
  context: JobContext,
  rev: number,
  feed: typeof feeds.$inferSelect | undefined,
  text: FeedText,
  rows: FeedRows,
  mapping: Mapping,
) {
  const { db, info } = context;
  const { earlier, isSame } = await earlierCatalogue(db, feed, rows.headings, mapping);
  const known = await knownItems(db, earlier);
  const taken = new Set<string>();
  const read = rowReader(rows.headings, mapping, info.currency, taken);
  const idAt = rows.headings.indexOf(mapping.columns.id ?? "");
  const columns = new CatalogueColumnsBuilder(rows.headings, mapping);
  const copy = isSame ? columns.copyFrom(earlier) : null;
  const counts: RefreshCounts = { rows: 0, stored: 0, new: 0, changed: 0, unchanged: 0, gone: 0, setAside: 0 };
  const closing: number[] = [];
  let nextNo = known.highest + 1;
  let versions: unknown[][] = [];
  let aside: unknown[][] = [];
  const flush = async () => {
    if (versions.length > 0) {
      const names = ["itemNo", "fromRev", "itemId", "title", "price", "warnings", "cells"] as const;
      await bulkInsert(db.$client, items, [...names], versions, ["cells"]);
      versions = [];
    }
    if (aside.length > 0) {
      await bulkInsert(db.$client, setAside, ["revision", "row", "faults", "cells"], aside, ["cells"]);
      aside = [];
    }
  };
  for await (const batch of rows.batches()) {
    for (const cells of batch.rows) {
      counts.rows++;
      const hash = hashCells(cells);
      const held = copy ? known.byId.get((cells[idAt] ?? "").trim()) : undefined;
      if (copy && held && held.hash === hash && !held.seen) {
        held.seen = true;
        taken.add((cells[idAt] as string).trim());
        copy(held.row);
        counts.stored++;
        counts.unchanged++;
        continue;
      }
      const result = read(cells);
      if (!result.ok) {
        counts.setAside++;
        const kept = cells.map((cell) => (cell.length > 2000 ? `${cell.slice(0, 2000)}…` : cell));
        // Row 1 of the file is the header.
        if (counts.setAside <= MOST_SET_ASIDE) {
          aside.push([rev, counts.rows + 1, faultBits(result.faults), kept]);
        }
        continue;
      }
      counts.stored++;
      const { item } = result;
      const before = known.byId.get(item.id);
      if (before) before.seen = true;
      const itemNo = before?.itemNo ?? nextNo++;
      columns.push(itemNo, hash, item, cells);
      if (before && before.hash === hash) {
        counts.unchanged++;
        continue;
      }
      if (before?.hash != null) {
        counts.changed++;
        closing.push(itemNo);
      } else counts.new++;
      versions.push([itemNo, rev, item.id, item.title, item.price, item.warnings, cells]);
      if (versions.length >= BULK_ROWS) await flush();
    }
    if (aside.length >= BULK_ROWS) await flush();
    const share = Math.min(1, batch.read / Math.max(1, text.bytes));
    await context.progress(counts.rows, share > 0.01 ? Math.round(counts.rows / share) : null, "rows");
  }
  await flush();
  for (const entry of known.byId.values()) {
    if (entry.seen || entry.hash === null) continue;
    counts.gone++;
    closing.push(entry.itemNo);
  }
  return { counts, columns, closing, live: known.live };
}

function checkWorthKeeping(counts: RefreshCounts, live: number, mostLoss: number, acceptLoss: boolean): void {
  if (counts.stored === 0) {
    giveUp(
      "feed-nothing-usable",
      counts.rows === 0
        ? "The feed has a header but no rows. The catalogue is as it was."
        : `None of the ${plural(counts.rows, "row")} could be used; all were set aside. The catalogue is as it was.`,
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

function noticesOf(text: FeedText, rows: FeedRows): string[] {
  const notices: string[] = [];
  if (text.encoding === "windows-1252") {
    notices.push("The file is not valid UTF-8, so it was read as Latin-1 (Windows-1252). Look at accents in titles.");
  } else if (text.encoding !== "utf-8") {
    notices.push(`Read as ${text.encoding.toUpperCase()}.`);
  }
  if (rows.repeated.length > 0) {
    notices.push(`Headings that stand twice were told apart by a number: ${[...new Set(rows.repeated)].join(", ")}.`);
  }
  return notices;
}

/** Undoes an unfinished reading of this job: its versions, set-aside rows, columns and closings go. */
async function rollBack({ db, id }: JobContext): Promise<void> {
  const unfinished = await db
    .select({ id: revisions.id })
    .from(revisions)
    .where(and(eq(revisions.job, id), isNull(revisions.finishedAt)));
  for (const { id: rev } of unfinished) {
    await db.$client.execute({ sql: "UPDATE items SET to_rev = NULL WHERE to_rev = ?", args: [rev] });
    for (;;) {
      const { rowsAffected } = await db.$client.execute({
        sql: "DELETE FROM items WHERE from_rev = ?1 AND item_no IN (SELECT item_no FROM items WHERE from_rev = ?1 LIMIT 5000)",
        args: [rev],
      });
      if (rowsAffected === 0) break;
    }
    await db.delete(setAside).where(eq(setAside.revision, rev));
    await db.delete(catalogueColumns).where(eq(catalogueColumns.revision, rev));
    await db.delete(revisions).where(eq(revisions.id, rev));
  }
}

export const feedImport: JobHandler = { run, rollBack };
