import { z } from "zod";
import { ok } from "../../kit/outcome";
import { defineAct } from "../act";
import { keySchema } from "../records/basics";
import { keysSchema } from "./on-records";

/** Lets items into ads again. */
export const include = defineAct({
  schema: z.object({
    action: z.literal("include"),
    items: keysSchema,
    /** Where they were kept out: one campaign, or null for the exclusion from everywhere; left out lifts all of them. */
    campaign: keySchema.nullable().optional(),
  }),
  button: "Include again",
  title: "Include again",
  fits: ["item"],
  affects: ["homes"],
  words: () => "No longer excluded",
  apply: (draft, { items, campaign }) => {
    const wanted = new Set(items);
    for (const exclusion of draft.all("exclusion")) {
      const isMeant = campaign === undefined || exclusion.campaign === campaign;
      if (isMeant && wanted.has(exclusion.item)) draft.remove(exclusion.key);
    }
    return ok(draft);
  },
});
