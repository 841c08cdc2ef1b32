import { z } from "zod";
import { defineKind } from "../record-kind";
import { exclusionReasonSchema, keySchema, reviewOnSchema } from "./basics";

/** An item kept out of ads: everywhere (`campaign` null) or in one campaign. */
export const exclusionSchema = z.object({
  type: z.literal("exclusion"),
  key: keySchema,
  campaign: keySchema.nullable(),
  item: z.string().min(1),
  reason: exclusionReasonSchema,
  reviewOn: reviewOnSchema,
});

export type Exclusion = z.infer<typeof exclusionSchema>;

/** The key of an item's exclusion in a scope. */
export function exclusionKey(item: string, campaign: string | null): string {
  return `x:${campaign ?? "everywhere"}/${encodeURIComponent(item)}`;
}

export const exclusionKind = defineKind<Exclusion>({
  schema: exclusionSchema,
  label: ["exclusion", "exclusions"],
  place: 40,
  parents: ({ campaign }) => (campaign === null ? [] : [{ key: campaign, types: ["campaign"], bond: "hangs below" }]),
  fields: {
    campaign: { label: "campaign", decides: "serving" },
    item: { label: "item", decides: "serving" },
    reason: { label: "reason", byHand: true },
    reviewOn: { label: "day to look again", byHand: true },
  },
  name: ({ item }) => item,
  added: ({ item, campaign, reason }, telling) => {
    const scope = campaign === null ? "everywhere" : `in ${telling.nameOf(campaign) ?? campaign}`;
    return `Item ${item} excluded ${scope}: ${reason}`;
  },
  removed: ({ item }) => `Item ${item} no longer excluded`,
  cells: ({ item, reason, campaign }, known) => ({
    campaign: campaign === null ? "" : known.nameOf(campaign),
    product_group: `id = ${item}`,
    role: reason,
    product_group_status: "excluded",
  }),
});
