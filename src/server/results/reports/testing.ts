import { proposeReportMapping } from "@/core/results/reports/report-mapping";
import type { ReportCounts, ReportKind, ReportMapping } from "@/core/results/reports/report-kinds";
import type { Database } from "@/db/client";
import { viewSlice, type Slice } from "../../across/results/slice";
import { sliceSchema } from "../../across/results/slice-query";
import type { JobView } from "../../jobs/jobs";
import { feedFile, importFeed, runToEnd, testWorkspace } from "../../testing";
import type { WorkspaceInfo } from "../../workspaces";
import { lookIntoReport } from "./open-report";

export interface Workspace {
  db: Database;
  info: WorkspaceInfo;
}

const FEED = "id,title,price,brand,category\n001,Rake,12,A,Tools\n002,Hoe,9,A,Tools\nQ-3,Spade,20,B,Tools\n";

/** A workspace with three items: 001, 002 and Q-3. */
export async function shop(): Promise<Workspace> {
  const workspace = await testWorkspace();
  await importFeed(workspace, FEED);
  return workspace;
}

/** Reads a report in with the mapping that is proposed, changed as asked. */
export async function read(
  { db, info }: Workspace,
  kind: ReportKind,
  content: string | Uint8Array,
  change: Partial<ReportMapping> = {},
  { fileName = "report.csv", written = null }: { fileName?: string; written?: string | null } = {},
): Promise<JobView> {
  const file = feedFile(content);
  const report = await lookIntoReport(file, null);
  const mapping = { ...proposeReportMapping(kind, report.headings, report.samples), ...change };
  return runToEnd(db, info, "report-import", { file, fileName, kind, mapping, reading: null, written });
}

/** What became of a report's rows. */
export const counts = (job: JobView) => job.result as ReportCounts & { import: number };

/** Results as a screen asks for them. @throws when the question is refused */
export async function look({ db, info }: Workspace, query: object): Promise<Slice> {
  const outcome = await viewSlice(db, info, sliceSchema.parse({ ...query, compare: "none" }));
  if (!outcome.ok) throw new Error(outcome.error.message);
  return outcome.value;
}
