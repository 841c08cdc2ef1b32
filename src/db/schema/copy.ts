import { integer, primaryKey, sqliteTable, text } from "drizzle-orm/sqlite-core";
import type { CopyPlan } from "@/core/copy/copy-plan";
import type { Cause } from "@/core/copy/faults";

/** Copy plans. What each last wanted of the account is kept with its structure, among planograms. */
export const copyPlans = sqliteTable("copy_plans", {
  key: text().primaryKey(),
  definition: text({ mode: "json" }).notNull().$type<CopyPlan>(),
  savedAt: integer("saved_at").notNull(),
});

/** Texts of a plan that somebody let pass in the proof, each for one cause. */
export const copyApprovals = sqliteTable(
  "copy_approvals",
  {
    plan: text().notNull(),
    cause: text().notNull().$type<Cause>(),
    text: text().notNull(),
    who: text().notNull(),
    at: integer().notNull(),
  },
  ({ plan, cause, text }) => [primaryKey({ columns: [plan, cause, text] })],
);
