import { integer, sqliteTable, text } from "drizzle-orm/sqlite-core";
import type { Learned } from "@/core/market/learning";

/** What the test market's bidding knows after its last day: one row. */
export const marketState = sqliteTable("market_state", {
  id: integer().primaryKey(),
  day: integer().notNull(),
  learned: text({ mode: "json" }).notNull().$type<Learned>(),
});
