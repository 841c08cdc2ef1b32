import { blob, index, integer, primaryKey, sqliteTable, text } from "drizzle-orm/sqlite-core";
import type { DerivedField, LookupList } from "@/core/catalogue/derive/derived-field";
import type { FoundFindings } from "@/core/catalogue/findings/find";
import type { Mapping } from "@/core/catalogue/mapping";
import type { Failure } from "@/core/kit/outcome";

/** Where a feed is read from by itself. Null in the table: only what a person uploads. */
export type FeedSource =
  | { kind: "url"; url: string; user?: string; /** The password, sealed; see `server/secrets.ts`. */ sealed?: string }
  | { kind: "folder"; /** Below the watched folder; may hold `*`. */ pattern: string };

export const feeds = sqliteTable("feeds", {
  key: text().primaryKey(),
  fileName: text("file_name").notNull(),
  mapping: text({ mode: "json" }).notNull().$type<Mapping>(),
  /** The revision in force; null until a first import has finished. */
  currentRevision: integer("current_revision"),
  readAt: integer("read_at"),
  /** Encoding, delimiter and sheet that a person chose. */
  reading: text({ mode: "json" }).$type<Record<string, string | number | boolean | null>>(),
  source: text({ mode: "json" }).$type<FeedSource>(),
  /** When to look at the source, as a cron pattern in the workspace's time zone; null for by hand only. */
  schedule: text(),
  nextAt: integer("next_at"),
  /** What the source said about the version read last, so that it is fetched only when it changed. */
  version: text({ mode: "json" }).$type<{ etag?: string; lastModified?: string; file?: string }>(),
  /** The version that was fetched and could not be read in, how often that was tried, and when. */
  attempt: text({ mode: "json" }).$type<{ mark: string; tries: number; at: number }>(),
  /** The last look at the source, whether or not it brought something. */
  lookedAt: integer("looked_at"),
  /** Why the last look or reading failed; null when it did not. The last good catalogue stays in force. */
  trouble: text({ mode: "json" }).$type<Failure & { at: number }>(),
});

export interface RefreshCounts {
  rows: number;
  stored: number;
  new: number;
  changed: number;
  unchanged: number;
  gone: number;
  setAside: number;
  /** Items that had left the feed and came again. */
  returned?: number;
  soldOut?: number;
  backInStock?: number;
  /** Changed items by the field that changed. */
  fields?: Record<string, number>;
}

/**
 * Every reading of a feed that was begun, and every time its derived columns were made anew. Only
 * `feeds.current_revision` says which one is in force.
 */
export const revisions = sqliteTable("revisions", {
  id: integer().primaryKey({ autoIncrement: true }),
  feed: text().notNull(),
  job: text().notNull(),
  startedAt: integer("started_at").notNull(),
  finishedAt: integer("finished_at"),
  /** The revision whose rows and set-aside rows these are: itself for a reading, the reading built on for others. */
  reading: integer(),
  mapping: text({ mode: "json" }).$type<Mapping>(),
  /** Columns that are served by another one, such as a brand by the derived field that stands in for it. */
  aliases: text({ mode: "json" }).$type<Record<string, string>>(),
  headings: text({ mode: "json" }).$type<string[]>(),
  counts: text({ mode: "json" }).$type<RefreshCounts>(),
  /** Which revision's stored column serves each name: a column that did not change is not stored again. */
  columns: text({ mode: "json" }).$type<Record<string, number>>(),
  /** What was found wrong with the items, by code. */
  findings: text({ mode: "json" }).$type<FoundFindings>(),
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

/** What a refresh did to each item it touched. A first reading, where every item is new, keeps none. */
export const refreshChanges = sqliteTable(
  "refresh_changes",
  {
    revision: integer().notNull(),
    itemNo: integer("item_no").notNull(),
    kind: text({ enum: ["new", "returned", "changed", "gone"] }).notNull(),
    /** Bits of the fields that changed; see `fieldBits`. */
    fields: integer().notNull(),
  },
  (table) => [primaryKey({ columns: [table.revision, table.itemNo] })],
);

export const derivedFields = sqliteTable("derived_fields", {
  key: text().primaryKey(),
  position: integer().notNull(),
  definition: text({ mode: "json" }).notNull().$type<DerivedField>(),
});

export const lookupLists = sqliteTable("lookup_lists", {
  key: text().primaryKey(),
  name: text().notNull(),
  rows: text({ mode: "json" }).notNull().$type<LookupList["rows"]>(),
});

/** Costs from a file beside the feed; they come before the feed's own. Mills; null where the file says nothing. */
export const itemCosts = sqliteTable("item_costs", {
  itemId: text("item_id").primaryKey(),
  cost: integer(),
  fee: integer(),
});

/** What a colleague knows about an item or a family. */
export const notes = sqliteTable(
  "notes",
  {
    id: integer().primaryKey({ autoIncrement: true }),
    kind: text({ enum: ["item", "family"] }).notNull(),
    key: text().notNull(),
    text: text().notNull(),
    at: integer().notNull(),
    who: text().notNull(),
  },
  (table) => [index("notes_by_key").on(table.kind, table.key)],
);

/** A named state of a screen: its search, filters, order and columns. */
export const savedViews = sqliteTable("saved_views", {
  id: integer().primaryKey({ autoIncrement: true }),
  screen: text().notNull(),
  name: text().notNull(),
  state: text({ mode: "json" }).notNull().$type<Record<string, string>>(),
});

/** The last look at each item's page. */
export const linkChecks = sqliteTable("link_checks", {
  itemId: text("item_id").primaryKey(),
  link: text().notNull(),
  checkedAt: integer("checked_at").notNull(),
  /** See `LINK_STATES`. */
  state: text().notNull(),
  detail: text().notNull(),
});
