import { z } from "zod";
import { millsToDecimal } from "../../kit/money";
import { MATCH_TYPES } from "../../channel/match-types";
import { defineKind } from "../record-kind";
import { readAmount, readStatus } from "./read-cells";
import { amountSchema, keySchema, statusSchema, switchedPlain } from "./basics";

/** A keyword of an ad group in a keyword or text campaign. */
export const keywordSchema = z.object({
  type: z.literal("keyword"),
  key: keySchema,
  adGroup: keySchema,
  text: z.string().trim().min(1).max(200),
  match: z.enum(MATCH_TYPES),
  status: statusSchema,
  /** Mills a click, or null for the ad group's bid. */
  bid: amountSchema.nullable(),
});

export type Keyword = z.infer<typeof keywordSchema>;

export const keywordKind = defineKind<Keyword>({
  schema: keywordSchema,
  label: ["keyword", "keywords"],
  place: 60,
  parents: ({ adGroup }) => [{ key: adGroup, types: ["adGroup"], bond: "hangs below" }],
  fields: {
    adGroup: { label: "ad group", decides: "serving" },
    text: { label: "text", decides: "serving" },
    match: { label: "match", decides: "serving" },
    status: { label: "status", byHand: true, decides: "serving" },
    bid: { label: "bid", money: true, byHand: true, decides: "spending" },
  },
  name: ({ text, match }) => `${text} (${match})`,
  reads: { product_group_status: readStatus(), bid: readAmount("bid", true) },
  cells: ({ text, match, status, bid }) => ({
    product_group: text,
    role: match,
    product_group_status: status,
    bid: bid === null ? null : millsToDecimal(bid),
  }),
  bid: ({ bid }) => bid,
  switched: switchedPlain,
  fits: ["keyword", "text"],
});
