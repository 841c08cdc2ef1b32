import { blob, integer, primaryKey, sqliteTable, text } from "drizzle-orm/sqlite-core";
import type { Mapping } from "@/core/catalogue/mapping";

export const feeds = sqliteTable("feeds", {
  key: text().primaryKey(),
  fileName: text("file_name").notNull(),
  mapping: text({ mode: "json" }).notNull().$type<Mapping>(),
  /** The revision in force; null until a first import has finished. */
  currentRevision: integer("current_revision"),
  readAt: integer("read_at"),
});

export interface RefreshCounts {
  rows: number;
  stored: number;
  new: number;
  changed: number;
  unchanged: number;
  gone: number;
  setAside: number;
}

/** Every reading of a feed that was begun. Only `feeds.current_revision` says which one is in force. */
export const revisions = sqliteTable("revisions", {
  id: integer().primaryKey({ autoIncrement: true }),
  feed: text().notNull(),
  job: text().notNull(),
  startedAt: integer("started_at").notNull(),
  finishedAt: integer("finished_at"),
  headings: text({ mode: "json" }).$type<string[]>(),
  counts: text({ mode: "json" }).$type<RefreshCounts>(),
  /** Which revision's stored column serves each name: a column that did not change is not stored again. */
  columns: text({ mode: "json" }).$type<Record<string, number>>(),
  /** Sentences about the file itself: its encoding, repeated headings. */
  notices: text({ mode: "json" }).$type<string[]>(),
});

/**
 * Every version of every item. A version is in force for revision r when from_rev <= r and (to_rev is null or
 * to_rev > r), so an import can write for as long as it likes: nothing shows until the current revision moves.
 */
export const items = sqliteTable(
  "items",
  {
    itemNo: integer("item_no").notNull(),
    fromRev: integer("from_rev").notNull(),
    toRev: integer("to_rev"),
    itemId: text("item_id").notNull(),
    title: text().notNull(),
    /** Mills. */
    price: integer().notNull(),
    warnings: integer().notNull(),
    /** The raw cells in the order of the revision's headings. */
    cells: text().notNull(),
  },
  (table) => [primaryKey({ columns: [table.itemNo, table.fromRev] })],
);

/** Rows kept out of the catalogue, with the reason. */
export const setAside = sqliteTable(
  "set_aside",
  {
    revision: integer().notNull(),
    row: integer().notNull(),
    faults: integer().notNull(),
    cells: text().notNull(),
  },
  (table) => [primaryKey({ columns: [table.revision, table.row] })],
);

/** Columns of the catalogue, ready to be laid over typed arrays, under the revision that first had them so. */
export const catalogueColumns = sqliteTable(
  "catalogue_columns",
  {
    revision: integer().notNull(),
    name: text().notNull(),
    /** SHA-1 of the bytes. */
    digest: text().notNull(),
    data: blob({ mode: "buffer" }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.revision, table.name] })],
);
