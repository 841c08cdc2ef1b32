import { z } from "zod";
import { assetSetSchema } from "../account/records/assets";
import { REACH_KINDS } from "../account/records/reach";
import { campaignSchema, PURPOSES } from "../account/records/campaign";
import { CHANNEL_LIMITS } from "../account/channel-limits";
import { whereSchema } from "../catalogue/where";
import { MOST_LEVELS, namePatternSchema } from "./names";

/** One level of the ladder: a column of the catalogue, a shelf set (`shelf:` column) or the items themselves (`id`). */
export const splitSchema = z.object({
  by: z.string().min(1),
  /** Take only the biggest values; null takes all. */
  largest: z
    .object({ count: z.int().min(1).max(1000), measure: z.enum(["items", "cost", "clicks", "revenue"]) })
    .nullable(),
  /** Take these values by hand; left out takes all, or the biggest. */
  values: z.array(z.string().max(2000)).min(1).max(50_000).optional(),
  /** What becomes of the values that are not taken: one branch for all of them, which is usual, or no ads. */
  others: z.enum(["pooled", "closed"]).optional(),
});

/**
 * Kinds of campaign that a ladder makes whole. Keyword, listing and text campaigns need something to aim at besides,
 * which is chosen where it is seen.
 */
export const PLANNED_KINDS = ["feed", "asset", "discovery"] as const;

export const planogramSchema = z
  .object({
    key: z.string().regex(/^[a-z0-9-]{1,40}$/, "letters a to z, digits and hyphens"),
    name: z.string().trim().min(1).max(80),
    ladder: z.array(splitSchema).min(1).max(MOST_LEVELS),
    /** How many levels form campaigns: 0 is one campaign for everything. */
    campaignLine: z.int().min(0).max(MOST_LEVELS),
    /** How many levels form ad groups; at least the campaign line. Levels below form product groups. */
    adGroupLine: z.int().min(0).max(MOST_LEVELS),
    /** Which items are planned at all; left out are all. */
    where: whereSchema.optional(),
    /** Leave out items that can't be bought. */
    inStockOnly: z.boolean(),
    campaignName: namePatternSchema,
    adGroupName: namePatternSchema,
    /** Left out: feed. */
    kind: z.enum(PLANNED_KINDS).optional(),
    /** What the ads of every asset group are put together from; its own assets can be changed later. */
    assets: assetSetSchema.optional(),
    /** Kinds of automatic reach that each ad group of a discovery campaign gets; left out: all. */
    reach: z.array(z.enum(REACH_KINDS)).min(1).optional(),
    purpose: z.enum(PURPOSES),
    bidding: z.enum(["fixed", "clicks", "return"]),
    goal: z.number().positive().max(1000).nullable(),
    /** Mills a day over all campaigns of the planogram. */
    totalBudget: z.int().min(0).max(1_000_000_000),
    shareBy: z.enum(["evenly", "items", "cost", "revenue", "marginal", "shares"]),
    /** For sharing by shares: one for each campaign in the order of the plan, in any unit; the last counts for all after it. */
    shares: z.array(z.number().min(0).max(1_000_000)).min(1).max(1000).optional(),
    /** Budgets set by hand, mills a day by the campaign's key; the others share what is left of the total. */
    budgets: z.record(z.string(), z.int().min(0).max(1_000_000_000)).optional(),
    /** Mills a click. */
    startingBid: z.int().min(0).max(1_000_000),
    serveOrder: z.int().min(1).max(9),
    /**
     * Whether it is laid over the catalogue anew after every reading and move of shelves, once applied: the difference is
     * proposed, or goes into the basket by itself where no more than `most` items get, change or lose a home. Left out: no.
     */
    keepStep: z.object({ how: z.enum(["propose", "apply"]), most: z.int().min(0).max(1_000_000) }).optional(),
    /** What every campaign gets besides; left out is what the channel does by itself. */
    settings: campaignSchema
      .pick({ flex: true, slots: true, hours: true, pool: true, startsOn: true, endsOn: true })
      .optional(),
    /** Values that the feed came to call otherwise, oldest first: groups of the new name keep the keys, and so the history, of the old. */
    renamed: z
      .array(z.object({ by: z.string(), from: z.string(), to: z.string() }))
      .max(5000)
      .optional(),
    /** Keys of running campaigns that this planogram takes the place of; they are paused when it is applied. */
    replaces: z.array(z.string()),
  })
  .refine((p) => p.campaignLine <= p.adGroupLine && p.adGroupLine <= p.ladder.length, {
    message: "The campaign line can't lie below the ad-group line, nor either below the last split.",
    path: ["adGroupLine"],
  })
  .refine((p) => p.ladder.length + (p.where && p.where.of.length > 0 ? 1 : 0) <= CHANNEL_LIMITS.splitDepth, {
    message: `The channel's trees are ${CHANNEL_LIMITS.splitDepth} splits deep, and a filter takes one. Take a split away.`,
    path: ["ladder"],
  })
  .refine((p) => p.kind !== "asset" || p.assets !== undefined, {
    message: "Asset groups need assets.",
    path: ["assets"],
  })
  .refine((p) => p.bidding !== "return" || p.goal !== null, {
    message: "Bidding towards a return needs a goal.",
    path: ["goal"],
  });

export type Planogram = z.infer<typeof planogramSchema>;
export type Split = z.infer<typeof splitSchema>;
