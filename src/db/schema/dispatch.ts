import { index, integer, primaryKey, sqliteTable, text } from "drizzle-orm/sqlite-core";
import type { StructureRecord } from "@/core/planogram/structure";

const before = () => text("before", { mode: "json" }).$type<StructureRecord>();
const after = () => text("after", { mode: "json" }).$type<StructureRecord>();

/** Changes decided but not yet sent: one row a record, from what the channel has to what it shall have. */
export const basket = sqliteTable("basket", {
  /** Rises with every change, so that the newest number and the count tell whether the basket is as it was. */
  id: integer().primaryKey({ autoIncrement: true }),
  key: text().notNull().unique(),
  before: before(),
  after: after(),
  /** Where the change was decided, and why. */
  source: text().notNull(),
  reason: text().notNull(),
  at: integer().notNull(),
});

export const dispatches = sqliteTable("dispatches", {
  id: integer().primaryKey({ autoIncrement: true }),
  job: text().notNull(),
  state: text({ enum: ["sending", "sent", "failed"] }).notNull(),
  createdAt: integer("created_at").notNull(),
  sentAt: integer("sent_at"),
  /** The day from which the channel works with it. */
  fromDay: integer("from_day"),
  size: integer().notNull(),
  words: text({ mode: "json" }).notNull().$type<string[]>(),
  /** The dispatch that this one takes back, or that took this one back. */
  takesBack: integer("takes_back"),
  takenBackBy: integer("taken_back_by"),
});

export const dispatchChanges = sqliteTable(
  "dispatch_changes",
  {
    dispatch: integer().notNull(),
    key: text().notNull(),
    before: before(),
    after: after(),
  },
  (table) => [primaryKey({ columns: [table.dispatch, table.key] }), index("changes_by_key").on(table.key)],
);
