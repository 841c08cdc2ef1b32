import { z } from "zod";
import { millsToDecimal } from "../../kit/money";
import { defineKind } from "../record-kind";
import { readAmount, readStatus } from "./read-cells";
import { amountSchema, keySchema, statusSchema, switchedPlain } from "./basics";

export const REACH_KINDS = ["tight-terms", "wide-terms", "rival-pages", "companion-pages"] as const;
export type ReachKind = (typeof REACH_KINDS)[number];

/** One kind of automatic reach of an ad group in a discovery campaign. */
export const reachSchema = z.object({
  type: z.literal("reach"),
  key: keySchema,
  adGroup: keySchema,
  kind: z.enum(REACH_KINDS),
  status: statusSchema,
  /** Mills a click, or null for the ad group's bid. */
  bid: amountSchema.nullable(),
});

export type Reach = z.infer<typeof reachSchema>;

export const reachKind = defineKind<Reach>({
  schema: reachSchema,
  label: ["reach kind", "reach kinds"],
  place: 62,
  parents: ({ adGroup }) => [{ key: adGroup, types: ["adGroup"], bond: "hangs below" }],
  fields: {
    adGroup: { label: "ad group", decides: "serving" },
    kind: { label: "kind", decides: "serving" },
    status: { label: "status", byHand: true, decides: "serving" },
    bid: { label: "bid", money: true, byHand: true, decides: "spending" },
  },
  name: ({ kind }) => kind.replace("-", " "),
  reads: { product_group_status: readStatus(), bid: readAmount("bid", true) },
  cells: ({ kind, status, bid }) => ({
    product_group: kind,
    role: "automatic",
    product_group_status: status,
    bid: bid === null ? null : millsToDecimal(bid),
  }),
  bid: ({ bid }) => bid,
  switched: switchedPlain,
  fits: ["discovery"],
});
