import { integer, primaryKey, real, sqliteTable, text } from "drizzle-orm/sqlite-core";
import type { AccountRecord } from "@/core/account/records";
import type { ChannelAbout } from "@/core/dispatch/contract";
import type { ListingRole, Place } from "@/core/channel/place";

/** The channel that a workspace sends to: one row; none stands for its own test market. */
export const channelState = sqliteTable("channel_state", {
  id: integer().primaryKey(),
  kind: text({ enum: ["market", "files", "http"] })
    .notNull()
    .default("market"),
  /** Of a channel over HTTP: its address and the sealed token. */
  address: text().notNull().default(""),
  token: text(),
  /** What it last said of itself; null where it was not asked. */
  about: text({ mode: "json" }).$type<ChannelAbout>(),
  /** What the places that it told stand on, such as a reading of the feed; another one makes them due again. */
  toldOn: text("told_on").notNull().default(""),
  toldAt: integer("told_at"),
  /** The last day on which reports were asked for, of a channel that gives them. */
  reportsOn: text("reports_on").notNull().default(""),
  /** Moves whenever places change, so that nothing kept of them is used again. */
  placesVersion: integer("places_version").notNull().default(0),
});

/** Who told of a place. */
export type PlaceOrigin = "channel" | "file" | "pasted";

/** What is known of queries, listings and items of ours as places for ads, by who told it and on which day. */
export const channelPlaces = sqliteTable(
  "channel_places",
  {
    kind: text().notNull().$type<Place["kind"]>(),
    name: text().notNull(),
    category: text().notNull().default(""),
    origin: text().notNull().$type<PlaceOrigin>(),
    /** The day on which it was told, and the version of the places at which it was written, by which those not told again are found. */
    day: integer().notNull(),
    version: integer().notNull().default(0),
    role: text().notNull().default("unknown").$type<ListingRole>(),
    /** Mills; null where it was not told, as all that follows. */
    low: integer(),
    typical: integer(),
    high: integer(),
    monthlyViews: integer("monthly_views"),
    places: integer().notNull().default(1),
    title: text().notNull().default(""),
    price: integer(),
    /** Stars. */
    rating: real(),
    reviews: integer(),
    who: text().notNull().default(""),
  },
  (table) => [primaryKey({ columns: [table.kind, table.name, table.category, table.origin] })],
);

/** What a channel made of changes that it did not take as they were meant, by dispatch. */
export const channelAnswers = sqliteTable(
  "channel_answers",
  {
    dispatch: integer().notNull(),
    key: text().notNull(),
    state: text({ enum: ["changed", "refused"] }).notNull(),
    reason: text().notNull().default(""),
    /** What was meant to stand; null for a removal. */
    meant: text({ mode: "json" }).$type<AccountRecord>(),
  },
  (table) => [primaryKey({ columns: [table.dispatch, table.key] })],
);

/**
 * The books of a channel that keeps none elsewhere: what the test market was sent and took, which is what it runs; and what a
 * channel of files was given, until a file from there says otherwise.
 */
export const channelBooks = sqliteTable("channel_books", {
  key: text().primaryKey(),
  body: text({ mode: "json" }).notNull().$type<AccountRecord>(),
});

/** What people noted of terms and listings: decided against, or used elsewhere. All else in the ledger stands in account and dispatches. */
export const ledgerNotes = sqliteTable("ledger_notes", {
  /** As the ledger knows it, see `ledgerKey`. */
  key: text().primaryKey(),
  what: text({ enum: ["term", "listing"] }).notNull(),
  text: text().notNull(),
  state: text({ enum: ["dismissed", "elsewhere"] }).notNull(),
  reason: text().notNull().default(""),
  who: text().notNull(),
  /** Milliseconds since 1970. */
  at: integer().notNull(),
});
