import { z } from "zod";
import { millsToDecimal } from "../../kit/money";
import { readAmount, readName, readStatus } from "./read-cells";
import { defineKind } from "../record-kind";
import {
  amountSchema,
  keySchema,
  nameSchema,
  pausedForSchema,
  reviewOnSchema,
  statusSchema,
  switchedWithReason,
} from "./basics";

export const adGroupSchema = z.object({
  type: z.literal("adGroup"),
  key: keySchema,
  campaign: keySchema,
  name: nameSchema,
  status: statusSchema,
  /** Why it is paused, and when to look again; left out where nobody said. */
  pausedFor: pausedForSchema.optional(),
  reviewOn: reviewOnSchema.optional(),
  /** Mills a click where a product group has no bid of its own. */
  bid: amountSchema,
});

export type AdGroup = z.infer<typeof adGroupSchema>;

export const adGroupKind = defineKind<AdGroup>({
  schema: adGroupSchema,
  label: ["ad group", "ad groups"],
  place: 30,
  parents: ({ campaign }) => [{ key: campaign, types: ["campaign"], bond: "hangs below" }],
  fields: {
    campaign: { label: "campaign", byHand: true, decides: "serving" },
    name: { label: "name" },
    status: { label: "status", byHand: true, decides: "serving" },
    pausedFor: { label: "why it is paused", byHand: true },
    reviewOn: { label: "day to look again", byHand: true },
    bid: { label: "bid", money: true, byHand: true, decides: "spending" },
  },
  changed: {
    campaign: (_, after, { nameOf }) => `moved to ${nameOf(after) ?? after}`,
  },
  name: ({ name, campaign }, known) => {
    const above = known.nameOf(campaign);
    return above === null || above === "" || above === name ? name : `${above} · ${name}`;
  },
  reads: { ad_group: readName(), ad_group_status: readStatus(), ad_group_bid: readAmount("bid") },
  cells: ({ name, status, bid }) => ({ ad_group: name, ad_group_status: status, ad_group_bid: millsToDecimal(bid) }),
  bid: ({ bid }) => bid,
  switched: switchedWithReason,
  isNamed: true,
});
