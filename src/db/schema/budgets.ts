import { integer, real, sqliteTable, text } from "drizzle-orm/sqlite-core";

/** What is planned to be spent in a month. */
export const monthPlans = sqliteTable("month_plans", {
  /** `YYYY-MM`. */
  month: text().primaryKey(),
  mills: integer().notNull(),
  /** How much more than that may be spent, per cent. */
  over: real().notNull(),
  who: text().notNull(),
  at: integer().notNull(),
});

/** Bids that are pushed until a day, and what they go back to. */
export const bidPushes = sqliteTable("bid_pushes", {
  /** A record's key, or an item's ID where `of` says so. */
  key: text().primaryKey(),
  of: text({ enum: ["bid", "item-bid"] }).notNull(),
  /** Mills: as it was pushed, and before. */
  bid: integer().notNull(),
  back: integer().notNull(),
  /** The last day of it, `YYYY-MM-DD`. */
  until: text().notNull(),
  who: text().notNull(),
  at: integer().notNull(),
});
