import { formatDay, type Window } from "@/core/kit/days";
import { COUNT_FIELDS, type ReportKind } from "@/core/results/reports/report-kinds";
import type { Database } from "@/db/client";
import { getTableName } from "drizzle-orm";
import { REPORT_TABLES } from "./report-store";

/** A campaign's sum over some days by one file. */
interface Span {
  campaign: number;
  from: number;
  to: number;
  import: number;
}

/**
 * The rows of a kind that are sums over several days and lie whole within a window, span by span, as `reportColumns` orders
 * them without the day. Of files that overlap for a campaign the latest counts; where its days are known one by one, these
 * count.
 */
export async function windowSums(
  db: Database,
  kind: ReportKind,
  window: Window,
): Promise<{ span: Window; rows: number[][] }[]> {
  const keys = REPORT_TABLES[kind].keys.length - (kind === "store" ? 0 : 1);
  const found: { span: Window; rows: number[][] }[] = [];
  for (const span of await spansIn(db, kind, window)) {
    const { rows } = await db.$client.execute({
      sql: `SELECT campaign, b, c, d, ${COUNT_FIELDS.join(", ")} FROM window_facts
        WHERE kind = ? AND import = ? AND campaign = ? AND from_day = ? AND to_day = ?`,
      args: [kind, span.import, span.campaign, span.from, span.to],
    });
    found.push({
      span,
      rows: rows.map((row) => {
        const cells = Array.from({ length: 4 + COUNT_FIELDS.length }, (_, i) => Number(row[i]));
        const [rest, counts] = [cells.slice(1, 1 + keys), cells.slice(4)];
        return kind === "store" ? [...rest, ...counts.slice(3)] : [cells[0]!, ...rest, ...counts];
      }),
    });
  }
  return found;
}

/** The same rows, whichever span they are of. */
export async function windowRows(db: Database, kind: ReportKind, window: Window): Promise<number[][]> {
  return (await windowSums(db, kind, window)).flatMap(({ rows }) => rows);
}

/** Whether there are any. */
export async function hasWindowRows(db: Database, kind: ReportKind, window: Window): Promise<boolean> {
  return (await spansIn(db, kind, window)).length > 0;
}

/** A span that counts nowhere, and why: its days are known one by one, or another file tells of some of them. */
interface LeftSpan extends Span {
  /** The file that counts in its place; null where its days do. */
  by: number | null;
}

async function spansIn(db: Database, kind: ReportKind, window: Window): Promise<Span[]> {
  return (await sortedOut(db, kind, window)).kept;
}

async function sortedOut(db: Database, kind: ReportKind, window: Window): Promise<{ kept: Span[]; left: LeftSpan[] }> {
  const { rows } = await db.$client.execute({
    sql: `SELECT DISTINCT campaign, from_day, to_day, import FROM window_facts
      WHERE kind = ? AND from_day >= ? AND to_day <= ? ORDER BY import DESC, from_day`,
    args: [kind, window.from, window.to],
  });
  const kept: Span[] = [];
  const left: LeftSpan[] = [];
  for (const row of rows) {
    const [campaign, from, to, file] = [0, 1, 2, 3].map((at) => Number(row[at])) as [number, number, number, number];
    const span = { campaign, from, to, import: file };
    const by = kept.find((one) => one.campaign === campaign && one.import !== file && one.from <= to && one.to >= from);
    if (by) left.push({ ...span, by: by.import });
    else if (await isKnownByDay(db, kind, campaign, { from, to })) left.push({ ...span, by: null });
    else kept.push(span);
  }
  return { kept, left };
}

/** Sums over several days that lie in a window and count nowhere in it. */
export interface LeftOut {
  /** The import, and the file that it read in. */
  import: number;
  file: string;
  from: string;
  to: string;
  /** The file that counts in its place; null where the days of these campaigns are known one by one. */
  by: string | null;
  byImport: number | null;
  campaigns: number;
}

/** Which sums over several days count nowhere in a window, so that none is dropped without a word. */
export async function leftOutWindows(db: Database, kind: ReportKind, window: Window): Promise<LeftOut[]> {
  const { left } = await sortedOut(db, kind, window);
  if (left.length === 0) return [];
  const { rows } = await db.$client.execute("SELECT id, file_name FROM report_imports");
  const names = new Map(rows.map((row) => [Number(row[0]), String(row[1])]));
  const found = new Map<string, LeftOut>();
  for (const { campaign: _, from, to, import: file, by } of left) {
    const key = `${file}/${from}/${to}/${by ?? ""}`;
    const one = found.get(key) ?? {
      ...{ import: file, byImport: by, file: names.get(file) ?? "a file", from: formatDay(from), to: formatDay(to) },
      ...{ by: by === null ? null : (names.get(by) ?? "another file"), campaigns: 0 },
    };
    one.campaigns++;
    found.set(key, one);
  }
  return [...found.values()];
}

async function isKnownByDay(db: Database, kind: ReportKind, campaign: number, { from, to }: Window): Promise<boolean> {
  const own = kind === "store" ? "" : " AND campaign = ?";
  const { rows } = await db.$client.execute({
    sql: `SELECT 1 FROM ${getTableName(REPORT_TABLES[kind].table)} WHERE day BETWEEN ? AND ?${own} LIMIT 1`,
    args: kind === "store" ? [from, to] : [from, to, campaign],
  });
  return rows.length > 0;
}

/** The first and last day of all sums over several days; null where there are none. */
export async function windowSpan(db: Database): Promise<Window | null> {
  const { rows } = await db.$client.execute(
    "SELECT (SELECT min(from_day) FROM window_facts), (SELECT max(to_day) FROM window_facts)",
  );
  const [from, to] = [rows[0]![0], rows[0]![1]];
  return from == null || to == null ? null : { from: Number(from), to: Number(to) };
}
