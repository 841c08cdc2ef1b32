import { and, eq, isNull } from "drizzle-orm";
import { z } from "zod";
import { daySchema } from "@/core/kit/day-schema";
import { dayAt, formatDay, parseDay } from "@/core/kit/days";
import { formatCount, plural } from "@/core/kit/format";
import { giveUp } from "@/core/kit/outcome";
import { hashText } from "@/core/kit/random";
import { reportGaps } from "@/core/results/reports/report-mapping";
import {
  COUNT_FIELDS,
  REPORT_KINDS,
  REPORT_LABEL,
  reportMappingSchema,
  REPORT_SHAPE,
  type CountField,
  type ReportCounts,
  type ReportKind,
} from "@/core/results/reports/report-kinds";
import { odditiesOf, reportReader, type Oddity, type ReportLine } from "@/core/results/reports/read-report";
import type { Database } from "@/db/client";
import { marketState, reportAside, reportImports, reportMappings, reportRows } from "@/db/schema";
import { bulkInsert, BULK_ROWS } from "../../bulk";
import { BrokenRow } from "../../catalogue/reading/feed-rows";
import { lookBeforeReading } from "../../catalogue/reading/look";
import { readingSchema, removeFeedFile } from "../../catalogue/reading/open-feed";
import type { JobContext, JobHandler } from "../../jobs/work";
import { noteChange } from "../../workspaces";
import { Coder } from "../coder";
import { leftOutWindows, windowSpan } from "../window-rows";
import { applyDay, stagedDays } from "./apply-report";
import { applyWindows } from "./apply-windows";
import { ReportNames } from "./names";
import { openReport } from "./open-report";
import { takeBackUnits } from "./take-back";

export const reportImportSchema = z.object({
  file: z.string(),
  fileName: z.string().max(300),
  kind: z.enum(REPORT_KINDS),
  mapping: reportMappingSchema,
  reading: readingSchema.partial().nullable().default(null),
  /** The day the file was written, by which it is known how complete its days are; null is today. */
  written: daySchema.nullable().default(null),
});

export type ReportImport = z.infer<typeof reportImportSchema>;

/** Rows set aside that are kept to be looked at. */
const MOST_ASIDE = 5_000;

const ODD_WORDS: Record<Oddity, (rows: string) => string> = {
  "clicks-above-impressions": (rows) => `${rows} with more clicks than impressions; taken as they are.`,
  "orders-without-clicks": (rows) => `${rows} with orders but no click; taken as they are.`,
  "below-zero": (rows) => `${rows} below zero, taken as corrections.`,
};

/** Refuses a mapping that can't be used, before anything is read. @throws FailureError */
export function checkReportMapping(
  kind: ReportKind,
  mapping: ReportImport["mapping"],
  headings: string[],
  currency: string,
): void {
  const gaps = reportGaps(kind, mapping, headings);
  if (gaps.length > 0) {
    giveUp(
      "report-columns",
      `The ${REPORT_LABEL[kind].toLowerCase()} can't be read: ${gaps.join(" ")}`,
      `The file has: ${headings.join(", ").slice(0, 600)}.`,
    );
  }
  if (mapping.currency !== null && mapping.currency !== currency && mapping.rate === null) {
    giveUp(
      "report-currency",
      `The report's money is in ${mapping.currency}, the workspace's in ${currency}; amounts of two currencies are never added up.`,
      `Say how many ${currency} one ${mapping.currency} is worth, or export the report in ${currency}.`,
    );
  }
}

async function run(context: JobContext, raw: unknown): Promise<ReportCounts & { import: number }> {
  const input = reportImportSchema.parse(raw);
  const { db, info } = context;
  const { kind, mapping, fileName } = input;
  await lookBeforeReading(input.file, readingSchema.parse(input.reading ?? {}));
  const report = await openReport(input.file, input.reading);
  checkReportMapping(kind, mapping, report.headings, info.currency);
  const coder = await Coder.load(db);
  const names = await ReportNames.load(db, coder, mapping.renamed);
  const counts: ReportCounts = {
    rows: 0,
    stored: 0,
    totals: 0,
    setAside: 0,
    unmatched: 0,
    restated: 0,
    notices: [],
  };
  const [made] = await db
    .insert(reportImports)
    .values({ kind, fileName, at: Date.now(), job: context.id, mapping, counts })
    .returning();
  const id = made!.id;
  const staged = await stage(context, input, report, names, id, counts);
  if (counts.stored === 0) {
    giveUp(
      "report-nothing-usable",
      `None of the ${plural(counts.rows, "row")} could be taken in. ${staged.firstReason ?? ""}`.trim(),
      "Check which columns are read, the order of day and month, and the decimal mark.",
    );
  }
  const tx = await db.$client.transaction("write");
  try {
    await coder.save(tx);
    await names.traits.save(tx);
    await tx.commit();
  } finally {
    tx.close();
  }
  const days = await stagedDays(db, id);
  const windows = await applyWindows(db, kind, id);
  const [fromDay, toDay] = [
    Math.min(...days, ...windows.map(({ from }) => from)),
    Math.max(...days, ...windows.map(({ to }) => to)),
  ];
  await db.update(reportImports).set({ fromDay, toDay }).where(eq(reportImports.id, id));
  const written = input.written === null ? dayAt(Date.now(), info.timeZone) : parseDay(input.written);
  for (const [done, day] of days.entries()) {
    await context.progress(done, days.length, "days");
    counts.restated += (await applyDay(db, kind, id, day, Math.max(written, toDay))) ? 1 : 0;
  }
  await db.delete(reportRows).where(eq(reportRows.import, id));
  if (windows.length > 0) {
    const spans = windows.slice(0, 3).map(({ from, to }) => `${formatDay(from)} to ${formatDay(to)}`);
    counts.notices.push(
      `${plural(
        windows.reduce((sum, { rows }) => sum + rows, 0),
        "row",
      )} are sums over several days (${spans.join(", ")}${windows.length > 3 ? ", …" : ""}). They count in windows that hold these days whole, and on no single day.`,
    );
    counts.notices.push(...(await countedNowhere(db, kind, id)));
  }
  if (counts.restated > 0) {
    counts.notices.push(`${plural(counts.restated, "day")} had been there before and now hold what this file says.`);
  }
  await db.transaction(async (tx2) => {
    await tx2.update(reportImports).set({ counts, finishedAt: Date.now() }).where(eq(reportImports.id, id));
    const headings = report.headings.join("\u001f");
    await tx2
      .insert(reportMappings)
      .values({ kind, headings, mapping })
      .onConflictDoUpdate({ target: [reportMappings.kind, reportMappings.headings], set: { mapping } });
    const span = `${formatDay(fromDay)} to ${formatDay(toDay)}`;
    await noteChange(tx2, `${REPORT_LABEL[kind]} read in from ${fileName}: ${span}`, "", "results");
  });
  await removeFeedFile(input.file);
  return { ...counts, import: id };
}

/** What of this file's sums, and because of it of other files', counts nowhere. */
async function countedNowhere(db: Database, kind: ReportKind, id: number): Promise<string[]> {
  const span = await windowSpan(db);
  if (!span) return [];
  return (await leftOutWindows(db, kind, span))
    .filter(({ import: file, byImport }) => file === id || byImport === id)
    .map(({ file, from, to, by, campaigns }) =>
      by === null
        ? `Of ${plural(campaigns, "campaign")} the days from ${from} to ${to} are known one by one, and these count: what the file sums over them counts nowhere.`
        : `${file} tells of ${from} to ${to} for ${plural(campaigns, "campaign")} that ${by} tells of too. Both can't be added up: in windows that hold both, ${by} counts.`,
    );
}

/** Reads the rows and puts them where they wait to count. Adds to `counts`. */
async function stage(
  context: JobContext,
  { kind, mapping }: ReportImport,
  report: Awaited<ReturnType<typeof openReport>>,
  names: ReportNames,
  id: number,
  counts: ReportCounts,
): Promise<{ firstReason: string | null }> {
  const { db, info } = context;
  const lastDay = await lastPossibleDay(db, info.timeZone);
  const read = reportReader(kind, mapping, report.headings, info.currency, info.timeZone, lastDay);
  const mapped = new Set(REPORT_SHAPE[kind].counts.filter((field) => mapping.columns[field]) as CountField[]);
  const odd = new Map<Oddity, number>();
  let firstReason: string | null = null;
  let repeated = 0;
  let rows: unknown[][] = [];
  let aside: unknown[][] = [];
  const flush = async () => {
    repeated += await insertStaged(context, rows);
    await bulkInsert(db.$client, reportAside, ["import", "row", "reason", "cells"], aside, ["cells"]);
    rows = [];
    aside = [];
  };
  for await (const batch of report.batches()) {
    for (const [at, cells] of batch.rows.entries()) {
      counts.rows++;
      const result =
        cells instanceof BrokenRow
          ? ({ is: "aside", reason: "The row can't be parted into cells." } as const)
          : read(cells);
      if (result.is === "empty") {
        counts.rows--;
        continue;
      }
      if (result.is === "totals") {
        counts.totals++;
        continue;
      }
      if (result.is === "aside") {
        counts.setAside++;
        firstReason ??= `The first of them: ${result.reason}`;
        const shown = cells instanceof BrokenRow ? [cells.text] : cells;
        if (counts.setAside <= MOST_ASIDE) aside.push([id, batch.numbers[at], result.reason, shown]);
        continue;
      }
      for (const oddity of odditiesOf(result.line, mapped)) odd.set(oddity, (odd.get(oddity) ?? 0) + 1);
      const before = names.unmatched.size;
      rows.push([id, hashOf(cells as string[]), ...stagedRow(kind, result.line, names)]);
      if (names.unmatched.size > before || isUnmatched(kind, result.line, names)) counts.unmatched++;
      counts.stored++;
      if (rows.length >= BULK_ROWS) await flush();
    }
    await context.progress(counts.rows, batch.share > 0.01 ? Math.round(counts.rows / batch.share) : null, "rows");
  }
  await flush();
  counts.stored -= repeated;
  if (repeated > 0)
    counts.notices.push(`${plural(repeated, "row")} stood in the file twice, cell by cell, and count once.`);
  if (counts.totals > 0) counts.notices.push(`${plural(counts.totals, "row")} with totals left out.`);
  if (names.unmatched.size > 0) {
    const some = [...names.unmatched].slice(0, 3).join(", ");
    counts.notices.push(
      `${plural(names.unmatched.size, "item ID")} the catalogue does not have (${some}${names.unmatched.size > 3 ? ", …" : ""}); their ${plural(counts.unmatched, "row")} count under the ID.`,
    );
  }
  for (const [oddity, n] of odd)
    counts.notices.push(ODD_WORDS[oddity](`${formatCount(n)} ${n === 1 ? "row" : "rows"}`));
  return { firstReason };
}

/** The last day a report can be of: today, wherever on earth it is written, or the test market's, which may be ahead. */
async function lastPossibleDay(db: Database, timeZone: string): Promise<number> {
  const [market] = await db.select({ day: marketState.day }).from(marketState);
  return Math.max(dayAt(Date.now(), timeZone) + 1, market?.day ?? 0);
}

function isUnmatched(kind: ReportKind, line: ReportLine, names: ReportNames): boolean {
  return (kind === "item" || kind === "store") && names.unmatched.has(line.dimensions.item);
}

function hashOf(cells: string[]): string {
  const text = cells.join("\u001f");
  const first = hashText(text);
  return first.toString(36) + hashText(text, first).toString(36);
}

/** A line as staged: day, last day of a sum over several, campaign, what else it is told apart by, counts. */
function stagedRow(kind: ReportKind, line: ReportLine, names: ReportNames): number[] {
  const { day, lastDay, dimensions, counts } = line;
  const numbers = COUNT_FIELDS.map((field) => counts[field]);
  const last = lastDay > day ? lastDay : 0;
  if (kind === "store") return [day, last, 0, names.item(dimensions.item), 0, 0, ...numbers];
  const campaign = names.campaign(line);
  const adGroup = () => names.adGroup(campaign.key, dimensions.adGroup);
  const aim = (last: number): [number, number, number] => {
    const { key, code } = adGroup();
    return [code, names.target(key, line), last];
  };
  const rest = (): [number, number, number] => {
    switch (kind) {
      case "item":
        return aim(names.item(dimensions.item));
      case "term":
        return aim(names.term(dimensions.term));
      case "slot":
        return [adGroup().code, Number(dimensions.slot), 0];
      case "hour":
        return [Number(dimensions.hour), 0, 0];
      case "placement":
        return [names.placement(line), 0, 0];
    }
  };
  return [day, last, campaign.code, ...rest(), ...numbers];
}

/** Stores rows that wait. @returns how many had stood there already, cell by cell */
async function insertStaged({ db }: JobContext, rows: unknown[][]): Promise<number> {
  if (rows.length === 0) return 0;
  const columns = ["import", "hash", "day", "last_day", "campaign", "b", "c", "d", ...COUNT_FIELDS];
  const { rowsAffected } = await db.$client.execute({
    sql: `INSERT OR IGNORE INTO report_rows (${columns.join(", ")}) SELECT ${columns.map((_, i) => `value ->> ${i}`).join(", ")} FROM json_each(?)`,
    args: [JSON.stringify(rows)],
  });
  return rows.length - rowsAffected;
}

/** Takes back what a run that did not come to its end has put in force, and forgets it. */
async function rollBack({ db, id }: JobContext): Promise<void> {
  const open = await db
    .select()
    .from(reportImports)
    .where(and(eq(reportImports.job, id), isNull(reportImports.finishedAt)));
  for (const { id: no, kind } of open) {
    await takeBackUnits(db, kind, no);
    await db.delete(reportRows).where(eq(reportRows.import, no));
    await db.delete(reportAside).where(eq(reportAside.import, no));
    await db.delete(reportImports).where(eq(reportImports.id, no));
  }
}

export const reportImport: JobHandler = { run, rollBack };
