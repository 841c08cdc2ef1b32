import { blob, index, integer, primaryKey, sqliteTable, text } from "drizzle-orm/sqlite-core";
import type { AccountRecord } from "@/core/account/records";
import type { ExportProfile } from "@/core/dispatch/export-profile";

const before = () => text("before", { mode: "json" }).$type<AccountRecord>();
const after = () => text("after", { mode: "json" }).$type<AccountRecord>();

export const dispatches = sqliteTable("dispatches", {
  id: integer().primaryKey({ autoIncrement: true }),
  job: text().notNull(),
  state: text({ enum: ["sending", "sent", "failed"] }).notNull(),
  createdAt: integer("created_at").notNull(),
  sentAt: integer("sent_at"),
  /** The day from which the channel works with it. */
  fromDay: integer("from_day"),
  /** Who sent it. */
  who: text().notNull().default(""),
  size: integer().notNull(),
  words: text({ mode: "json" }).notNull().$type<string[]>(),
  /** Through which kind of channel it went. */
  channel: text({ enum: ["market", "files", "http"] })
    .notNull()
    .default("market"),
  /** Changes that the channel was found to have as they were meant, read back after sending; null where nobody looked. */
  asMeant: integer("as_meant"),
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
    /** Where the change came from, see `causes`; 0 where that is not known any more. */
    cause: integer().notNull().default(0),
  },
  (table) => [primaryKey({ columns: [table.dispatch, table.key] }), index("changes_by_key").on(table.key)],
);

/**
 * What planograms had as their last plan before a dispatch gave them another one: so that taking the dispatch back, and
 * taking that back, give each record the plan that belongs to it.
 */
export const plansReplaced = sqliteTable(
  "plans_replaced",
  {
    dispatch: integer().notNull(),
    planogram: text().notNull(),
    /** As in `planograms`; null where there was none. */
    plan: blob({ mode: "buffer" }),
  },
  (table) => [primaryKey({ columns: [table.dispatch, table.planogram] })],
);

/** How structures are written out for other places. */
export const exportProfiles = sqliteTable("export_profiles", {
  key: text().primaryKey(),
  definition: text({ mode: "json" }).notNull().$type<ExportProfile>(),
  savedAt: integer("saved_at").notNull(),
});
