import { integer, primaryKey, sqliteTable, text } from "drizzle-orm/sqlite-core";
import type { ChapterKey, MadeChapter } from "@/core/stocktake/chapters";
import type { StocktakeHead } from "@/core/stocktake/report";

/** Stocktakes, each as it was found on its day: later results change nothing in it. */
export const stocktakes = sqliteTable("stocktakes", {
  id: integer().primaryKey({ autoIncrement: true }),
  job: text().notNull(),
  at: integer().notNull(),
  who: text().notNull(),
  name: text().notNull(),
  /** Null until all of it is there. */
  head: text({ mode: "json" }).$type<StocktakeHead>(),
  /** What somebody wrote into chapters. */
  remarks: text({ mode: "json" }).notNull().$type<Partial<Record<ChapterKey, string>>>(),
  /** When somebody took it away; it can be brought back. */
  removedAt: integer("removed_at"),
  /** The order of chapters where somebody changed it; those that are not in it are left out of the report. */
  chapters: text({ mode: "json" }).$type<ChapterKey[]>(),
});

/** Chapters of stocktakes, so that each is read by itself. */
export const stocktakeChapters = sqliteTable(
  "stocktake_chapters",
  {
    stocktake: integer().notNull(),
    key: text().notNull().$type<ChapterKey>(),
    made: text({ mode: "json" }).notNull().$type<MadeChapter>(),
  },
  (table) => [primaryKey({ columns: [table.stocktake, table.key] })],
);

/** Findings that somebody put aside, with why: they stay so in every later stocktake until they are taken up again. */
export const stocktakeDismissals = sqliteTable("stocktake_dismissals", {
  finding: text().primaryKey(),
  reason: text().notNull(),
  who: text().notNull(),
  at: integer().notNull(),
});

/** What stands for which name in masked reports. It never leaves the workspace. */
export const stocktakeAliases = sqliteTable(
  "stocktake_aliases",
  { kind: text().notNull(), key: text().notNull(), no: integer().notNull() },
  (table) => [primaryKey({ columns: [table.kind, table.key] })],
);

/** How reports are headed: a name and a picture. One row. */
export const stocktakeStyle = sqliteTable("stocktake_style", {
  id: integer().primaryKey(),
  name: text().notNull(),
  /** A data address of a PNG, JPEG or SVG picture; empty for none. */
  logo: text().notNull(),
});
