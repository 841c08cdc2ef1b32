import { and, asc, eq } from "drizzle-orm";
import { z } from "zod";
import { FAULT, faultsIn } from "@/core/catalogue/faults";
import type { FeedFormat } from "@/core/catalogue/detect";
import {
  followRenames,
  mappingFrom,
  mappingGaps,
  mappingSchema,
  proposeMapping,
  type Mapping,
  type MappingProposal,
} from "@/core/catalogue/mapping";
import { versionOf } from "@/core/kit/version-of";
import { giveUp, ok, type Failure, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { feeds, setAside, type RefreshCounts } from "@/db/schema";
import { enqueueJob, type JobView } from "../jobs/jobs";
import { changedMeanwhile } from "../meanwhile";
import { savedMapping, valuesBefore } from "./choose-mapping";
import { feedSourceSchema, sealSource, showSource, type ShownSource } from "./feed-source";
import { lookInto } from "./reading/look";
import { readingSchema, type ReadingChoice } from "./reading/open-feed";
import { inForce } from "./revisions";
import { knownUpload } from "./uploads";

const SHOWN_SAMPLES = 5;

export interface FeedProposal {
  upload: string;
  format: FeedFormat;
  delimiter: string | null;
  encoding: string | null;
  compressed: boolean;
  parts: string[];
  part: string | null;
  /** The row of the file that the header stands in; null in formats without one. */
  headerRow: number | null;
  /** What a person chose instead of what was found out. */
  reading: ReadingChoice;
  repeated: string[];
  columns: { name: string; samples: string[]; filled: number; distinct: number }[];
  sampled: number;
  proposals: MappingProposal[];
  mapping: Mapping;
  /** Whether the mapping is the feed's saved one rather than proposed. */
  saved: boolean;
  /** The version of the saved mapping, to be sent along with a changed one. */
  since: string;
  /** Sentences about saved columns that were renamed or are gone. */
  notices: string[];
}

/** Reads the first rows of an upload and proposes a mapping. @throws FailureError when it is no feed */
export async function inspectUpload(
  db: Database,
  slug: string,
  upload: string,
  choice: ReadingChoice | null,
): Promise<FeedProposal> {
  const [known] = await db.select().from(feeds);
  const reading = choice ?? readingSchema.parse(known?.reading ?? {});
  const feed = await lookInto(knownUpload(slug, upload), reading);
  const { samples } = feed;
  if (samples.length === 0) giveUp("feed-nothing-usable", "The feed has a header but no rows.", "Export it again.");
  const proposals = proposeMapping(feed.headings, samples);
  const saved = await savedMapping(db);
  const { mapping, notices } = saved
    ? await carryOver(db, saved, proposals, feed.headings, samples)
    : { mapping: mappingFrom(proposals, feed.headings, samples), notices: [] };
  return {
    upload,
    format: feed.format,
    delimiter: feed.delimiter,
    encoding: feed.encoding,
    compressed: feed.compressed,
    parts: feed.parts,
    part: feed.part,
    headerRow: feed.headerRow,
    reading,
    repeated: [...new Set(feed.repeated)],
    columns: feed.headings.map((name, at) => {
      const values = samples.map((cells) => (cells[at] ?? "").trim()).filter((value) => value !== "");
      const distinct = [...new Set(values)];
      const shown = distinct
        .slice(0, SHOWN_SAMPLES)
        .map((value) => (value.length > 120 ? `${value.slice(0, 119)}…` : value));
      return { name, samples: shown, filled: values.length, distinct: distinct.length };
    }),
    sampled: samples.length,
    proposals,
    mapping,
    saved: saved !== null,
    since: versionOf(saved),
    notices,
  };
}

/** The saved mapping on a feed whose columns may have changed: renamed ones followed, lost ones proposed anew. */
async function carryOver(
  db: Database,
  saved: Mapping,
  proposals: MappingProposal[],
  headings: string[],
  samples: string[][],
): Promise<{ mapping: Mapping; notices: string[] }> {
  const lost = mappingGaps(saved, headings).lost.map(({ field }) => field.key);
  const { mapping, renamed } = followRenames(saved, headings, samples, await valuesBefore(db, lost));
  const notices = renamed.map(
    ({ field, from, to }) => `${field.label}: the column "${from}" is gone; "${to}" takes its place.`,
  );
  const columns = { ...mapping.columns };
  for (const { field, column } of mappingGaps(mapping, headings).lost) {
    const proposal = proposals.find((one) => one.field === field.key);
    columns[field.key] = proposal?.source ?? null;
    const instead = typeof proposal?.source === "string" ? `; "${proposal.source}" is proposed instead` : "";
    notices.push(`${field.label}: the column "${column}" is no longer in the feed${instead}.`);
  }
  return { mapping: { ...mapping, columns }, notices };
}

export const feedKeySchema = z.string().regex(/^[a-z0-9][a-z0-9-]{0,39}$/, "lower-case letters, digits and hyphens");

export const importSchema = z.object({
  upload: z.uuid(),
  fileName: z.string().max(200).default("feed"),
  mapping: mappingSchema.nullable().default(null),
  reading: readingSchema.nullable().default(null),
  source: feedSourceSchema.nullable().optional(),
  acceptLoss: z.boolean().default(false),
  /** The version of the saved mapping that was seen when this one was made. */
  since: z.string().max(40).optional(),
});

/** Queues the import of an upload. */
export async function startImport(
  db: Database,
  slug: string,
  feed: string,
  input: z.input<typeof importSchema>,
): Promise<Outcome<JobView>> {
  const { upload, since, source, ...rest } = importSchema.parse(input);
  if (rest.mapping) {
    const saved = await savedMapping(db);
    const seen = await changedMeanwhile(db, since, {
      ...{ what: "How the feed's columns are read", about: "mapping", stored: saved, given: rest.mapping },
    });
    if (!seen.ok) return seen;
  }
  const kept = source ? { source: sealSource(source) } : { source };
  return ok(await enqueueJob(db, "feed-import", { feed, file: knownUpload(slug, upload), ...kept, ...rest }));
}

export interface FeedInfo {
  key: string;
  fileName: string;
  readAt: number | null;
  counts: RefreshCounts | null;
  notices: string[];
  mapping: Mapping;
  reading: ReadingChoice;
  source: ShownSource | null;
  schedule: string | null;
  nextAt: number | null;
  lookedAt: number | null;
  trouble: (Failure & { at: number }) | null;
}

/** The feeds with what their last reading brought. */
export async function listFeeds(db: Database): Promise<FeedInfo[]> {
  const now = await inForce(db);
  if (!now) return [];
  const { feed, reading, revision } = now;
  const { key, fileName, readAt, source, schedule, nextAt, lookedAt, trouble } = feed;
  return [
    {
      ...{ key, fileName, readAt, source: showSource(source), schedule, nextAt, lookedAt, trouble },
      counts: reading.counts,
      notices: [...new Set([...(reading.notices ?? []), ...(revision.notices ?? [])])],
      mapping: mappingSchema.parse(feed.mapping),
      reading: readingSchema.parse(feed.reading ?? {}),
    },
  ];
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
  const found = (await inForce(db))?.reading;
  const revision = found?.id ?? 0;
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
      reasons: faultsIn(faults).map((code) => FAULT[code].label),
      cells: JSON.parse(cells) as string[],
    })),
  };
}
