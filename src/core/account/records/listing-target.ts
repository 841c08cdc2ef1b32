import { z } from "zod";
import { millsToDecimal } from "../../kit/money";
import { listingWindowSchema } from "../../channel/listing-window";
import { defineKind } from "../record-kind";
import { readAmount, readStatus } from "./read-cells";
import { amountSchema, keySchema, statusSchema, switchedPlain } from "./basics";

/** A listing whose page is aimed at, by the ID it has on the channel, or a window of a category's listings. */
export const listingTargetSchema = z.object({
  type: z.literal("listingTarget"),
  key: keySchema,
  adGroup: keySchema,
  aim: z.discriminatedUnion("by", [
    z.object({ by: z.literal("listing"), listing: z.string().min(1).max(300) }),
    listingWindowSchema,
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
  fields: {
    adGroup: { label: "ad group", decides: "serving" },
    aim: { label: "aim", decides: "serving" },
    status: { label: "status", byHand: true, decides: "serving" },
    bid: { label: "bid", money: true, byHand: true, decides: "spending" },
  },
  name: ({ aim }) => (aim.by === "listing" ? aim.listing : `listings of ${aim.category}`),
  reads: { product_group_status: readStatus(), bid: readAmount("bid", true) },
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
