import { integer, primaryKey, sqliteTable, text } from "drizzle-orm/sqlite-core";
import type { AccountRecord } from "@/core/account/records";
import type { Definition } from "@/core/experiments/definition";
import type { Noise } from "@/core/experiments/noise";
import type { Diff } from "@/core/kit/diff";

/** Who goes with a change and who without, pair by pair: lists of item numbers, keys of campaigns, or days from the first one on. */
export type Arms =
  | { of: "items"; with: number[][]; without: number[][] }
  | { of: "campaigns"; with: string[]; without: string[] }
  | { of: "days"; on: boolean[] };

/** Experiments that were put into the basket, run, or are over. What they found is worked out from results whenever it is asked. */
export const experiments = sqliteTable("experiments", {
  id: integer().primaryKey({ autoIncrement: true }),
  definition: text({ mode: "json" }).notNull().$type<Definition>(),
  /** Names the coins. */
  seed: text().notNull(),
  arms: text({ mode: "json" }).notNull().$type<Arms>(),
  /** Keys of campaigns in which changes from elsewhere would disturb it. */
  campaigns: text({ mode: "json" }).notNull().$type<string[]>(),
  /** What the change is, in records. */
  diff: text({ mode: "json" }).notNull().$type<Diff<AccountRecord>>(),
  /** How far arms stray without any change, as the past before it told. */
  noise: text({ mode: "json" }).notNull().$type<Noise>(),
  /** The days before it by which arms were matched. */
  beforeFrom: integer("before_from").notNull(),
  beforeTo: integer("before_to").notNull(),
  who: text().notNull(),
  at: integer().notNull(),
  /** The last day that counts, and how it was ended; null while it goes on. */
  endedDay: integer("ended_day"),
  endedHow: text("ended_how", { enum: ["taken back", "for all", "left", "harm"] }),
  endedBy: text("ended_by").notNull().default(""),
  /** What was learned from it, in words, once somebody made a rule of it. */
  learned: text().notNull().default(""),
  learnedBy: text("learned_by").notNull().default(""),
  learnedAt: integer("learned_at"),
  /** The last day of results that was looked at for harm. */
  lookedDay: integer("looked_day"),
});

/** Days of experiments that change from day to day: what was planned, and what stood at the channel. */
export const experimentDays = sqliteTable(
  "experiment_days",
  {
    experiment: integer().notNull(),
    day: integer().notNull(),
    /** Whether a switch was sent for it; it is tried once a day. */
    isTried: integer("is_tried", { mode: "boolean" }).notNull().default(false),
    /** Whether the change stood that day; null where it stood in part, or nobody knows. */
    stood: integer({ mode: "boolean" }),
  },
  (table) => [primaryKey({ columns: [table.experiment, table.day] })],
);
