import { z } from "zod";
import { defineAct } from "../act";
import { flexSchema } from "../records/campaign";
import { eachCampaign, keysSchema } from "./on-records";

/** What the channel may do to bids in an auction. */
export const flex = defineAct({
  schema: z.object({ action: z.literal("flex"), keys: keysSchema, flex: flexSchema }),
  button: "Flex",
  title: "Auction flex",
  fits: ["campaign"],
  affects: [],
  words: (asked) => `Auction flex set to ${asked.flex.mode}`,
  apply: (draft, asked) => eachCampaign(draft, asked.keys, (campaign) => ({ ...campaign, flex: asked.flex })),
});
