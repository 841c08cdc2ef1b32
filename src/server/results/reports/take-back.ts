import { and, asc, desc, eq, gt, isNotNull, isNull } from "drizzle-orm";
import { formatDay } from "@/core/kit/days";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { REPORT_LABEL, type ReportKind } from "@/core/results/reports/report-kinds";
import type { Database } from "@/db/client";
import { reportAside, reportImports, reportUnits } from "@/db/schema";
import { noteChange } from "../../workspaces";
import { clearReport, insertReport, noteResults, rollDay } from "../report-store";

/** Puts back what an import replaced, day by day. Safe to repeat: what is put back is no longer remembered. */
export async function takeBackUnits(db: Database, kind: ReportKind, id: number): Promise<number> {
  const units = await db.select().from(reportUnits).where(eq(reportUnits.import, id)).orderBy(asc(reportUnits.day));
  const days = [...new Set(units.map(({ day }) => day))];
  const whole = await db.$client.transaction("write");
  try {
    const { rowsAffected } = await whole.execute({ sql: "DELETE FROM window_facts WHERE import = ?", args: [id] });
    if (rowsAffected > 0) await noteResults(whole);
    await whole.commit();
  } finally {
    whole.close();
  }
  for (const day of days) {
    const tx = await db.$client.transaction("write");
    try {
      for (const unit of units.filter((one) => one.day === day)) {
        await clearReport(tx, kind, day, kind === "store" ? null : unit.campaign);
        await insertReport(tx, kind, unit.before);
      }
      await tx.execute({ sql: "DELETE FROM report_units WHERE import = ? AND day = ?", args: [id, day] });
      await tx.execute({ sql: "DELETE FROM report_arrivals WHERE import = ? AND day = ?", args: [id, day] });
      await rollDay(tx, day);
      await noteResults(tx);
      await tx.commit();
    } finally {
      tx.close();
    }
  }
  return days.length;
}

/** Takes an import back as a whole. Refused while a later one lies over it, since that would be half undone. */
export async function takeBackReport(db: Database, id: number): Promise<Outcome<{ days: number }>> {
  const [found] = await db.select().from(reportImports).where(eq(reportImports.id, id));
  if (!found || found.finishedAt === null) return fail("report-unknown", "There is no such report import.");
  if (found.undoneAt !== null) return fail("report-undone", "That import was taken back already.");
  const own = await db
    .select({ day: reportUnits.day, campaign: reportUnits.campaign })
    .from(reportUnits)
    .where(eq(reportUnits.import, id));
  const keys = new Set(own.map(({ day, campaign }) => `${day}/${campaign}`));
  const later = await db
    .select({
      id: reportImports.id,
      fileName: reportImports.fileName,
      day: reportUnits.day,
      campaign: reportUnits.campaign,
    })
    .from(reportUnits)
    .innerJoin(reportImports, eq(reportImports.id, reportUnits.import))
    .where(and(gt(reportImports.id, id), eq(reportImports.kind, found.kind), isNull(reportImports.undoneAt)))
    .orderBy(desc(reportImports.id));
  const over = later.find(({ day, campaign }) => keys.has(`${day}/${campaign}`));
  if (over) {
    return fail(
      "report-restated",
      `${over.fileName} was read in later and restates ${formatDay(over.day)} of it.`,
      "Take that import back first.",
    );
  }
  const days = await takeBackUnits(db, found.kind, id);
  await db.update(reportImports).set({ undoneAt: Date.now() }).where(eq(reportImports.id, id));
  await noteChange(db, `${REPORT_LABEL[found.kind]} of ${found.fileName} taken back`, "", "results");
  return ok({ days });
}

/** Imports, newest first. */
export async function listReportImports(db: Database) {
  return db
    .select()
    .from(reportImports)
    .where(isNotNull(reportImports.finishedAt))
    .orderBy(desc(reportImports.id))
    .limit(200);
}

/** Rows of an import that were set aside, with reasons. */
export async function reportRowsAside(db: Database, id: number) {
  return db
    .select({ row: reportAside.row, reason: reportAside.reason, cells: reportAside.cells })
    .from(reportAside)
    .where(eq(reportAside.import, id))
    .orderBy(asc(reportAside.id))
    .limit(1000);
}
