import { csv, xlsx } from "../../files/answers";
import { z } from "zod";
import { parseDay } from "@/core/kit/days";
import { ok } from "@/core/kit/outcome";
import { REPORT_KINDS, REPORT_SHAPE, type ReportKind } from "@/core/results/reports/report-kinds";
import { takeUpload } from "../../catalogue/uploads";
import { enqueueJob } from "../../jobs/jobs";
import {
  exportReport,
  inspectReport,
  reportDaysSchema,
  reportStartSchema,
  startReport,
} from "../../results/reports/reports";
import { listReportImports, reportRowsAside } from "../../results/reports/take-back";
import { inWorkspace, pathNumber, type BoundEndpoint } from "../endpoint";
import { choiceIn, jobAnswer, readingQuerySchema } from "./shared";

const kindSchema = z.enum(REPORT_KINDS);
const inspectQuery = readingQuerySchema.extend({ kind: kindSchema.optional() });

/** A report over some days as headings and rows; its name without ending. */
async function exported(db: Parameters<typeof exportReport>[0], kind: ReportKind, query: { from: string; to: string }) {
  return exportReport(db, kind, parseDay(query.from), parseDay(query.to));
}

/** Operations on reports: reading files in, taking them back, writing them out. */
export const reportEndpoints: BoundEndpoint[] = [
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "report-kinds",
      summary: "Kinds of report, what each is divided by and must have.",
    },
    async () => ok(REPORT_SHAPE),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "report-uploads",
      heavy: true,
      summary: "Store a report file (raw body) and propose how it is read.",
      query: inspectQuery,
      rawBody: true,
      status: 201,
    },
    async ({ db, info, query, raw }) => {
      const look = (upload: string) => inspectReport(db, info.slug, upload, query.kind ?? null, choiceIn(query));
      return ok(await takeUpload(info.slug, raw, look, true));
    },
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "report-uploads/{upload}",
      heavy: true,
      summary: "Look at an uploaded report again, as another kind, part or delimiter.",
      query: inspectQuery,
    },
    async ({ db, info, path, query }) => {
      const upload = z.uuid().parse(path["upload"]);
      return ok(await inspectReport(db, info.slug, upload, query.kind ?? null, choiceIn(query)));
    },
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "report-imports",
      heavy: true,
      summary: "Take in an uploaded report with a mapping, as a job.",
      body: reportStartSchema,
      status: 202,
    },
    async ({ db, info, body }) => jobAnswer(await startReport(db, info, body)),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "reports/{kind}",
      heavy: true,
      summary: "Take in a report file (raw body) with the mapping used before for its headings, or the proposed one.",
      query: z.object({ fileName: z.string().max(200).default("report") }),
      rawBody: true,
      status: 202,
    },
    async ({ db, info, path, query, raw }) => {
      const kind = kindSchema.parse(path["kind"]);
      const start = (upload: string) =>
        startReport(db, info, reportStartSchema.parse({ upload, kind, fileName: query.fileName }));
      return jobAnswer(await takeUpload(info.slug, raw, start, true));
    },
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "report-imports",
      heavy: true,
      summary: "Report files read in, newest first.",
    },
    async ({ db }) => ok(await listReportImports(db)),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "report-imports/{id}/aside",
      heavy: true,
      summary: "Rows of a report that were set aside, with reasons.",
    },
    async ({ db, path }) => ok(await reportRowsAside(db, pathNumber(path, "id"))),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "report-imports/{id}/take-back",
      summary: "Take a report file back as a whole, as a job.",
      status: 202,
    },
    async ({ db, path }) => ok({ job: (await enqueueJob(db, "report-undo", { import: pathNumber(path, "id") })).id }),
  ),
  ...REPORT_KINDS.flatMap((kind) => [
    inWorkspace(
      {
        method: "GET",
        role: "viewer",
        path: `reports/${kind}.csv`,
        summary: `The ${kind} report over some days.`,
        query: reportDaysSchema,
      },
      async ({ db, query }) => {
        const outcome = await exported(db, kind, query);
        return outcome.ok ? csv(`${kind}-report.csv`, outcome.value.headings, outcome.value.rows) : outcome;
      },
    ),
    inWorkspace(
      {
        method: "GET",
        role: "viewer",
        path: `reports/${kind}.xlsx`,
        summary: "The same as a workbook.",
        query: reportDaysSchema,
      },
      async ({ db, query }) => {
        const outcome = await exported(db, kind, query);
        return outcome.ok ? xlsx(`${kind}-report.xlsx`, outcome.value.headings, outcome.value.rows) : outcome;
      },
    ),
  ]),
];
