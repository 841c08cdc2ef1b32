import type { Transaction } from "@libsql/client";
import { asc, eq } from "drizzle-orm";
import { COUNT_FIELDS, type ReportKind } from "@/core/results/reports/report-kinds";
import type { Database } from "@/db/client";
import { reportRows } from "@/db/schema";
import { clearReport, insertReport, noteResults, readReport, REPORT_TABLES, rollDay } from "../report-store";

/** The days that an import's waiting rows are about, in order. */
export async function stagedDays(db: Database, id: number): Promise<number[]> {
  const rows = await db
    .selectDistinct({ day: reportRows.day })
    .from(reportRows)
    .where(eq(reportRows.import, id))
    .orderBy(asc(reportRows.day));
  return rows.map(({ day }) => day);
}

/**
 * Puts one day of an import in force, in one transaction. What the file says of a campaign on a day replaces all that
 * was known of it by reports of that kind, and is kept so that the import can be taken back. So a file read in twice,
 * or one that overlaps another, counts nothing twice, and a later file restates an earlier one.
 * @param asOf the last day of the file: how old the day was when it was written
 * @returns whether anything was replaced
 */
export async function applyDay(
  db: Database,
  kind: ReportKind,
  id: number,
  day: number,
  asOf: number,
): Promise<boolean> {
  const keys = REPORT_TABLES[kind].keys.length - (kind === "store" ? 0 : 1);
  const sums = COUNT_FIELDS.map((field) => `sum(${field})`).join(", ");
  const tx = await db.$client.transaction("write");
  try {
    const { rows } = await tx.execute({
      sql: `SELECT campaign, b, c, d, ${sums} FROM report_rows WHERE import = ? AND day = ? GROUP BY campaign, b, c, d`,
      args: [id, day],
    });
    const campaigns = new Set(rows.map((row) => Number(row[0])));
    let isReplaced = false;
    const seen = kind === "item" ? await daySales(tx, day) : null;
    for (const campaign of campaigns) {
      const scope = kind === "store" ? null : campaign;
      const before = await readReport(tx, kind, day, scope);
      if (before.length > 0) isReplaced = true;
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
        const counts = COUNT_FIELDS.map((_, i) => Math.round(Number(row[4 + i])));
        return kind === "store" ? [day, ...rest, ...counts.slice(3)] : [day, Number(row[0]), ...rest, ...counts];
      }),
    );
    if (seen) await noteArrivals(tx, day, asOf - day, seen);
    await rollDay(tx, day);
    await noteResults(tx);
    await tx.commit();
    return isReplaced;
  } finally {
    tx.close();
  }
}

/** Orders and sales of a day by the item report. */
export async function daySales(tx: Transaction, day: number): Promise<{ orders: number; revenue: number }> {
  const { rows } = await tx.execute({
    sql: "SELECT coalesce(sum(orders), 0), coalesce(sum(revenue), 0) FROM item_facts WHERE day = ?",
    args: [day],
  });
  return { orders: Number(rows[0]![0]), revenue: Number(rows[0]![1]) };
}

/** Notes what came to a day at an age since `before`, so that it can be learned how days fill up. */
export async function noteArrivals(
  tx: Transaction,
  day: number,
  age: number,
  before: { orders: number; revenue: number },
): Promise<void> {
  const now = await daySales(tx, day);
  await tx.execute({
    sql: `INSERT INTO order_arrivals (day, age, orders, revenue) VALUES (?, ?, ?, ?)
      ON CONFLICT (day, age) DO UPDATE SET orders = orders + excluded.orders, revenue = revenue + excluded.revenue`,
    args: [day, Math.max(0, age), now.orders - before.orders, now.revenue - before.revenue],
  });
}
