import { integer, sqliteTable, text } from "drizzle-orm/sqlite-core";
import { PLACEMENT_JUDGEMENTS } from "@/core/exclusions/placements/review";

/** What people judged of placements, by plain address; what is kept out is a negative of the account. */
export const placementReviews = sqliteTable("placement_reviews", {
  address: text().primaryKey(),
  judgement: text({ enum: PLACEMENT_JUDGEMENTS }).notNull(),
  note: text().notNull().default(""),
  who: text().notNull(),
  /** Milliseconds since 1970. */
  at: integer().notNull(),
  /** Impressions of the window that was looked at, a day. */
  impressionsADay: integer("impressions_a_day").notNull(),
});

/** Words of placements that are not fit for the shop's ads, one row; none means the lists that ship. */
export const unsafeWords = sqliteTable("unsafe_words", {
  id: integer().primaryKey(),
  words: text({ mode: "json" }).notNull().$type<string[]>(),
  who: text().notNull(),
  at: integer().notNull(),
});
