import { COUNT_FIELDS, type ReportKind } from "@/core/results/reports/report-kinds";
import type { Database } from "@/db/client";
import { noteResults } from "../report-store";

/**
 * Puts an import's rows that are sums over several days in force, in one transaction.
 * @returns the windows they are of, and how many rows each has
 */
export async function applyWindows(
  db: Database,
  kind: ReportKind,
  id: number,
): Promise<{ from: number; to: number; rows: number }[]> {
  // Sums of money are whole mills; orders and units may come in parts.
  const sums = COUNT_FIELDS.map((field) =>
    field === "orders" || field === "units" ? `sum(${field})` : `round(sum(${field}))`,
  );
  const tx = await db.$client.transaction("write");
  try {
    await tx.execute({
      sql: `INSERT INTO window_facts (import, kind, from_day, to_day, campaign, b, c, d, ${COUNT_FIELDS.join(", ")})
        SELECT import, ?, day, last_day, campaign, b, c, d, ${sums.join(", ")} FROM report_rows
        WHERE import = ? AND last_day > 0 GROUP BY day, last_day, campaign, b, c, d`,
      args: [kind, id],
    });
    const { rows } = await tx.execute({
      sql: "SELECT from_day, to_day, count(*) FROM window_facts WHERE import = ? GROUP BY from_day, to_day ORDER BY 1, 2",
      args: [id],
    });
    if (rows.length > 0) await noteResults(tx);
    await tx.commit();
    return rows.map((row) => ({ from: Number(row[0]), to: Number(row[1]), rows: Number(row[2]) }));
  } finally {
    tx.close();
  }
}
