import { randomUUID } from "node:crypto";
import { createWriteStream } from "node:fs";
import { mkdir, rm, stat } from "node:fs/promises";
import path from "node:path";
import { Readable, Transform } from "node:stream";
import { pipeline } from "node:stream/promises";
import type { ReadableStream } from "node:stream/web";
import { and, asc, eq, sql } from "drizzle-orm";
import { z } from "zod";
import { FAULTS, faultsIn, type Fault } from "@/core/catalogue/faults";
import { FIELDS } from "@/core/catalogue/fields";
import { mappingSchema, proposeMapping, type Mapping, type MappingProposal } from "@/core/catalogue/mapping";
import { FailureError, fail, giveUp, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { feeds, revisions, setAside, type RefreshCounts } from "@/db/schema";
import { enqueueJob, type JobView } from "../jobs/jobs";
import { dataDir, settings } from "../settings";
import { openFeedRows } from "./feed-rows";
import { openFeedText } from "./feed-text";
import { loadCatalogue } from "./load";

const SAMPLE_ROWS = 200;
const SHOWN_SAMPLES = 5;

function uploadDir(slug: string): string {
  return path.join(dataDir(), "uploads", slug);
}

function uploadFile(slug: string, upload: string): string {
  return path.join(uploadDir(slug), `${upload}.feed`);
}

/** Stores a raw body under a new name, within the size limit. @throws FailureError when it is too large or empty */
export async function storeUpload(slug: string, body: ReadableStream<Uint8Array> | null): Promise<string> {
  if (!body) giveUp("feed-empty", "No file came with the request.", "Send the feed file as the body.");
  await mkdir(uploadDir(slug), { recursive: true });
  const upload = randomUUID();
  const file = uploadFile(slug, upload);
  const most = settings().HOTSHELF_MAX_UPLOAD_MB * 1024 * 1024;
  let seen = 0;
  const guard = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      seen += chunk.length;
      const failure = {
        code: "upload-too-large",
        message: `The file is larger than ${settings().HOTSHELF_MAX_UPLOAD_MB} MB.`,
        hint: "Compress it with gzip, or raise HOTSHELF_MAX_UPLOAD_MB.",
      };
      done(seen > most ? new FailureError(failure) : null, chunk);
    },
  });
  try {
    await pipeline(Readable.fromWeb(body), guard, createWriteStream(file));
  } catch (error) {
    await rm(file, { force: true });
    throw error;
  }
  return upload;
}

export interface FeedProposal {
  upload: string;
  format: "delimited" | "xml";
  delimiter: string | null;
  encoding: string;
  compressed: boolean;
  repeated: string[];
  columns: { name: string; samples: string[]; filled: number; distinct: number }[];
  sampled: number;
  proposals: MappingProposal[];
  /** Whether the proposals are the feed's saved mapping rather than new ones. */
  saved: boolean;
}

/** Reads the first rows of an upload and proposes a mapping. @throws FailureError when it is no feed */
export async function inspectUpload(db: Database, slug: string, feed: string, upload: string): Promise<FeedProposal> {
  const text = await openFeedText(uploadFile(slug, upload));
  const rows = await openFeedRows(text);
  const samples: string[][] = [];
  for await (const batch of rows.batches()) {
    samples.push(...batch.rows.slice(0, SAMPLE_ROWS - samples.length));
    if (samples.length >= SAMPLE_ROWS) break;
  }
  if (samples.length === 0) giveUp("feed-nothing-usable", "The feed has a header but no rows.", "Export it again.");
  const [known] = await db.select().from(feeds).where(eq(feeds.key, feed));
  const fresh = proposeMapping(rows.headings, samples);
  const proposals = known ? keepSaved(known.mapping, fresh, rows.headings) : fresh;
  return {
    upload,
    format: rows.format,
    delimiter: rows.delimiter,
    encoding: text.encoding,
    compressed: text.compressed,
    repeated: [...new Set(rows.repeated)],
    columns: rows.headings.map((name, at) => {
      const values = samples.map((cells) => (cells[at] ?? "").trim()).filter((value) => value !== "");
      const distinct = [...new Set(values)];
      const shown = distinct
        .slice(0, SHOWN_SAMPLES)
        .map((value) => (value.length > 120 ? `${value.slice(0, 119)}…` : value));
      return { name, samples: shown, filled: values.length, distinct: distinct.length };
    }),
    sampled: samples.length,
    proposals,
    saved: known !== undefined,
  };
}

function keepSaved(saved: Mapping, fresh: MappingProposal[], headings: string[]): MappingProposal[] {
  return fresh.map((proposal) => {
    const column = saved.columns[proposal.field];
    if (column === null) return { ...proposal, column: null, score: 1 };
    return column && headings.includes(column) ? { ...proposal, column, score: 1 } : proposal;
  });
}

export const feedKeySchema = z.string().regex(/^[a-z0-9][a-z0-9-]{0,39}$/, "lower-case letters, digits and hyphens");

export const importSchema = z.object({
  upload: z.uuid(),
  fileName: z.string().max(200).default("feed"),
  mapping: mappingSchema.nullable().default(null),
  acceptLoss: z.boolean().default(false),
});

/** Queues the import of an upload. */
export async function startImport(
  db: Database,
  slug: string,
  feed: string,
  input: z.infer<typeof importSchema>,
): Promise<Outcome<JobView>> {
  const file = uploadFile(slug, input.upload);
  const exists = await stat(file).then(
    () => true,
    () => false,
  );
  if (!exists) return fail("upload-gone", "The uploaded file is no longer there.", "Upload it again.");
  const { fileName, mapping, acceptLoss } = input;
  return ok(await enqueueJob(db, "feed-import", { feed, file, fileName, mapping, acceptLoss }));
}

export interface FeedInfo {
  key: string;
  fileName: string;
  readAt: number | null;
  counts: RefreshCounts | null;
  notices: string[];
  mapping: Mapping;
}

/** The feeds of a workspace with what the last reading brought. */
export async function listFeeds(db: Database): Promise<FeedInfo[]> {
  const rows = await db.select().from(feeds).leftJoin(revisions, eq(feeds.currentRevision, revisions.id));
  return rows.map(({ feeds: feed, revisions: revision }) => ({
    key: feed.key,
    fileName: feed.fileName,
    readAt: feed.readAt,
    counts: revision?.counts ?? null,
    notices: revision?.notices ?? [],
    mapping: feed.mapping,
  }));
}

export interface Diagnostic extends Fault {
  count: number;
}

async function currentRevision(db: Database): Promise<number> {
  const [feed] = await db.select().from(feeds);
  return feed?.currentRevision ?? 0;
}

/** What is wrong with the catalogue: each fault with its count, grave ones first. Only faults that occur are listed. */
export async function diagnose(db: Database): Promise<Diagnostic[]> {
  const revision = await currentRevision(db);
  const counts = new Map<string, number>();
  const asideCounts = await db
    .select({ faults: setAside.faults, count: sql<number>`count(*)` })
    .from(setAside)
    .where(eq(setAside.revision, revision))
    .groupBy(setAside.faults);
  for (const { faults, count } of asideCounts) {
    for (const code of faultsIn(faults)) counts.set(code, (counts.get(code) ?? 0) + count);
  }
  const { columns } = await loadCatalogue(db, ["warnings"]);
  if (columns["warnings"]?.kind === "number") {
    for (const bits of columns["warnings"].values) {
      if (bits === 0) continue;
      for (const code of faultsIn(bits)) counts.set(code, (counts.get(code) ?? 0) + 1);
    }
  }
  return FAULTS.filter((fault) => counts.has(fault.code)).map((fault) => ({
    ...fault,
    count: counts.get(fault.code) as number,
  }));
}

export interface AsideRow {
  row: number;
  reasons: string[];
  cells: string[];
}

/** The rows of the last reading that were set aside, in file order, with the feed's headings. */
export async function rowsSetAside(
  db: Database,
  offset: number,
  limit: number,
): Promise<{ headings: string[]; rows: AsideRow[]; total: number }> {
  const revision = await currentRevision(db);
  const [found] = await db.select().from(revisions).where(eq(revisions.id, revision));
  const rows = await db
    .select()
    .from(setAside)
    .where(and(eq(setAside.revision, revision)))
    .orderBy(asc(setAside.row))
    .limit(limit)
    .offset(offset);
  return {
    headings: found?.headings ?? [],
    total: found?.counts?.setAside ?? 0,
    rows: rows.map(({ row, faults, cells }) => ({
      row,
      reasons: faultsIn(faults).map((code) => FAULTS.find((fault) => fault.code === code)!.label),
      cells: JSON.parse(cells) as string[],
    })),
  };
}

/** Labels of the fields, for the mapping step. */
export const MAPPING_FIELDS = FIELDS.map(({ key, label, required, about }) => ({ key, label, required, about }));
