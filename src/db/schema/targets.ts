import { integer, sqliteTable, text } from "drizzle-orm/sqlite-core";

/** Listings of others that people pasted: what the channel and reports do not tell. */
export const pastedListings = sqliteTable("pasted_listings", {
  listing: text().primaryKey(),
  title: text().notNull(),
  category: text().notNull(),
  /** Mills; null where it was not given, as rating and reviews. */
  price: integer(),
  /** Stars, in hundredths. */
  rating: integer(),
  reviews: integer(),
  who: text().notNull(),
  at: integer().notNull(),
});
