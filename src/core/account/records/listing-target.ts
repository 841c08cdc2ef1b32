import { z } from "zod";
import { millsToDecimal } from "../../kit/money";
import { defineKind } from "../record-kind";
import { amountSchema, keySchema, statusSchema, switchedPlain } from "./basics";

/** A listing whose page is aimed at, by the ID it has on the channel, or a window of a category's listings. */
export const listingTargetSchema = z.object({
  type: z.literal("listingTarget"),
  key: keySchema,
  adGroup: keySchema,
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
  status: statusSchema,
  /** Mills a click, or null for the ad group's bid. */
  bid: amountSchema.nullable(),
});

export type ListingTarget = z.infer<typeof listingTargetSchema>;

export const listingTargetKind = defineKind<ListingTarget>({
  schema: listingTargetSchema as z.ZodType<ListingTarget>,
  label: ["listing target", "listing targets"],
  place: 61,
  parents: ({ adGroup }) => [{ key: adGroup, types: ["adGroup"], bond: "hangs below" }],
  handSet: ["bid", "status"],
  name: ({ aim }) => (aim.by === "listing" ? aim.listing : `listings of ${aim.category}`),
  cells: ({ aim, status, bid }) => ({
    product_group: aim.by === "listing" ? aim.listing : aim.category,
    role: aim.by,
    product_group_status: status,
    bid: bid === null ? null : millsToDecimal(bid),
  }),
  bid: ({ bid }) => bid,
  switched: switchedPlain,
  fits: ["listing"],
});
