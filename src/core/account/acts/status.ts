import { z } from "zod";
import { defineAct } from "../act";
import { kindOf } from "../records";
import { pausedForSchema, reviewOnSchema } from "../records/basics";
import { each, keysSchema } from "./on-records";

/** Switches on, pauses, or closes: campaigns, ad groups and targets are paused, product groups are closed. */
export const status = defineAct({
  schema: z.object({
    action: z.literal("status"),
    keys: keysSchema,
    status: z.enum(["on", "paused", "closed"]),
    /** Why it is paused, in own words, and when to look again. */
    pausedFor: pausedForSchema.optional(),
    reviewOn: reviewOnSchema.optional(),
  }),
  button: "Pause",
  title: "Pause",
  fits: ["campaign", "adGroup", "productGroup", "target"],
  affects: ["homes", "budgets"],
  words: (asked) => {
    if (asked.status === "on") return "Switched on";
    return `${asked.status === "paused" ? "Paused" : "Closed"}${asked.pausedFor ? `: ${asked.pausedFor}` : ""}`;
  },
  apply: (draft, asked) => {
    const to = { ...asked, status: asked.status === "on" ? ("on" as const) : ("off" as const) };
    return each(draft, asked.keys, (record) => kindOf(record.type).switched?.(record, to) ?? null);
  },
});
