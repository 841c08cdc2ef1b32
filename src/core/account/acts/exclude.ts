import { z } from "zod";
import { fail, ok } from "../../kit/outcome";
import { defineAct } from "../act";
import { exclusionReasonSchema, keySchema, reviewOnSchema } from "../records/basics";
import { exclusionKey } from "../records/exclusion";
import { keysSchema } from "./on-records";

/** Keeps items out of ads. */
export const exclude = defineAct({
  schema: z.object({
    action: z.literal("exclude"),
    items: keysSchema,
    reason: exclusionReasonSchema,
    reviewOn: reviewOnSchema.default(null),
    /** Key of the one campaign that they are kept out of; null is everywhere. */
    campaign: keySchema.nullable().default(null),
  }),
  button: "Exclude",
  title: "Exclude",
  fits: ["item"],
  affects: ["homes"],
  words: ({ reason }) => `Excluded: ${reason}`,
  apply: (draft, { items, campaign, reason, reviewOn }) => {
    if (campaign !== null && !draft.find("campaign", campaign)) {
      return fail("exclusion-scope-gone", "The campaign they should be kept out of is not there any more.");
    }
    for (const item of items) {
      draft.put({ type: "exclusion", key: exclusionKey(item, campaign), campaign, item, reason, reviewOn });
    }
    return ok(draft);
  },
});
