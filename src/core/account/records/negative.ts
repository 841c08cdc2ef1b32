import { z } from "zod";
import { shortKey } from "../keys";
import { defineKind } from "../record-kind";
import { exclusionReasonSchema, keySchema, reviewOnSchema } from "./basics";

/** A term, listing or placement where no ads are wanted: everywhere, in a campaign, or in an ad group. */
export const negativeSchema = z.object({
  type: z.literal("negative"),
  key: keySchema,
  /** Key of a campaign or ad group; null is the whole workspace. */
  scope: keySchema.nullable(),
  what: z.enum(["term", "listing", "placement"]),
  /** How a term must match: the whole of it, or a part. */
  match: z.enum(["exact", "phrase"]).default("exact"),
  value: z.string().trim().min(1).max(300),
  reason: exclusionReasonSchema,
  reviewOn: reviewOnSchema.default(null),
});

export type Negative = z.infer<typeof negativeSchema>;

/** The key of a negative: the same thing kept out of the same place is one record. */
export function negativeKey({
  what,
  match,
  value,
  scope,
}: Pick<Negative, "what" | "match" | "value" | "scope">): string {
  return shortKey(`n:${scope ?? ""}/${what}/${match}/${value}`);
}

export const negativeKind = defineKind<Negative>({
  schema: negativeSchema as z.ZodType<Negative>,
  label: ["negative", "negatives"],
  place: 50,
  parents: ({ scope }) => (scope === null ? [] : [{ key: scope, types: null, bond: "hangs below" }]),
  fields: {
    scope: { label: "where it holds", decides: "serving" },
    what: { label: "what it stops", decides: "serving" },
    match: { label: "match", decides: "serving" },
    value: { label: "value", decides: "serving" },
    reason: { label: "reason", byHand: true },
    reviewOn: { label: "day to look again", byHand: true },
  },
  name: ({ value }) => value,
  cells: ({ scope, what, value, match }, known) => ({
    campaign: scope === null ? "" : known.nameOf(scope),
    product_group: `${what} = ${value}`,
    role: match,
    product_group_status: "excluded",
  }),
});
