import { eq } from "drizzle-orm";
import { z } from "zod";
import { amountSchema } from "@/core/account/records/basics";
import { formatDay, type Day } from "@/core/kit/days";
import { formatMoney } from "@/core/kit/money";
import { ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { changeLog, monthPlans } from "@/db/schema";
import type { WorkspaceInfo } from "../workspaces";

/** What is planned to be spent in a month, mills, and who said so. */
export type MonthPlan = Pick<typeof monthPlans.$inferSelect, "mills" | "over" | "who" | "at">;

const monthOf = (day: Day) => formatDay(day).slice(0, 7);

/** The plan of the month that a day lies in, or null. */
export async function monthPlan(db: Database, day: Day): Promise<MonthPlan | null> {
  const [row] = await db
    .select()
    .from(monthPlans)
    .where(eq(monthPlans.month, monthOf(day)));
  return row ? { mills: row.mills, over: row.over, who: row.who, at: row.at } : null;
}

export const monthPlanSchema = z.object({
  month: z.string().regex(/^\d{4}-(0[1-9]|1[0-2])$/, "A month such as 2026-06."),
  /** Mills; null takes the plan away. */
  mills: amountSchema.nullable(),
  /** How much more may be spent, per cent. */
  over: z.number().min(0).max(100).default(0),
});

/** Sets what is planned for a month, or takes it away. Nothing of the account changes by it. */
export async function setMonthPlan(
  db: Database,
  info: WorkspaceInfo,
  who: string,
  { month, mills, over }: z.output<typeof monthPlanSchema>,
): Promise<Outcome<{ month: string; mills: number | null; over: number }>> {
  const at = Date.now();
  await db.transaction(async (tx) => {
    const [before] = await tx.select().from(monthPlans).where(eq(monthPlans.month, month));
    if (mills === null) await tx.delete(monthPlans).where(eq(monthPlans.month, month));
    else {
      const row = { mills, over, who, at };
      await tx
        .insert(monthPlans)
        .values({ month, ...row })
        .onConflictDoUpdate({ target: monthPlans.month, set: row });
    }
    const told = (amount: number | null | undefined) => (amount == null ? "none" : formatMoney(amount, info.currency));
    const what = `Plan for ${month}: ${told(before?.mills)} → ${told(mills)}`;
    await tx.insert(changeLog).values({ at, who, what, why: "", place: "budgets" });
  });
  return ok({ month, mills, over });
}
