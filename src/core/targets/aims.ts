import { z } from "zod";
import { amountSchema, keySchema, nameSchema } from "../account/records/basics";
import { MATCH_TYPES } from "../channel/match-types";
import { listingTargetSchema } from "../account/records/listing-target";
import { PURPOSES } from "../account/records/campaign";
import { keywordFault } from "../channel/keyword-fault";

/** Something to aim at. A keyword with several match types becomes a keyword for each. */
export const aimSchema = z.discriminatedUnion("what", [
  z.object({
    what: z.literal("keyword"),
    text: z.string().max(2000),
    matches: z.array(z.enum(MATCH_TYPES)).min(1, "Choose how it must match."),
  }),
  z.object({ what: z.literal("listing"), listing: z.string().max(2000) }),
  z.object({ what: z.literal("window"), window: listingTargetSchema.shape.aim.options[1] }),
]);
export type Aim = z.infer<typeof aimSchema>;

/** Most values that go in at once. */
const MOST_AIMS = 5000;

/** What to aim at, with which items, and where. Money in mills. */
export const aimingSchema = z.object({
  aims: z.array(aimSchema).min(1, "Nothing is chosen.").max(MOST_AIMS),
  /** An ad group that runs, whose items are shown; or items in a campaign that runs, or in one of their own. */
  place: z.discriminatedUnion("kind", [
    z.object({ kind: z.literal("ad-group"), adGroup: keySchema }),
    z.object({ kind: z.literal("campaign"), campaign: keySchema, items: z.array(z.string().max(500)).max(1000) }),
    z.object({
      kind: z.literal("new"),
      name: nameSchema,
      purpose: z.enum(PURPOSES),
      dailyBudget: amountSchema,
      items: z.array(z.string().max(500)).max(1000),
      /** Left out: before homes as they usually stand, after nothing else. */
      serveOrder: z.int().min(1).max(9).optional(),
    }),
  ]),
  /** A click at most, for each of them; null takes the first bid that is proposed for each. */
  bid: amountSchema.nullable().default(null),
  /** A click at most for single ones, and those that are left out, by the `id` that a preview gives each. */
  bids: z.record(z.string(), amountSchema).default({}),
  leftOut: z
    .array(z.string())
    .max(MOST_AIMS * MATCH_TYPES.length)
    .default([]),
});
export type Aiming = z.output<typeof aimingSchema>;

/** What is aimed at by name serves before the homes of its items, whose bids are meant for everything. */
export const AIMED_FIRST = 2;

/** The kind of campaign that aims at such things. */
export function campaignKindOf({ what }: Aim): "keyword" | "listing" {
  return what === "keyword" ? "keyword" : "listing";
}

/** Why something can't be aimed at, in a sentence; null when it can. @param isOwn whether a listing is one of our items */
export function aimFault(aim: Aim, isOwn: (listing: string) => boolean, purpose: string | null): string | null {
  if (aim.what === "window") {
    const { priceFrom, priceTo, ratingFrom, ratingTo } = aim.window;
    const isReversed = (from: number | null, to: number | null) => from !== null && to !== null && to < from;
    if (isReversed(priceFrom, priceTo)) return "The window's highest price lies below its lowest.";
    if (isReversed(ratingFrom, ratingTo)) return "The window's highest rating lies below its lowest.";
    return null;
  }
  if (aim.what === "listing") {
    const listing = aim.listing.trim();
    if (listing === "") return "There is no listing's code.";
    if (listing.length > 300) return `“${listing.slice(0, 40)}…” is longer than any listing's code.`;
    if (isOwn(listing) && purpose !== "defend") {
      return `“${listing}” is an item of your own. Aim at it in a campaign whose purpose is to defend.`;
    }
    return null;
  }
  return keywordFault(aim.text);
}

/** How an aim is called. */
export function aimLabel(aim: Aim): string {
  if (aim.what === "keyword") return aim.text.trim();
  return aim.what === "listing" ? aim.listing.trim() : `listings of ${aim.window.category}`;
}
