import { z } from "zod";
import { defineAct } from "../act";
import { exclusionReasonSchema, reviewOnSchema } from "../records/basics";
import { each, keysSchema } from "./on-records";

/** Why exclusions and negatives are there, and when to look again. */
export const keptOut = defineAct({
  schema: z.object({
    action: z.literal("kept-out"),
    keys: keysSchema,
    reason: exclusionReasonSchema,
    reviewOn: reviewOnSchema,
  }),
  button: "Reason and day",
  title: "Reason and day",
  fits: ["exclusion", "negative"],
  affects: [],
  words: ({ reason }) => `Kept out: ${reason}`,
  apply: (draft, { keys, reason, reviewOn }) =>
    each(draft, keys, (record) =>
      record.type === "exclusion" || record.type === "negative" ? { ...record, reason, reviewOn } : null,
    ),
});
