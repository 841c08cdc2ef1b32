import type { Nature } from "@/core/market/nature";
import { integer, real, sqliteTable, text } from "drizzle-orm/sqlite-core";

/** The workspace's own settings: one row. */
export const workspace = sqliteTable("workspace", {
  id: integer().primaryKey(),
  name: text().notNull(),
  currency: text().notNull(),
  timeZone: text("time_zone").notNull(),
  /** Goal return on ad spend, sales per unit of cost. */
  goal: real().notNull(),
  /** House rule: a refresh that loses more than this share of the catalogue stops and asks. */
  mostLoss: real("most_loss").notNull(),
  /** Share of tax on sales where the feed names none for the item; see `TaxRule`. */
  taxRate: real("tax_rate").notNull().default(0),
  pricesWithTax: integer("prices_with_tax", { mode: "boolean" }).notNull().default(true),
  costsWithTax: integer("costs_with_tax", { mode: "boolean" }).notNull().default(false),
  feesWithTax: integer("fees_with_tax", { mode: "boolean" }).notNull().default(false),
  marketSeed: text("market_seed").notNull(),
  /** What sets the workspace's test market apart; null in a middling one, in which all made before this stand. */
  marketNature: text("market_nature", { mode: "json" }).$type<Nature>(),
  /** Whether variants that the feed does not name stand in for a missing family. */
  proposedFamilies: integer("proposed_families", { mode: "boolean" }).notNull().default(false),
  /** Raised whenever results change, so that nothing kept of them is used again. */
  resultsVersion: integer("results_version").notNull().default(0),
  /** House rule: somebody approves the basket before it is sent. The version of the account that was approved, by whom and when. */
  approval: integer({ mode: "boolean" }).notNull().default(false),
  approvedVersion: integer("approved_version"),
  approvedBy: text("approved_by"),
  approvedAt: integer("approved_at"),
  createdAt: integer("created_at").notNull(),
});

/** Who changed what, when, why and from where. Times are milliseconds since 1970. */
export const changeLog = sqliteTable("change_log", {
  id: integer().primaryKey({ autoIncrement: true }),
  at: integer().notNull(),
  who: text().notNull(),
  what: text().notNull(),
  why: text().notNull(),
  place: text().notNull(),
  /** What it is about, as a kind and an ID, such as `planogram/store-best`; empty where it is about nothing that has one. */
  about: text().notNull().default(""),
});
