import { Readable } from "node:stream";
import type { ReadableStream } from "node:stream/web";
import { CONTRACT, type Channel, type ReportKind } from "@/core/dispatch/contract";
import { dayAt, formatDay, parseDay } from "@/core/kit/days";
import { plural } from "@/core/kit/format";
import { FailureError } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { channelState } from "@/db/schema";
import { storeUpload } from "../catalogue/uploads";
import { channelChoice } from "../channel/choice";
import { enqueueJob, isResting } from "../jobs/jobs";
import type { JobContext, JobHandler } from "../jobs/work";
import { resultDays } from "../results/load";
import { startReport } from "../results/reports/reports";
import { noteChange, type WorkspaceInfo } from "../workspaces";
import { channelOf } from "./channel-of";

/** Days before the last known one that are asked for again: orders come in after their click. */
const AGAIN_DAYS = 14;
/** Days that are asked for where none is known. */
const FIRST_DAYS = 90;

interface GotReports {
  from: string;
  to: string;
  /** Rows of each kind. */
  rows: Partial<Record<ReportKind, number>>;
}

/** The rows of a report as they come, counted on the way. */
async function* counted(parts: AsyncIterable<Uint8Array>, count: { lines: number }): AsyncGenerator<Uint8Array> {
  let last = 10;
  for await (const part of parts) {
    for (const byte of part) if (byte === 10) count.lines++;
    last = part.at(-1) ?? last;
    yield part;
  }
  if (last !== 10) count.lines++;
}

async function fetchReport(
  { db, info }: JobContext,
  channel: Channel,
  name: string,
  kind: ReportKind,
  from: string,
  to: string,
): Promise<number> {
  const count = { lines: 0 };
  const body = Readable.toWeb(Readable.from(counted(channel.report(kind, from, to), count)));
  const upload = await storeUpload(info.slug, body as ReadableStream<Uint8Array>);
  const rows = Math.max(0, count.lines - 1);
  if (rows === 0) return 0;
  const fileName = `${name}, ${from} to ${to}`;
  const written = formatDay(dayAt(Date.now(), info.timeZone));
  const started = await startReport(db, info, { upload, fileName, kind, mapping: null, reading: null, written });
  if (!started.ok) throw new FailureError(started.error);
  return rows;
}

async function run(context: JobContext): Promise<GotReports | null> {
  const { db, info, progress } = context;
  const { kind, channel } = await channelOf(db, info);
  if (kind !== "http") return null;
  const about = await channel.about();
  const today = dayAt(Date.now(), info.timeZone);
  const days = await resultDays(db);
  const first = days ? Math.min(days.to + 1 - AGAIN_DAYS, today - 1) : today - FIRST_DAYS;
  const [from, to] = [formatDay(first), formatDay(today - 1)];
  const rows: GotReports["rows"] = {};
  for (const [done, report] of about.reports.entries()) {
    await progress(done, about.reports.length, "reports");
    rows[report] = await fetchReport(context, channel, about.name, report, from, to);
  }
  await db.update(channelState).set({ reportsOn: formatDay(today), about });
  const all = Object.values(rows).reduce((sum, count) => sum + count, 0);
  await noteChange(db, `Reports of ${about.name} asked for, ${from} to ${to}: ${plural(all, "row")}`, "", "results");
  return { from, to, rows };
}

/** Asks the channel for its reports; each is then read in like a file, and can be taken back like one. */
export const channelReportsJob: JobHandler = { run, rollBack: async () => {} };

/** Queues asking for reports, once a day. */
export async function queueDueReports(db: Database, info: WorkspaceInfo): Promise<void> {
  const { kind, about } = await channelChoice(db);
  if (kind !== "http" || !about || about.contract !== CONTRACT || about.reports.length === 0) return;
  const [state] = await db.select({ on: channelState.reportsOn }).from(channelState);
  const today = dayAt(Date.now(), info.timeZone);
  if (state?.on && parseDay(state.on) >= today) return;
  if (await isResting(db, "channel-reports")) return;
  await enqueueJob(db, "channel-reports", {});
}
