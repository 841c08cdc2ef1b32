import { z } from "zod";
import { assetSetSchema } from "../account/records/assets";
import { REACHES } from "../account/records/reach";
import { CAMPAIGN_KINDS, campaignSchema, PURPOSES } from "../account/records/campaign";
import { MATCH_TYPES } from "../channel/match-types";
import { CHANNEL_LIMITS } from "../channel/limits";
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
  /** What becomes of the values that are not taken: one branch for all of them, which is usual; no ads; or a rung of their own. */
  others: z.enum(["pooled", "closed", "divided"]).optional(),
  /** For a rung of their own: the field that divides them in place of this one. */
  othersBy: z.string().min(1).optional(),
});

/** What the keywords of a planned keyword or text campaign are made of; see `kinds/aimed.ts`. */
export const keywordPlanSchema = z.object({
  /** Each gives every ad group a keyword, unless one of its splits says nothing there. */
  patterns: z.array(namePatternSchema).min(1, "Write at least one pattern for the keywords.").max(20),
  matches: z.array(z.enum(MATCH_TYPES)).min(1, "Choose how keywords must match."),
});

/** Whose pages a planned listing campaign aims at. */
export const pagePlanSchema = z.object({
  /** `own`: the pages of the ad group's own items. `categories`: a window of listings in their categories. */
  aim: z.enum(["own", "categories"]),
  /** For windows: only listings that cost at least this many times what the group's items do in the middle. */
  dearerFrom: z.number().positive().max(100).nullable(),
  /** For windows: only listings rated no better, 1 to 5 stars. */
  ratingTo: z.number().min(1).max(5).nullable(),
});

/** Settings of a campaign that most plans leave as the channel has them. */
const MORE_SETTINGS = {
  ...({ flex: true, slots: true, hours: true, pool: true } as const),
  ...({ country: true, startsOn: true, endsOn: true } as const),
};

/** What single campaigns of a plan have otherwise than all; of an ad group only the bid counts. */
export const eachSchema = campaignSchema
  .pick({ purpose: true, bidding: true, goal: true, serveOrder: true, inStockOnly: true })
  .extend(campaignSchema.pick(MORE_SETTINGS).shape)
  .extend({ startingBid: z.int().min(0).max(1_000_000) })
  .partial();
export type Each = z.infer<typeof eachSchema>;

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
    kind: z.enum(CAMPAIGN_KINDS).optional(),
    /** What the ads of every asset group are put together from; its own assets can be changed later. */
    assets: assetSetSchema.optional(),
    /** Automatic reaches that each ad group of a discovery campaign gets; left out: all. */
    reach: z.array(z.enum(REACHES)).min(1).optional(),
    /** Set by a migration: keys are made of what reaches were called before they had grounds and rings, so that what was sent is met again. */
    oldReachKeys: z.boolean().optional(),
    keywords: keywordPlanSchema.optional(),
    pages: pagePlanSchema.optional(),
    /** Whether each match type, or reach, gets a campaign of its own, so that it can be priced and stopped alone. */
    apart: z.boolean().optional(),
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
    /** Whether all ad groups bid the same, or each by what a click on its items is worth. Left out: the same. */
    bidBy: z.enum(["same", "worth"]).optional(),
    serveOrder: z.int().min(1).max(9),
    /**
     * Whether it is laid over the catalogue anew after every reading and move of shelves, once applied: the difference is
     * proposed, or goes into the basket by itself where no more than `most` items get, change or lose a home. Left out: no.
     */
    keepStep: z.object({ how: z.enum(["propose", "apply"]), most: z.int().min(0).max(1_000_000) }).optional(),
    /** What every campaign gets besides; left out is what the channel does by itself. */
    settings: campaignSchema.pick(MORE_SETTINGS).optional(),
    /** What single campaigns have otherwise, and bids of single ad groups, by their keys. */
    each: z.record(z.string(), eachSchema).optional(),
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
  .refine((p) => treeDepth(p) <= CHANNEL_LIMITS.splitDepth, {
    message: `The channel's trees are ${CHANNEL_LIMITS.splitDepth} splits deep; a filter takes one, and so does a rung of the others. Take a split away.`,
    path: ["ladder"],
  })
  .refine((p) => p.ladder.every((split) => split.others !== "divided" || (split.othersBy ?? split.by) !== split.by), {
    message: "Choose the field that divides the others.",
    path: ["ladder"],
  })
  .refine((p) => p.kind !== "asset" || p.assets !== undefined, {
    message: "Asset groups need assets.",
    path: ["assets"],
  })
  .refine((p) => (p.kind !== "keyword" && p.kind !== "text") || p.keywords !== undefined, {
    message: "Campaigns that aim at terms need patterns for their keywords.",
    path: ["keywords"],
  })
  .refine((p) => p.kind !== "listing" || p.pages !== undefined, {
    message: "Campaigns that aim at listings need to know whose pages.",
    path: ["pages"],
  })
  .refine((p) => p.bidding !== "return" || p.goal !== null, {
    message: "Bidding towards a return needs a goal.",
    path: ["goal"],
  })
  .refine((p) => p.bidBy !== "worth" || p.goal !== null, {
    message: "Bids by what a click is worth need a goal.",
    path: ["goal"],
  })
  .refine(
    (p) => Object.values(p.each ?? {}).every((one) => (one.bidding ?? p.bidding) !== "return" || (one.goal ?? p.goal)),
    { message: "A campaign that bids towards a return needs a goal.", path: ["each"] },
  );

/** Splits that the deepest tree of a planogram has. */
function treeDepth({ ladder, where }: { ladder: Split[]; where?: { of: unknown[] } | undefined }): number {
  const ofOthers = ladder.filter(({ others }) => others === "divided").length;
  return ladder.length + ofOthers + (where && where.of.length > 0 ? 1 : 0);
}

/** The fields that a ladder divides by, those of the others' rungs too. */
export function ladderFields({ ladder }: Pick<Planogram, "ladder">): string[] {
  return ladder.flatMap(({ by, others, othersBy }) => (others === "divided" && othersBy ? [by, othersBy] : [by]));
}

export type Planogram = z.infer<typeof planogramSchema>;
export type Split = z.infer<typeof splitSchema>;
