import { integer, sqliteTable, text } from "drizzle-orm/sqlite-core";
import type { MarketState } from "@/core/market/day-types";

/** What the test market carries on from its last day: one row. */
export const marketState = sqliteTable("market_state", {
  id: integer().primaryKey(),
  day: integer().notNull(),
  state: text({ mode: "json" }).notNull().$type<MarketState>(),
});
