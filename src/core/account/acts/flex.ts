import { z } from "zod";
import { defineAct } from "../act";
import { flexSchema, flexWords } from "../records/campaign";
import { eachCampaign, keysSchema } from "./on-records";

/** What the channel may do to bids in an auction. */
export const flex = defineAct({
  schema: z.object({ action: z.literal("flex"), keys: keysSchema, flex: flexSchema }),
  button: "Flex",
  title: "Auction flex",
  fits: ["campaign"],
  affects: [],
  words: (asked) => `Auction flex ${flexWords(asked.flex)}`,
  apply: (draft, { keys, flex: range }) =>
    eachCampaign(draft, keys, (campaign) => {
      const { flex: _, ...held } = campaign;
      // Held is what a campaign without a range is, so that asking for it changes nothing there.
      return range.below === 0 && range.above === 0 ? held : { ...held, flex: range };
    }),
});
