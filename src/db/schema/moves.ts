import { index, integer, real, sqliteTable, text } from "drizzle-orm/sqlite-core";
import type { Expected } from "@/core/moves/move";
import type { StandingOrder } from "@/core/moves/standing-order";

/** House rules that a person set; those that nobody set stand as they come. */
export const houseRules = sqliteTable("house_rules", {
  key: text().primaryKey(),
  value: real().notNull(),
  who: text().notNull(),
  at: integer().notNull(),
});

/** Moves that a person does not want to see: dismissed until what they stand on has moved, or put off till a day. */
export const movesDecided = sqliteTable("moves_decided", {
  key: text().primaryKey(),
  how: text({ enum: ["dismissed", "snoozed"] }).notNull(),
  reason: text().notNull().default(""),
  /** `YYYY-MM-DD` from which a snoozed one shows again; empty for a dismissed one. */
  until: text().notNull().default(""),
  /** What it stood on and proposed then. */
  clicks: real().notNull(),
  orders: real().notNull(),
  amount: integer(),
  who: text().notNull(),
  at: integer().notNull(),
});

/** Moves accepted together. The cause of their changes in the basket and of dispatches has its number. */
export const moveBatches = sqliteTable("move_batches", {
  id: integer().primaryKey({ autoIncrement: true }),
  who: text().notNull(),
  at: integer().notNull(),
  /** The last day with results when they were accepted. */
  day: integer().notNull(),
});

/** Accepted moves with what was expected of them, for what came. */
export const movesAccepted = sqliteTable(
  "moves_accepted",
  {
    id: integer().primaryKey({ autoIncrement: true }),
    batch: integer().notNull(),
    key: text().notNull(),
    proposer: text().notNull(),
    about: text().notNull(),
    what: text().notNull(),
    why: text().notNull(),
    /** Items that it is followed up by, as a list of item numbers; empty where it is about no items. */
    items: text({ mode: "json" }).notNull().$type<number[]>(),
    /** `counted`: the share of reported sales that counted then as new and kept. */
    expected: text({ mode: "json" }).notNull().$type<Expected & { counted: number }>(),
  },
  (table) => [index("moves_accepted_by_batch").on(table.batch)],
);

/** Moves that may go out by themselves, within limits. */
export const standingOrders = sqliteTable("standing_orders", {
  id: integer().primaryKey({ autoIncrement: true }),
  definition: text({ mode: "json" }).notNull().$type<StandingOrder>(),
  /** `watching` says what it would do and does nothing; `on` lets moves go out; `stopped` does neither. */
  state: text({ enum: ["watching", "on", "stopped"] }).notNull(),
  /** Why it was stopped; empty where a person did not say. */
  why: text().notNull().default(""),
  /** Who switched it last, and when. */
  who: text().notNull(),
  at: integer().notNull(),
  /** The last day of results that it was made on; null before the first time. */
  lastDay: integer("last_day"),
});

/** What standing orders did, or would have done, each time. */
export const standingRuns = sqliteTable(
  "standing_runs",
  {
    id: integer().primaryKey({ autoIncrement: true }),
    order: integer("standing_order").notNull(),
    at: integer().notNull(),
    day: integer().notNull(),
    outcome: text({ enum: ["watched", "sent", "waits", "nothing", "stopped", "failed"] }).notNull(),
    moves: integer().notNull(),
    changes: integer().notNull(),
    /** What they were expected to change a day, mills. */
    spend: integer().notNull(),
    /** Moves of its kinds that its limits left. */
    left: integer().notNull(),
    note: text().notNull().default(""),
  },
  (table) => [index("standing_runs_by_order").on(table.order)],
);
