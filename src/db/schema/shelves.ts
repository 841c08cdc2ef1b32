import { blob, index, integer, primaryKey, sqliteTable, text } from "drizzle-orm/sqlite-core";
import type { ShelfSet } from "@/core/shelves/shelf-set";

/** Why a recompute's moves were held back, until a person lets them pass. */
export interface HeldMoves {
  /** Day of the results it was computed on. */
  day: number;
  moved: number;
  items: number;
}

export const shelfSets = sqliteTable("shelf_sets", {
  key: text().primaryKey(),
  /** As it was kept; sets of earlier releases are read by `storedSet`. */
  definition: text({ mode: "json" }).notNull().$type<ShelfSet>(),
  /** Membership and memory by item number, shelves by code; null until first computed. */
  members: blob({ mode: "buffer" }),
  computedAt: integer("computed_at"),
  /** The last day of results it was computed on. */
  computedTo: integer("computed_to"),
  /** Numbers that stay with shelves, by key; null for their places. */
  codes: text({ mode: "json" }).$type<Record<string, number>>(),
  /** What it was last computed from: the same data again is no new round of patience. */
  stamp: text(),
  held: text({ mode: "json" }).$type<HeldMoves>(),
  /** Its place in lists, and among sets that claim the same items. */
  place: integer().notNull().default(0),
  /** When it was taken away; it is kept with its lists and history until its key is used anew, so that it can come back. */
  removedAt: integer("removed_at"),
});

/** Items that changed shelf, a row a recompute; the membership of an earlier day is today's with these taken back. */
export const shelfMoves = sqliteTable(
  "shelf_moves",
  {
    id: integer().primaryKey({ autoIncrement: true }),
    setKey: text("set_key").notNull(),
    at: integer().notNull(),
    /** Day of the results it was computed on. */
    day: integer().notNull(),
    count: integer().notNull(),
    moves: blob({ mode: "buffer" }).notNull(),
  },
  (table) => [index("shelf_moves_by_day").on(table.setKey, table.day)],
);

/** Items picked by hand, by ID as given; IDs that no reading has yet are kept for when they come. */
export const shelfPicks = sqliteTable(
  "shelf_picks",
  {
    setKey: text("set_key").notNull(),
    shelf: text().notNull(),
    item: text().notNull(),
    /** Days it is a member from and until, both counted in; null for open. */
    fromDay: integer("from_day"),
    untilDay: integer("until_day"),
    at: integer().notNull(),
  },
  (table) => [primaryKey({ columns: [table.setKey, table.shelf, table.item] })],
);

/** Which sets go out as labels, and under which headings. */
export const labelColumns = sqliteTable("label_columns", {
  /** Their order, from 0. */
  no: integer().primaryKey(),
  name: text().notNull(),
  setKey: text("set_key").notNull(),
});

/** The label feed: the token of its address, and what was fetched last. */
export const labelFeed = sqliteTable("label_feed", {
  id: integer().primaryKey(),
  token: text().notNull(),
  fetchedAt: integer("fetched_at"),
  /** A short print of each item's labels at that time, by item number. */
  fetched: blob({ mode: "buffer" }),
});
