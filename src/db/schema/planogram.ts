import { blob, integer, sqliteTable, text } from "drizzle-orm/sqlite-core";
import type { Planogram } from "@/core/planogram/planogram";

export const planograms = sqliteTable("planograms", {
  key: text().primaryKey(),
  definition: text({ mode: "json" }).notNull().$type<Planogram>(),
  savedAt: integer("saved_at").notNull(),
  appliedAt: integer("applied_at"),
  /** The records as the last plan that was sent wanted them, as gzipped JSON: what a new plan is merged against. */
  lastPlan: blob("last_plan", { mode: "buffer" }),
  /** The same of a plan that lies in the basket, and the part it lies in: it counts once that part is sent. */
  waitingPlan: blob("waiting_plan", { mode: "buffer" }),
  waitingPart: integer("waiting_part"),
});
