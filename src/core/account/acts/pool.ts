import { z } from "zod";
import { fail } from "../../kit/outcome";
import { defineAct } from "../act";
import { keySchema } from "../records/basics";
import { eachCampaign, keysSchema } from "./on-records";

/** The pool that campaigns draw on; null for none. */
export const pool = defineAct({
  schema: z.object({ action: z.literal("pool"), keys: keysSchema, pool: keySchema.nullable() }),
  button: "Pool",
  title: "Budget pool",
  fits: ["campaign"],
  affects: [],
  words: (asked) => (asked.pool === null ? "Draws on no pool" : "Draws on a budget pool"),
  apply: (draft, asked) => {
    if (asked.pool !== null && !draft.find("pool", asked.pool)) {
      return fail("pool-gone", "That budget pool is not there any more.", "Choose another one.");
    }
    return eachCampaign(draft, asked.keys, (campaign) => ({ ...campaign, pool: asked.pool }));
  },
});
