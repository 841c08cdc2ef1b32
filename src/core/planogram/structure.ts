import { z } from "zod";
import { dayCapSchema, poolSchema } from "../budgets/budget-records";
import { SLOT_KEYS } from "../kit/slots";
import { keywordSchema, listingTargetSchema, negativeSchema, reachSchema } from "../targets/target-records";

/**
 * The structure of an account as keyed records, so that any change to it is a diff of records.
 * Keys of planned records come from the path of split values, never from names or order.
 */
const key = z.string().min(1).max(600);
const millsAmount = z.int().min(0).max(1_000_000_000);

export const PURPOSES = ["rank", "discover", "defend", "conquest", "scale", "catch-all", "revive"] as const;
export const STATUSES = ["on", "paused"] as const;
export const CAMPAIGN_KINDS = ["feed", "keyword", "listing", "discovery", "text", "asset"] as const;
export type CampaignKind = (typeof CAMPAIGN_KINDS)[number];

/** What the channel may do to a bid in an auction; see `product.md`. `limit` is the most it adds, 0.5 for half as much again. */
export const flexSchema = z.object({ mode: z.enum(["hold", "ease", "stretch"]), limit: z.number().min(0).max(2) });

export const campaignSchema = z.object({
  type: z.literal("campaign"),
  key,
  name: z.string().trim().min(1).max(200),
  kind: z.enum(CAMPAIGN_KINDS),
  purpose: z.enum(PURPOSES),
  /**
   * `fixed`: the bids as given. `clicks`: as many clicks as the budget buys, each at most at its bid. `return`: the
   * channel bids towards `goal` from the campaign's own conversions.
   */
  bidding: z.enum(["fixed", "clicks", "return"]),
  /** Goal return on ad spend, sales per unit of cost; needed for `return` bidding. */
  goal: z.number().positive().max(1000).nullable(),
  /** Mills a day. */
  dailyBudget: millsAmount,
  status: z.enum(STATUSES),
  /** 1 serves first when an item has several homes. */
  serveOrder: z.int().min(1).max(9),
  /** Sold-out items get no ads while they are sold out. */
  inStockOnly: z.boolean(),
  /** The planogram that made it, or null. */
  origin: z.string().nullable(),
  /** Left out: hold. */
  flex: flexSchema.optional(),
  /** Factors on bids by slot, 1 where left out; 0 keeps out of the slot. */
  slots: z.partialRecord(z.enum(SLOT_KEYS), z.number().min(0).max(10)).optional(),
  /** Factors on bids by hour of the day, from midnight on. */
  hours: z.array(z.number().min(0).max(10)).length(24).optional(),
  /** The pool whose budget it draws on beside its own. */
  pool: key.nullable().optional(),
  /** First and last day it runs, or always. */
  startsOn: z.iso.date().nullable().optional(),
  endsOn: z.iso.date().nullable().optional(),
});

export const adGroupSchema = z.object({
  type: z.literal("adGroup"),
  key,
  campaign: key,
  name: z.string().trim().min(1).max(200),
  status: z.enum(STATUSES),
  /** Mills a click where a product group has no bid of its own. */
  bid: millsAmount,
});

/**
 * A node of an ad group's product-group tree.
 * - `split` divides by a field; its children are units, splits and one remainder.
 * - `unit` bids on what it holds.
 * - `remainder` is what a split does not name: `closed` gets no ads; `on` is a leak.
 * - `rest` keeps serving what a unit held before single items were lifted out of it; it reaches no further than that
 *   unit did, so it is no leak.
 */
export const productGroupSchema = z.object({
  type: z.literal("productGroup"),
  key,
  adGroup: key,
  parent: key.nullable(),
  role: z.enum(["split", "unit", "remainder", "rest"]),
  /** The value of the parent's split that this node holds; null for the root, a remainder or a rest. */
  value: z.string().nullable(),
  /** For a split: the column its children are told apart by. */
  by: z.string().nullable(),
  status: z.enum(["on", "closed"]),
  /** Mills a click, or null for the ad group's bid. */
  bid: millsAmount.nullable(),
});

/** An item kept out of ads: everywhere (`campaign` null) or in one campaign. */
export const exclusionSchema = z.object({
  type: z.literal("exclusion"),
  key,
  campaign: key.nullable(),
  item: z.string().min(1),
  reason: z.enum(["unsafe", "off-topic", "wasteful", "out of stock"]),
  /** `YYYY-MM-DD` when to look again, or null. */
  reviewOn: z.iso.date().nullable(),
});

/** The items on one shelf as the channel knows them: sent as a label, so a split by a shelf set means the same there. */
export const labelsSchema = z.object({
  type: z.literal("labels"),
  key,
  shelfSet: z.string(),
  shelf: z.string(),
  items: z.array(z.int()),
});

export const recordSchema = z.discriminatedUnion("type", [
  campaignSchema,
  adGroupSchema,
  productGroupSchema,
  exclusionSchema,
  labelsSchema,
  keywordSchema,
  listingTargetSchema,
  reachSchema,
  negativeSchema,
  poolSchema,
  dayCapSchema,
]);

export type Campaign = z.infer<typeof campaignSchema>;
export type AdGroup = z.infer<typeof adGroupSchema>;
export type ProductGroup = z.infer<typeof productGroupSchema>;
export type Exclusion = z.infer<typeof exclusionSchema>;
export type Labels = z.infer<typeof labelsSchema>;
export type StructureRecord = z.infer<typeof recordSchema>;
export type RecordType = StructureRecord["type"];

/** An account's structure: all its records by key. */
export type Structure = Record<string, StructureRecord>;

/** How a record is called in a sentence. */
export const RECORD_LABEL: Record<RecordType, [one: string, many: string]> = {
  campaign: ["campaign", "campaigns"],
  adGroup: ["ad group", "ad groups"],
  productGroup: ["product group", "product groups"],
  exclusion: ["exclusion", "exclusions"],
  labels: ["shelf label", "shelf labels"],
  keyword: ["keyword", "keywords"],
  listingTarget: ["listing target", "listing targets"],
  reach: ["reach kind", "reach kinds"],
  negative: ["negative", "negatives"],
  pool: ["budget pool", "budget pools"],
  dayCap: ["day cap", "day caps"],
};

/** The availability that keeps an item out of campaigns that serve items in stock only. */
export const SOLD_OUT = "out of stock";

/** The column a shelf set's labels are found under in the catalogue's columns. */
export function shelfColumn(shelfSet: string): string {
  return `shelf:${shelfSet}`;
}

/** The records of one type. */
export function recordsOf<T extends RecordType>(
  structure: Structure,
  type: T,
): Extract<StructureRecord, { type: T }>[] {
  const found: StructureRecord[] = [];
  for (const record of Object.values(structure)) if (record.type === type) found.push(record);
  return found as Extract<StructureRecord, { type: T }>[];
}

/** The keys, with those of all given records that hang below them: ad groups of campaigns, groups and targets of both. */
export function dependents(keys: Set<string>, records: StructureRecord[]): Set<string> {
  const found = new Set(keys);
  for (let before = -1; before < found.size;) {
    before = found.size;
    for (const record of records) {
      const above =
        record.type === "adGroup"
          ? [record.campaign]
          : record.type === "productGroup"
            ? [record.adGroup, record.parent]
            : "adGroup" in record
              ? [record.adGroup]
              : record.type === "negative"
                ? [record.scope]
                : [];
      if (above.some((key) => key !== null && found.has(key))) found.add(record.key);
    }
  }
  return found;
}

/** What the channel takes; checked before anything is sent. A table of the test market. */
export const CHANNEL_LIMITS = {
  campaigns: 10_000,
  nameLength: 120,
  productGroupsInAdGroup: 20_000,
  splitDepth: 7,
  /** Mills. */
  lowestBid: 10,
  highestBid: 50_000,
  lowestDailyBudget: 500,
} as const;
