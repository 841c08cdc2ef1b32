import { z } from "zod";
import { plural } from "../../kit/format";
import { defineAct } from "../act";
import type { Campaign } from "../records/campaign";
import { factorSchema, factorsHold } from "./factors";
import { eachCampaign, keysSchema } from "./on-records";

/** What bids are worth at hours of the day, as a factor. */
export const hourFactor = defineAct({
  schema: z.object({
    action: z.literal("hour-factor"),
    keys: keysSchema,
    hours: z.array(z.int().min(0).max(23)).min(1).max(24),
    factor: factorSchema,
  }),
  button: "Hour factor",
  title: "Hour factor",
  fits: ["campaign", "hour"],
  affects: [],
  words: ({ hours, factor }) => `Bids × ${factor} in ${plural(hours.length, "hour")} of the day`,
  apply: (draft, { keys, hours, factor }) =>
    eachCampaign(draft, keys, (campaign) => withHours(campaign, hours, factor)),
  holds: factorsHold,
});

/** Where all hours count 1 there are no factors. */
function withHours(campaign: Campaign, hours: number[], factor: number): Campaign {
  const { hours: before, ...plain } = campaign;
  const next = (before ?? Array.from({ length: 24 }, () => 1)).map((old, hour) =>
    hours.includes(hour) ? factor : old,
  );
  return next.every((one) => one === 1) ? plain : { ...plain, hours: next };
}
