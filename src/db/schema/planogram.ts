import { integer, sqliteTable, text } from "drizzle-orm/sqlite-core";
import type { Planogram } from "@/core/planogram/planogram";
import type { StructureRecord } from "@/core/planogram/structure";

export const planograms = sqliteTable("planograms", {
  key: text().primaryKey(),
  definition: text({ mode: "json" }).notNull().$type<Planogram>(),
  savedAt: integer("saved_at").notNull(),
  appliedAt: integer("applied_at"),
});

/** The account as the channel has it. */
export const records = sqliteTable("records", {
  key: text().primaryKey(),
  type: text().notNull(),
  body: text({ mode: "json" }).notNull().$type<StructureRecord>(),
});
