import { integer, real, sqliteTable, text, uniqueIndex } from "drizzle-orm/sqlite-core";
import type { AlertKind, AlertState } from "@/core/alerts/alerts";
import type { Digest } from "@/core/alerts/digest";

/** What is watched, and how it stood when it was looked at last. Kinds without a row are on with the limit they begin with. */
export const alerts = sqliteTable("alerts", {
  kind: text().primaryKey().$type<AlertKind>(),
  isOn: integer("is_on", { mode: "boolean" }).notNull().default(true),
  limit: real(),
  /** Null until it was looked at. */
  state: text().$type<AlertState["state"]>(),
  says: text().notNull().default(""),
  /** Since when it stands as it does, milliseconds since 1970. */
  since: integer(),
  /** Why somebody put it aside until it is quiet again, and who; null where nobody did. */
  aside: text(),
  asideBy: text("aside_by"),
});

/** When alerts were looked at last, and by which day with results. One row. */
export const alertLooks = sqliteTable("alert_looks", {
  id: integer().primaryKey(),
  at: integer().notNull(),
  /** Null where there were no results. */
  day: integer(),
});

/** How weeks went, each as it was told when it was over. */
export const digests = sqliteTable(
  "digests",
  {
    id: integer().primaryKey({ autoIncrement: true }),
    /** Its Monday. */
    fromDay: integer("from_day").notNull(),
    at: integer().notNull(),
    made: text({ mode: "json" }).notNull().$type<Digest>(),
    /** Names of all its findings, by which the next one tells what was mended and what is new. */
    found: text({ mode: "json" }).notNull().$type<string[]>(),
  },
  (table) => [uniqueIndex("digests_by_week").on(table.fromDay)],
);

/** Where alerts and digests are sent. One row. */
export const alertAddress = sqliteTable("alert_address", {
  id: integer().primaryKey(),
  url: text().notNull(),
  /** What messages are signed with, sealed. */
  secret: text().notNull(),
  sendsAlerts: integer("sends_alerts", { mode: "boolean" }).notNull(),
  sendsWeeks: integer("sends_weeks", { mode: "boolean" }).notNull(),
});

/** Messages to that address, and what became of them. */
export const alertMessages = sqliteTable("alert_messages", {
  /** The same for every try, so that whoever takes them in can tell a second try from a second message. */
  id: text().primaryKey(),
  at: integer().notNull(),
  what: text().notNull(),
  body: text().notNull(),
  state: text({ enum: ["waiting", "sent", "failed"] }).notNull(),
  tries: integer().notNull().default(0),
  /** When it is tried next, milliseconds since 1970. */
  nextAt: integer("next_at").notNull(),
  /** What the other side said last. */
  note: text().notNull().default(""),
});
