import { and, eq } from "drizzle-orm";
import { z } from "zod";
import { daySchema } from "@/core/kit/day-schema";
import { formatDay } from "@/core/kit/days";
import { SLOT_KEYS, SLOT_LABEL } from "@/core/kit/slots";
import { millsToDecimal } from "@/core/kit/money";
import { fail, giveUp, ok, type Outcome } from "@/core/kit/outcome";
import { UNMATCHED_FROM } from "@/core/results/reports/unmatched";
import { guessKind, proposeReportMapping, reportGaps } from "@/core/results/reports/report-mapping";
import {
  REPORT_KINDS,
  REPORT_SHAPE,
  reportMappingSchema,
  type ReportField,
  type ReportKind,
  type DimensionField,
  type ReportMapping,
  type TraitField,
} from "@/core/results/reports/report-kinds";
import type { FeedFormat } from "@/core/catalogue/detect";
import type { Database } from "@/db/client";
import { codes, items, reportMappings } from "@/db/schema";
import { readingSchema, type ReadingChoice } from "../../catalogue/reading/open-feed";
import { knownUpload } from "../../catalogue/uploads";
import { liveAccount } from "../../account/state";
import { enqueueJob, type JobView } from "../../jobs/jobs";
import type { WorkspaceInfo } from "../../workspaces";
import { readReport } from "../report-store";
import { traitValues, type Trait } from "../traits";
import { windowSums } from "../window-rows";
import { checkReportMapping } from "./import-report";
import { newNames, type NewNames } from "./new-names";
import { lookIntoReport } from "./open-report";

const SHOWN_SAMPLES = 4;

/** What was found out about a report file, for the mapping step. */
export interface ReportProposal {
  upload: string;
  kind: ReportKind;
  format: FeedFormat;
  delimiter: string | null;
  encoding: string | null;
  parts: string[];
  part: string | null;
  /** The row of the file that the header stands in; null in formats without one. */
  headerRow: number | null;
  /** What a person chose instead of what was found out. */
  reading: ReadingChoice;
  columns: { name: string; samples: string[] }[];
  mapping: ReportMapping;
  /** Whether the mapping is the one used for these headings before. */
  saved: boolean;
  /** What the mapping lacks, in sentences. */
  gaps: string[];
  /** Campaign names that are not known, one of which may be a known campaign's new name. */
  fresh: NewNames;
}

/** Reads the first rows of an uploaded report and proposes how to read it. `kind` null guesses. */
export async function inspectReport(
  db: Database,
  slug: string,
  upload: string,
  kind: ReportKind | null,
  reading: Partial<ReadingChoice> | null = null,
): Promise<ReportProposal> {
  const file = knownUpload(slug, upload);
  const report = await lookIntoReport(file, reading);
  const { samples } = report;
  const wanted = kind ?? guessKind(report.headings);
  const saved = await savedMapping(db, wanted, report.headings);
  const mapping = saved ?? proposeReportMapping(wanted, report.headings, samples);
  return {
    upload,
    kind: wanted,
    format: report.format,
    delimiter: report.delimiter,
    encoding: report.encoding,
    parts: report.parts,
    part: report.part,
    headerRow: report.headerRow,
    reading: readingSchema.parse(reading ?? {}),
    columns: report.headings.map((name, at) => ({
      name,
      samples: [...new Set(samples.map((cells) => (cells[at] ?? "").trim()).filter((text) => text !== ""))]
        .slice(0, SHOWN_SAMPLES)
        .map((text) => (text.length > 60 ? `${text.slice(0, 59)}…` : text)),
    })),
    mapping,
    saved: saved !== null,
    gaps: reportGaps(wanted, mapping, report.headings),
    fresh: await newNames(db, file, reading, mapping),
  };
}

async function savedMapping(db: Database, kind: ReportKind, headings: string[]): Promise<ReportMapping | null> {
  const [row] = await db
    .select({ mapping: reportMappings.mapping })
    .from(reportMappings)
    .where(and(eq(reportMappings.kind, kind), eq(reportMappings.headings, headings.join("\u001f"))));
  return row ? reportMappingSchema.parse(row.mapping) : null;
}

export const reportStartSchema = z.object({
  upload: z.uuid(),
  fileName: z.string().max(300).default("report"),
  kind: z.enum(REPORT_KINDS),
  /** Left out: the one used for these headings before, or the proposed one. */
  mapping: reportMappingSchema.nullable().default(null),
  reading: readingSchema.partial().nullable().default(null),
  /** The day the file was written; left out: today. */
  written: daySchema.nullable().default(null),
});

/** Queues the reading of an uploaded report. What can be told beforehand is refused at once. */
export async function startReport(
  db: Database,
  info: WorkspaceInfo,
  input: z.output<typeof reportStartSchema>,
): Promise<Outcome<JobView>> {
  const file = knownUpload(info.slug, input.upload);
  const report = await lookIntoReport(file, input.reading);
  const mapping =
    input.mapping ??
    (await savedMapping(db, input.kind, report.headings)) ??
    proposeReportMapping(input.kind, report.headings, report.samples);
  checkReportMapping(input.kind, mapping, report.headings, info.currency);
  const { fileName, kind, reading, written } = input;
  return ok(await enqueueJob(db, "report-import", { file, fileName, kind, mapping, reading, written }));
}

const EXPORT_HEADING: Record<ReportField, string> = {
  day: "day",
  lastDay: "last_day",
  campaign: "campaign",
  campaignId: "campaign_id",
  campaignKind: "campaign_kind",
  adKind: "ad_kind",
  adGroup: "ad_group",
  target: "target",
  matchType: "match_type",
  item: "item_id",
  term: "term",
  placement: "placement",
  placementName: "placement_name",
  placementKind: "placement_kind",
  slot: "slot",
  hour: "hour",
  currency: "currency",
  impressions: "impressions",
  clicks: "clicks",
  cost: "spend",
  orders: "orders",
  units: "units",
  revenue: "sales",
};

export const reportDaysSchema = z.object({ from: daySchema, to: daySchema });

const MOST_DAYS = 400;

/** A kind of report over some days as rows to write to a file, named as the account and catalogue name things. */
export async function exportReport(
  db: Database,
  kind: ReportKind,
  from: number,
  to: number,
): Promise<Outcome<{ headings: string[]; rows: (string | number | null)[][] }>> {
  if (to < from) return fail("days-reversed", "The last day lies before the first.");
  if (to - from >= MOST_DAYS) return fail("days-many", `At most ${MOST_DAYS} days can be written to one file.`);
  const nameOf = await namer(db);
  const { dimensions, counts } = REPORT_SHAPE[kind];
  const told = await toldOf(db, kind);
  const traits = told.map(({ field }) => field);
  const rows: (string | number | null)[][] = [];
  const write = (first: number, last: number, cells: number[]) => {
    const dims = [
      ...dimensions.map((field, i) => nameOf(field, cells[i]!)),
      ...told.map(({ at, values }) => values.get(cells[at]!) ?? ""),
    ];
    const numbers = counts.map((field, i) => {
      const value = cells[dimensions.length + i]!;
      return field === "cost" || field === "revenue" ? millsToDecimal(value) : value;
    });
    rows.push([formatDay(first), formatDay(last), ...dims, ...numbers]);
  };
  for (let day = from; day <= to; day++) {
    for (const [, ...cells] of await readReport(db.$client, kind, day)) write(day, day, cells);
  }
  for (const { span, rows: sums } of await windowSums(db, kind, { from, to })) {
    for (const cells of sums) write(span.from, span.to, cells);
  }
  // Files of single days keep the one column that every reader knows.
  const hasSums = rows.some(([first, last]) => first !== last);
  if (!hasSums) for (const row of rows) row.splice(1, 1);
  const fields = ["day", ...(hasSums ? ["lastDay"] : []), ...dimensions, ...traits, ...counts];
  return ok({ headings: fields.map((field) => EXPORT_HEADING[field as ReportField]), rows });
}

/** The trait that a column of a report says, and of which of the things it is divided by. */
const TRAIT_OF: Record<TraitField, [DimensionField, Trait]> = {
  campaignId: ["campaign", "id"],
  campaignKind: ["campaign", "campaignKind"],
  adKind: ["campaign", "adKind"],
  matchType: ["target", "matchType"],
  placementName: ["placement", "name"],
  placementKind: ["placement", "placementKind"],
};

/** The traits that are known of what a report is divided by: column, place of the dimension in a row, values by code. */
async function toldOf(db: Database, kind: ReportKind) {
  const { dimensions, traits } = REPORT_SHAPE[kind];
  const all = await Promise.all(
    traits.map(async (field) => {
      const [dimension, trait] = TRAIT_OF[field];
      return { field, at: dimensions.indexOf(dimension), values: await traitValues(db, trait) };
    }),
  );
  return all.filter(({ values }) => values.size > 0);
}

/** Names for the numbers in rows of reports. */
async function namer(db: Database): Promise<(field: ReportField, no: number) => string | number> {
  const texts = new Map((await db.select().from(codes)).map((row) => [row.no, row.text]));
  const ids = new Map(
    (await db.selectDistinct({ no: items.itemNo, id: items.itemId }).from(items)).map((row) => [row.no, row.id]),
  );
  const account = await liveAccount(db);
  const names = await traitValues(db, "name");
  const keyName = (key: string) => {
    const record = account.get(key);
    return record && "name" in record ? (record.name ?? key) : key;
  };
  return (field, no) => {
    if (field === "item")
      return no >= UNMATCHED_FROM ? (texts.get(no - UNMATCHED_FROM) ?? "") : (ids.get(no) ?? String(no));
    if (field === "hour") return no;
    if (field === "slot") return SLOT_LABEL[SLOT_KEYS[no]!];
    const text = texts.get(no) ?? giveUp("report-code", "A name of this report is missing.");
    // A keyword's match type has a column of its own, and a renamed campaign the name it has now.
    if (field === "target" || (field === "campaign" && !account.get(text))) return names.get(no) ?? text;
    return field === "campaign" || field === "adGroup" ? keyName(text) : text;
  };
}
