import { blob, integer, primaryKey, real, sqliteTable, text, uniqueIndex } from "drizzle-orm/sqlite-core";

/** Numbers for texts that facts repeat: keys of campaigns, ad groups and targets, search terms, placements. */
export const codes = sqliteTable(
  "codes",
  {
    no: integer().primaryKey({ autoIncrement: true }),
    kind: text({ enum: ["campaign", "adGroup", "target", "term", "placement"] }).notNull(),
    text: text().notNull(),
  },
  (table) => [uniqueIndex("codes_by_text").on(table.kind, table.text)],
);

/** Ad results at full grain. Days count from 1970-01-01; money in mills. */
export const facts = sqliteTable(
  "facts",
  {
    day: integer().notNull(),
    campaign: integer().notNull(),
    adGroup: integer("ad_group").notNull(),
    itemNo: integer("item_no").notNull(),
    target: integer().notNull(),
    term: integer().notNull(),
    slot: integer().notNull(),
    impressions: integer().notNull(),
    clicks: integer().notNull(),
    cost: integer().notNull(),
    orders: integer().notNull(),
    units: integer().notNull(),
    revenue: integer().notNull(),
  },
  (table) => [
    primaryKey({
      columns: [table.day, table.campaign, table.adGroup, table.itemNo, table.target, table.term, table.slot],
    }),
  ],
);

/** Partner placements come with impressions only. */
export const placementFacts = sqliteTable(
  "placement_facts",
  {
    day: integer().notNull(),
    campaign: integer().notNull(),
    placement: integer().notNull(),
    impressions: integer().notNull(),
  },
  (table) => [primaryKey({ columns: [table.day, table.campaign, table.placement] })],
);

/** All sales of the shop, with or without an ad. */
export const storeSales = sqliteTable(
  "store_sales",
  {
    day: integer().notNull(),
    itemNo: integer("item_no").notNull(),
    orders: integer().notNull(),
    units: integer().notNull(),
    revenue: integer().notNull(),
  },
  (table) => [primaryKey({ columns: [table.day, table.itemNo] })],
);

export const campaignDays = sqliteTable(
  "campaign_days",
  {
    day: integer().notNull(),
    campaign: integer().notNull(),
    budget: integer().notNull(),
    cost: integer().notNull(),
    /** Hour with fraction at which the budget was gone, or null. */
    dryAt: real("dry_at"),
  },
  (table) => [primaryKey({ columns: [table.day, table.campaign] })],
);

/** Spans of days summed by item, for long windows; made when their last day is stored. */
export const spanRollups = sqliteTable("span_rollups", {
  fromDay: integer("from_day").primaryKey(),
  ads: blob({ mode: "buffer" }).notNull(),
  store: blob({ mode: "buffer" }).notNull(),
});

/** Per day the facts summed by campaign, ad group and item, and the store sales, as columns ready to be summed. */
export const dayRollups = sqliteTable("day_rollups", {
  day: integer().primaryKey(),
  ads: blob({ mode: "buffer" }).notNull(),
  store: blob({ mode: "buffer" }).notNull(),
});
