import { blob, index, integer, primaryKey, real, sqliteTable, text, uniqueIndex } from "drizzle-orm/sqlite-core";
import { REPORT_KINDS, type ReportCounts, type ReportMapping } from "@/core/results/reports/report-kinds";

export const CODE_KINDS = ["campaign", "adGroup", "target", "term", "placement", "item"] as const;

/** Numbers for texts that facts repeat: keys of campaigns, ad groups and targets, terms, placements, unmatched item IDs. */
export const codes = sqliteTable(
  "codes",
  {
    no: integer().primaryKey({ autoIncrement: true }),
    kind: text({ enum: CODE_KINDS }).notNull(),
    text: text().notNull(),
  },
  (table) => [uniqueIndex("codes_by_text").on(table.kind, table.text)],
);

/** What a report says of a campaign, target or placement beside its results. `id` and `name` are those of the platform. */
export const TRAITS = ["id", "name", "campaignKind", "adKind", "matchType", "placementKind"] as const;

/** Traits of codes, as the last file that tells them has them. */
export const codeTraits = sqliteTable(
  "code_traits",
  {
    code: integer().notNull(),
    trait: text({ enum: TRAITS }).notNull(),
    value: text().notNull(),
  },
  (table) => [primaryKey({ columns: [table.code, table.trait] }), index("code_traits_by_value").on(table.value)],
);

/** What every ad report counts. Money in mills; corrections can be below zero. */
const counts = {
  impressions: integer().notNull().default(0),
  clicks: integer().notNull().default(0),
  cost: integer().notNull().default(0),
  orders: integer().notNull().default(0),
  units: integer().notNull().default(0),
  revenue: integer().notNull().default(0),
};

/*
 * A table for each kind of report, since platforms report the same money by several divisions that can't be told apart
 * by each other: totals are those of the item report, and the others divide the same totals in their own way.
 * Days count from 1970-01-01; texts are codes.
 */

/** The item report: what every total is summed from. Items that match nothing have numbers from `UNMATCHED_FROM` on. */
export const itemFacts = sqliteTable(
  "item_facts",
  {
    day: integer().notNull(),
    campaign: integer().notNull(),
    adGroup: integer("ad_group").notNull(),
    target: integer().notNull(),
    itemNo: integer("item_no").notNull(),
    ...counts,
  },
  (table) => [primaryKey({ columns: [table.day, table.campaign, table.adGroup, table.target, table.itemNo] })],
);

/** The target and search-term report: a term is what was searched for, or the listing whose page it was. */
export const termFacts = sqliteTable(
  "term_facts",
  {
    day: integer().notNull(),
    campaign: integer().notNull(),
    adGroup: integer("ad_group").notNull(),
    target: integer().notNull(),
    term: integer().notNull(),
    ...counts,
  },
  (table) => [primaryKey({ columns: [table.day, table.campaign, table.adGroup, table.target, table.term] })],
);

/** The slot report. `slot` is a place in `SLOT_KEYS`. */
export const slotFacts = sqliteTable(
  "slot_facts",
  {
    day: integer().notNull(),
    campaign: integer().notNull(),
    adGroup: integer("ad_group").notNull(),
    slot: integer().notNull(),
    ...counts,
  },
  (table) => [primaryKey({ columns: [table.day, table.campaign, table.adGroup, table.slot] })],
);

export const hourFacts = sqliteTable(
  "hour_facts",
  { day: integer().notNull(), campaign: integer().notNull(), hour: integer().notNull(), ...counts },
  (table) => [primaryKey({ columns: [table.day, table.campaign, table.hour] })],
);

/** The placement report; it often comes with impressions only. */
export const placementFacts = sqliteTable(
  "placement_facts",
  { day: integer().notNull(), campaign: integer().notNull(), placement: integer().notNull(), ...counts },
  (table) => [primaryKey({ columns: [table.day, table.campaign, table.placement] })],
);

/** How a day's orders filled up: what came in so many days after the click. */
export const orderArrivals = sqliteTable(
  "order_arrivals",
  {
    day: integer().notNull(),
    age: integer().notNull(),
    orders: integer().notNull(),
    revenue: integer().notNull(),
  },
  (table) => [primaryKey({ columns: [table.day, table.age] })],
);

/** The same as report files showed it, by the file: how old a day was when the file was written. */
export const reportArrivals = sqliteTable(
  "report_arrivals",
  {
    import: integer().notNull(),
    day: integer().notNull(),
    age: integer().notNull(),
    orders: real().notNull(),
    revenue: integer().notNull(),
  },
  (table) => [primaryKey({ columns: [table.import, table.day] })],
);

/** Report files read in. */
export const reportImports = sqliteTable("report_imports", {
  id: integer().primaryKey({ autoIncrement: true }),
  kind: text({ enum: REPORT_KINDS }).notNull(),
  fileName: text("file_name").notNull(),
  at: integer().notNull(),
  /** The job that read it; a run that is broken off is taken back by it. */
  job: text().notNull(),
  /** When all of it counted, or null while it is being taken in. */
  finishedAt: integer("finished_at"),
  /** Days the file is about, or null when it held none. */
  fromDay: integer("from_day"),
  toDay: integer("to_day"),
  mapping: text({ mode: "json" }).notNull().$type<ReportMapping>(),
  counts: text({ mode: "json" }).notNull().$type<ReportCounts>(),
  /** When it was taken back, or null. */
  undoneAt: integer("undone_at"),
});

/** What an import replaced, day by day and campaign by campaign, so that it can be taken back as a whole. */
export const reportUnits = sqliteTable(
  "report_units",
  {
    import: integer().notNull(),
    day: integer().notNull(),
    /** The campaign's code; 0 for store sales. */
    campaign: integer().notNull(),
    /** The rows as they were. */
    before: text({ mode: "json" }).notNull().$type<number[][]>(),
  },
  (table) => [primaryKey({ columns: [table.import, table.day, table.campaign] })],
);

/** Rows of a report file on their way in, summed by what they are divided by. */
export const reportRows = sqliteTable(
  "report_rows",
  {
    import: integer().notNull(),
    /** A hash of all the row's cells: a row that stands twice in a file counts once. */
    hash: text().notNull(),
    day: integer().notNull(),
    /** The last day of a row that is a sum over several; 0 for a row of one day. */
    lastDay: integer("last_day").notNull().default(0),
    /** The campaign's code, 0 for store sales; then what else the kind's rows are told apart by, in its order. */
    campaign: integer().notNull(),
    b: integer().notNull(),
    c: integer().notNull(),
    d: integer().notNull(),
    impressions: real().notNull(),
    clicks: real().notNull(),
    cost: real().notNull(),
    orders: real().notNull(),
    units: real().notNull(),
    revenue: real().notNull(),
  },
  (table) => [primaryKey({ columns: [table.import, table.day, table.campaign, table.hash] })],
);

/**
 * Rows of report files that are sums over several days. They are never laid on one day: they answer for windows that
 * hold them whole, where nothing is known of the same campaign day by day.
 */
export const windowFacts = sqliteTable(
  "window_facts",
  {
    import: integer().notNull(),
    kind: text({ enum: REPORT_KINDS }).notNull(),
    fromDay: integer("from_day").notNull(),
    toDay: integer("to_day").notNull(),
    /** As in `report_rows`. */
    campaign: integer().notNull(),
    b: integer().notNull(),
    c: integer().notNull(),
    d: integer().notNull(),
    ...counts,
  },
  (table) => [index("window_facts_from").on(table.fromDay), index("window_facts_to").on(table.toDay)],
);

/** Rows of report files that were not taken in, with reasons. */
export const reportAside = sqliteTable("report_aside", {
  id: integer().primaryKey({ autoIncrement: true }),
  import: integer().notNull(),
  row: integer().notNull(),
  reason: text().notNull(),
  cells: text({ mode: "json" }).notNull().$type<string[]>(),
});

/** How a kind of report is read, by its headings, as it was last time. */
export const reportMappings = sqliteTable(
  "report_mappings",
  {
    kind: text({ enum: REPORT_KINDS }).notNull(),
    headings: text().notNull(),
    mapping: text({ mode: "json" }).notNull().$type<ReportMapping>(),
  },
  (table) => [primaryKey({ columns: [table.kind, table.headings] })],
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

/** Per day the term report as columns ready to be summed. */
export const termRollups = sqliteTable("term_rollups", {
  day: integer().primaryKey(),
  terms: blob({ mode: "buffer" }).notNull(),
});

/** Per day the item report summed by campaign, ad group and item, and the store sales, as columns ready to be summed. */
export const dayRollups = sqliteTable("day_rollups", {
  day: integer().primaryKey(),
  ads: blob({ mode: "buffer" }).notNull(),
  store: blob({ mode: "buffer" }).notNull(),
});
