import type { Window } from "@/core/kit/days";
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

async function spansIn(db: Database, kind: ReportKind, window: Window): Promise<Span[]> {
  const { rows } = await db.$client.execute({
    sql: `SELECT DISTINCT campaign, from_day, to_day, import FROM window_facts
      WHERE kind = ? AND from_day >= ? AND to_day <= ? ORDER BY import DESC, from_day`,
    args: [kind, window.from, window.to],
  });
  const kept: Span[] = [];
  for (const row of rows) {
    const [campaign, from, to, file] = [0, 1, 2, 3].map((at) => Number(row[at])) as [number, number, number, number];
    const isCovered = kept.some(
      (span) => span.campaign === campaign && span.import !== file && span.from <= to && span.to >= from,
    );
    if (isCovered || (await isKnownByDay(db, kind, campaign, { from, to }))) continue;
    kept.push({ campaign, from, to, import: file });
  }
  return kept;
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
