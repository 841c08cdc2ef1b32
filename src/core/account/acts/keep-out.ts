import { z } from "zod";
import { ok } from "../../kit/outcome";
import { defineAct } from "../act";
import { exclusionReasonSchema, keySchema, reviewOnSchema } from "../records/basics";
import { negativeKey, negativeSchema } from "../records/negative";

const negative = negativeSchema.pick({ what: true, match: true, value: true });

/** Terms, listings or placements where no ads are wanted any more: everywhere, or in one campaign or ad group. */
export const keepOut = defineAct({
  schema: z.object({
    action: z.literal("keep-out"),
    scope: keySchema.nullable(),
    values: z.array(negative).min(1, "Nothing is given.").max(10_000),
    reason: exclusionReasonSchema,
    reviewOn: reviewOnSchema,
  }),
  button: "Keep out",
  title: "Keep out",
  fits: [],
  affects: [],
  words: ({ values, reason }) =>
    values.length === 1
      ? `Kept out of “${values[0]!.value}”: ${reason}`
      : `Kept out of ${values.length} places: ${reason}`,
  apply: (draft, { scope, values, reason, reviewOn }) => {
    for (const { what, match, value } of values) {
      const key = negativeKey({ scope, what, match, value });
      // What is kept out already keeps its reason and its day.
      if (draft.get(key)) continue;
      draft.put({ type: "negative", key, scope, what, match, value, reason, reviewOn });
    }
    return ok(draft);
  },
});
