import { blob, integer, sqliteTable, text } from "drizzle-orm/sqlite-core";
import type { ShelfSet } from "@/core/shelves/shelf-set";

export const shelfSets = sqliteTable("shelf_sets", {
  key: text().primaryKey(),
  definition: text({ mode: "json" }).notNull().$type<ShelfSet>(),
  /** Membership and memory by item number; null until first computed. */
  members: blob({ mode: "buffer" }),
  computedAt: integer("computed_at"),
  /** The last day of results it was computed on. */
  computedTo: integer("computed_to"),
});
