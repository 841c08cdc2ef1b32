import { z } from "zod";

const key = z.string().min(1).max(600);
const bid = z.int().min(0).max(1_000_000_000).nullable();
const status = z.enum(["on", "paused"]);

export const MATCH_TYPES = ["exact", "phrase", "broad"] as const;
export type MatchType = (typeof MATCH_TYPES)[number];

/** A keyword of an ad group in a keyword or text campaign. */
export const keywordSchema = z.object({
  type: z.literal("keyword"),
  key,
  adGroup: key,
  text: z.string().trim().min(1).max(200),
  match: z.enum(MATCH_TYPES),
  status,
  /** Mills a click, or null for the ad group's bid. */
  bid,
});

/** A listing whose page is aimed at, by the ID it has on the channel, or a window of a category's listings. */
export const listingTargetSchema = z.object({
  type: z.literal("listingTarget"),
  key,
  adGroup: key,
  aim: z.discriminatedUnion("by", [
    z.object({ by: z.literal("listing"), listing: z.string().min(1).max(300) }),
    z.object({
      by: z.literal("category"),
      /** The category's whole path, or the beginning of it. */
      category: z.string().min(1).max(500),
      /** Mills. */
      priceFrom: z.int().min(0).nullable().default(null),
      priceTo: z.int().min(0).nullable().default(null),
      /** Stars, 1 to 5. */
      ratingFrom: z.number().min(1).max(5).nullable().default(null),
      ratingTo: z.number().min(1).max(5).nullable().default(null),
      reviewsTo: z.int().min(0).nullable().default(null),
    }),
  ]),
  status,
  bid,
});

export const REACH_KINDS = ["tight-terms", "wide-terms", "rival-pages", "companion-pages"] as const;
export type ReachKind = (typeof REACH_KINDS)[number];

/** One kind of automatic reach of an ad group in a discovery campaign. */
export const reachSchema = z.object({
  type: z.literal("reach"),
  key,
  adGroup: key,
  kind: z.enum(REACH_KINDS),
  status,
  bid,
});

/** A term, listing or placement where no ads are wanted: everywhere, in a campaign, or in an ad group. */
export const negativeSchema = z.object({
  type: z.literal("negative"),
  key,
  /** Key of a campaign or ad group; null is the whole workspace. */
  scope: key.nullable(),
  what: z.enum(["term", "listing", "placement"]),
  /** How a term must match: the whole of it, or a part. */
  match: z.enum(["exact", "phrase"]).default("exact"),
  value: z.string().trim().min(1).max(300),
  reason: z.enum(["unsafe", "off-topic", "wasteful", "out of stock"]),
  /** `YYYY-MM-DD` when to look again, or null. */
  reviewOn: z.iso.date().nullable().default(null),
});

export type Keyword = z.infer<typeof keywordSchema>;
export type ListingTarget = z.infer<typeof listingTargetSchema>;
export type Reach = z.infer<typeof reachSchema>;
export type Negative = z.infer<typeof negativeSchema>;
/** What an ad group aims at, beside the items it shows. */
export type Target = Keyword | ListingTarget | Reach;
