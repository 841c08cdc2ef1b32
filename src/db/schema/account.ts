import { index, blob, integer, sqliteTable, text, uniqueIndex } from "drizzle-orm/sqlite-core";
import type { CauseKind } from "@/core/account/cause";
import type { AccountRecord } from "@/core/account/records";

/**
 * Where the account stands: one row. Only `commit` writes it, the records and the basket, always in one transaction, so
 * what was read at a version still holds while the version is the same.
 */
export const accountState = sqliteTable("account_state", {
  id: integer().primaryKey(),
  /** Moves with every change of records or basket. */
  version: integer().notNull(),
  /** The version at which the records last changed. */
  recordsVersion: integer("records_version").notNull(),
  /** New rows of the basket belong to this part. Sending seals all parts so far and begins the next one. */
  part: integer().notNull(),
  /** Parts up to this one are on their way, with the job that sends them; null when nothing is. */
  sealedPart: integer("sealed_part"),
  sealedBy: text("sealed_by"),
});

/** The account as the channel has it. */
export const records = sqliteTable("records", {
  key: text().primaryKey(),
  type: text().notNull(),
  body: text({ mode: "json" }).notNull().$type<AccountRecord>(),
  /** The account's version at which it was last changed. */
  version: integer().notNull().default(0),
});

/** Where changes come from and why: a row each kind, ID and reason, named by every change it made, waiting or sent. */
export const causes = sqliteTable(
  "causes",
  {
    id: integer().primaryKey(),
    kind: text().notNull().$type<CauseKind>(),
    /** What the kind says it is: the act's name, the planogram's key, the dispatch's number. */
    of: text().notNull(),
    reason: text().notNull(),
  },
  (table) => [uniqueIndex("causes_once").on(table.kind, table.of, table.reason)],
);

/**
 * Changes decided but not yet sent: a row a record and part, from what the channel has (or an earlier part says) to what
 * it shall have.
 */
export const basket = sqliteTable(
  "basket",
  {
    id: integer().primaryKey({ autoIncrement: true }),
    key: text().notNull(),
    part: integer().notNull().default(0),
    before: text({ mode: "json" }).$type<AccountRecord>(),
    after: text({ mode: "json" }).$type<AccountRecord>(),
    /** Where the change comes from and why, see `causes`, and who decided it. */
    cause: integer().notNull().default(0),
    who: text().notNull().default(""),
    at: integer().notNull(),
    version: integer().notNull().default(0),
    /** Why the channel did not take it when it was sent; empty for what was not sent yet. */
    refused: text().notNull().default(""),
  },
  (table) => [
    uniqueIndex("basket_by_key").on(table.key, table.part),
    // It is read a page at a time in this order; without the index each page would put all that is left into order.
    index("basket_by_part").on(table.part, table.id),
  ],
);

/**
 * Records whose waiting change was taken out of the basket, or cancelled out by another one, and at which version: nothing
 * else tells that they changed for whoever had seen it.
 */
export const takenOut = sqliteTable("taken_out", {
  key: text().primaryKey(),
  version: integer().notNull(),
  who: text().notNull(),
});

/** What was taken out of the basket, kept for a while so that it can be put back as it was. */
export const basketUndo = sqliteTable("basket_undo", {
  id: text().primaryKey(),
  at: integer().notNull(),
  size: integer().notNull(),
  words: text().notNull(),
  /** Its rows as gzipped JSON: key, before, after, cause, who. */
  rows: blob({ mode: "buffer" }).notNull(),
  /** Plans that waited with them, in base64 by the planogram's key. */
  plans: text({ mode: "json" }).notNull().$type<Record<string, string>>(),
  undoneAt: integer("undone_at"),
});

/** Edits of many items at once, kept for a while so that each can be taken back as a whole. */
export const bulkEdits = sqliteTable("bulk_edits", {
  /** The job that made it. */
  id: text().primaryKey(),
  at: integer().notNull(),
  items: integer().notNull(),
  changes: integer().notNull(),
  words: text().notNull(),
  /** The change as gzipped JSON. */
  diff: blob({ mode: "buffer" }).notNull(),
  undoneAt: integer("undone_at"),
});
