import { z } from "zod";
import { defineAct } from "../act";
import { kindOf } from "../records";
import { nameSchema } from "../records/basics";
import { each, keysSchema } from "./on-records";

/** Another name for one campaign or ad group. */
export const rename = defineAct({
  schema: z.object({ action: z.literal("rename"), keys: keysSchema.max(1, "One at a time."), name: nameSchema }),
  button: "Rename",
  title: "Rename",
  fits: ["campaign", "adGroup"],
  affects: [],
  words: ({ name }) => `Renamed to “${name}”`,
  apply: (draft, { keys, name }) =>
    each(draft, keys, (record) => (kindOf(record.type).isNamed ? ({ ...record, name } as typeof record) : null)),
});
