import type { Transaction } from "@libsql/client";
import { and, asc, eq } from "drizzle-orm";
import { COUNT_FIELDS, type ReportKind } from "@/core/results/reports/report-kinds";
import type { Database } from "@/db/client";
import { reportRows } from "@/db/schema";
import { clearReport, insertReport, noteResults, readReport, REPORT_TABLES, rollDay } from "../report-store";

/** The days that an import's waiting rows are about, in order. */
export async function stagedDays(db: Database, id: number): Promise<number[]> {
  const rows = await db
    .selectDistinct({ day: reportRows.day })
    .from(reportRows)
    .where(and(eq(reportRows.import, id), eq(reportRows.lastDay, 0)))
    .orderBy(asc(reportRows.day));
  return rows.map(({ day }) => day);
}

/**
 * Puts one day of an import in force, in one transaction. What the file says of a campaign on a day replaces all that
 * was known of it by reports of that kind, and is kept so that the import can be taken back. So a file read in twice,
 * or one that overlaps another, counts nothing twice, and a later file restates an earlier one.
 * @param written the day the file was written: how old the day was then
 * @returns whether anything was replaced
 */
export async function applyDay(
  db: Database,
  kind: ReportKind,
  id: number,
  day: number,
  written: number,
): Promise<boolean> {
  const keys = REPORT_TABLES[kind].keys.length - (kind === "store" ? 0 : 1);
  const sums = COUNT_FIELDS.map((field) => `sum(${field})`).join(", ");
  const tx = await db.$client.transaction("write");
  try {
    const { rows } = await tx.execute({
      sql: `SELECT campaign, b, c, d, ${sums} FROM report_rows WHERE import = ? AND day = ? AND last_day = 0 GROUP BY campaign, b, c, d`,
      args: [id, day],
    });
    const campaigns = new Set(rows.map((row) => Number(row[0])));
    let isReplaced = false;
    const seen = { before: 0, after: 0, revenue: 0 };
    for (const campaign of campaigns) {
      const scope = kind === "store" ? null : campaign;
      const before = await readReport(tx, kind, day, scope);
      if (before.length > 0) isReplaced = true;
      if (kind === "item") {
        // A campaign that was not known on that day brings all its orders at once; they did not come late.
        const now = rows.filter((row) => Number(row[0]) === campaign);
        if (before.length > 0) {
          seen.before += sum(before.map((row) => row.at(-3)!));
          seen.after += sum(now.map((row) => Number(row[7])));
          seen.revenue += sum(now.map((row) => Number(row[9]))) - sum(before.map((row) => row.at(-1)!));
        }
      }
      await tx.execute({
        sql: "INSERT INTO report_units (import, day, campaign, before) VALUES (?, ?, ?, ?)",
        args: [id, day, campaign, JSON.stringify(before)],
      });
      await clearReport(tx, kind, day, scope);
    }
    await insertReport(
      tx,
      kind,
      rows.map((row) => {
        const rest = [1, 2, 3].slice(0, keys).map((i) => Number(row[i]));
        // Orders and units come in parts where a platform shares them out among clicks; they are kept so.
        const counts = COUNT_FIELDS.map((field, i) =>
          field === "orders" || field === "units" ? Number(row[4 + i]) : Math.round(Number(row[4 + i])),
        );
        return kind === "store" ? [day, ...rest, ...counts.slice(3)] : [day, Number(row[0]), ...rest, ...counts];
      }),
    );
    if (kind === "item") {
      const isFirst = !isReplaced && (await arrivalsOf(tx, day)) === 0;
      const all = { orders: sum(rows.map((row) => Number(row[7]))), revenue: sum(rows.map((row) => Number(row[9]))) };
      const late = { orders: seen.after - seen.before, revenue: seen.revenue };
      await noteArrivals(tx, id, day, written - day, isFirst ? all : late);
    }
    await rollDay(tx, day);
    await noteResults(tx);
    await tx.commit();
    return isReplaced;
  } finally {
    tx.close();
  }
}

function sum(values: number[]): number {
  return values.reduce((total, value) => total + value, 0);
}

/** How many files have told of a day. */
async function arrivalsOf(tx: Transaction, day: number): Promise<number> {
  const { rows } = await tx.execute({ sql: "SELECT count(*) FROM report_arrivals WHERE day = ?", args: [day] });
  return Number(rows[0]![0]);
}

/** Notes what a file added to a day that it saw at an age, so that it can be learned how days fill up. */
async function noteArrivals(
  tx: Transaction,
  id: number,
  day: number,
  age: number,
  { orders, revenue }: { orders: number; revenue: number },
): Promise<void> {
  await tx.execute({
    sql: "INSERT OR REPLACE INTO report_arrivals (import, day, age, orders, revenue) VALUES (?, ?, ?, ?, ?)",
    args: [id, day, Math.max(0, age), orders, Math.round(revenue)],
  });
}
