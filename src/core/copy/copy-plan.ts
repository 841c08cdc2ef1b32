import { z } from "zod";
import { campaignSchema, PURPOSES } from "../account/records/campaign";
import { adLineSchema } from "../account/records/ad-lines";
import { whereSchema } from "../catalogue/where";
import { CHANNEL_LIMITS } from "../channel/limits";
import { MATCH_TYPES } from "../channel/match-types";
import { namePatternSchema } from "../planogram/names";
import { fieldsOfParts } from "../parts/part";
import { LANGUAGES } from "./languages";

/** The kinds of lines a text ad is made of. */
export const LINE_LISTS = ["headlines", "descriptions", "address"] as const;
export type LineList = (typeof LINE_LISTS)[number];

/** Lines that an ad design can have, over all lists: some of them never fit the same item. */
const MOST_LINES = 24;
const MOST_RUNGS = 8;
const MOST_ADS = 20;
const MOST_PATTERNS = 20;

/** One line of an ad: a fit ladder, and what happens where none of its rungs fits. */
export const lineDesignSchema = z.object({
  list: z.enum(LINE_LISTS),
  /** Alternatives, tried in order until one is complete and fits. */
  rungs: z.array(adLineSchema).min(1, "A line needs at least one rung.").max(MOST_RUNGS),
  /** Where none fits: the first complete one runs on into a line of its own behind this one. */
  runsOn: z.boolean().default(false),
  /** Where still none fits: the last complete one is cut at a word. */
  cut: z.boolean().default(false),
  /** Whether it stands in every view; the others take turns. */
  always: z.boolean().default(false),
});
export type LineDesign = z.infer<typeof lineDesignSchema>;

/** An ad as it is designed: lines, and which items it is for. */
export const adDesignSchema = z.object({
  key: z.string().regex(/^[a-z0-9-]{1,20}$/, "letters a to z, digits and hyphens"),
  name: z.string().trim().min(1).max(60),
  /**
   * Designs with the same place stand in for each other: an ad group gets the first that its items meet and that comes out
   * whole. Each place is an ad of its own.
   */
  place: z.int().min(1).max(10),
  /** Which items it is for; left out: all. An ad group gets it where all its items that can be bought meet this. */
  when: whereSchema.optional(),
  lines: z.array(lineDesignSchema).min(1, "An ad needs lines.").max(MOST_LINES),
});
export type AdDesign = z.infer<typeof adDesignSchema>;

/** What the keywords of an ad group are made of. */
export const keywordDesignSchema = z.object({
  /** Texts and fields; each gives every ad group a keyword, unless one of its fields says nothing there. */
  patterns: z.array(adLineSchema).max(MOST_PATTERNS),
  /** Whether titles are shortened word by word until people search for what is left. */
  fromTitles: z.boolean(),
  /** Words of a keyword made of a title. */
  titleWords: z.object({ least: z.int().min(1).max(10), most: z.int().min(1).max(10) }),
  /** Words with which people say that they mean to buy; each keyword is also made with each of them. */
  buyWords: z.array(z.string().trim().min(1).max(30)).max(10),
  /** Words that no keyword may have. */
  never: z.array(z.string().trim().min(1).max(60)).max(500),
  /** How keywords match, each with a step on the ad group's bid: −0.2 is a fifth less. */
  matches: z
    .array(z.object({ match: z.enum(MATCH_TYPES), step: z.number().min(-0.9).max(2) }))
    .min(1, "Choose how keywords must match.")
    .max(MATCH_TYPES.length),
  /** Keywords of an ad group at most, before match types. */
  most: z.int().min(1).max(50),
  /** Who keeps a keyword that several ad groups would have: the one that sold most, that has most items, or the first. */
  keeper: z.enum(["sales", "items", "first"]),
  /** Whether an ad group is kept out of what another one has as an exact keyword. */
  apart: z.boolean(),
});
export type KeywordDesign = z.infer<typeof keywordDesignSchema>;

const SETTINGS = {
  country: true,
  startsOn: true,
  endsOn: true,
  slots: true,
  hours: true,
  flex: true,
  pool: true,
} as const;

/** Which items get which text ads and keywords; see `docs/architecture.md`. */
export const copyPlanSchema = z
  .object({
    key: z.string().regex(/^[a-z0-9-]{1,40}$/, "letters a to z, digits and hyphens"),
    name: z.string().trim().min(1).max(80),
    language: z.enum(LANGUAGES),
    /** Which items are written for at all; left out: all. */
    where: whereSchema.optional(),
    /** Items left out by hand: exceptions from the proof desk. */
    leftOut: z.array(z.string().min(1).max(500)).max(50_000),
    inStockOnly: z.boolean(),
    /** Fields that form campaigns, and below them ad groups: `id` is an ad group an item, `family` one a family. */
    campaignsBy: z.array(z.string().min(1).max(200)).max(3),
    groupsBy: z.array(z.string().min(1).max(200)).min(1, "Choose what forms ad groups.").max(3),
    campaignName: namePatternSchema,
    adGroupName: namePatternSchema,
    ads: z.array(adDesignSchema).min(1, "A copy plan needs an ad.").max(MOST_ADS),
    keywords: keywordDesignSchema,
    /** Words that no line may have. */
    banned: z.array(z.string().trim().min(1).max(60)).max(500),
    /** The same line on more ad groups than this is for a person to look at; null is never. */
    sameOnMost: z.int().min(1).max(1_000_000).nullable(),
    /**
     * Whether ads whose figures changed are written anew by themselves after a reading: into the basket, where no more than
     * `most` ads change. Null: somebody writes them.
     */
    keepUp: z
      .object({ most: z.int().min(1).max(1_000_000) })
      .nullable()
      .default(null),
    purpose: z.enum(PURPOSES),
    /** Mills a day over all campaigns of the plan, and how they share it. */
    totalBudget: z.int().min(0).max(1_000_000_000),
    shareBy: z.enum(["evenly", "items", "cost", "revenue"]),
    /** Mills a click. */
    startingBid: z.int().min(0).max(1_000_000),
    /** Whether all ad groups bid the same, or each by what a click on its items is worth. */
    bidBy: z.enum(["same", "worth"]),
    goal: z.number().positive().max(1000).nullable(),
    serveOrder: z.int().min(1).max(9),
    settings: campaignSchema.pick(SETTINGS).optional(),
  })
  .refine(({ ads }) => new Set(ads.map(({ key }) => key)).size === ads.length, {
    message: "Two ads have the same key.",
    path: ["ads"],
  })
  .refine(({ campaignsBy, groupsBy }) => campaignsBy.length + groupsBy.length < CHANNEL_LIMITS.splitDepth, {
    message: `Campaigns and ad groups are formed by ${CHANNEL_LIMITS.splitDepth - 1} fields at most.`,
    path: ["groupsBy"],
  })
  .refine(({ bidBy, goal }) => bidBy !== "worth" || goal !== null, {
    message: "Bids by what a click is worth need a goal.",
    path: ["goal"],
  })
  .refine(({ keywords: { titleWords } }) => titleWords.least <= titleWords.most, {
    message: "The fewest words of a keyword are more than the most.",
    path: ["keywords", "titleWords"],
  });
export type CopyPlan = z.infer<typeof copyPlanSchema>;

/** Fields that the lines and keywords of a plan take values from. */
export function fieldsOfPlan({ ads, keywords }: Pick<CopyPlan, "ads" | "keywords">): string[] {
  const lines = [...ads.flatMap((ad) => ad.lines.flatMap(({ rungs }) => rungs)), ...keywords.patterns];
  return [...new Set(lines.flatMap(fieldsOfParts))];
}

/** How campaigns name the copy plan that made them, beside planograms. */
export function copyOrigin(key: string): string {
  return `copy:${key}`;
}
