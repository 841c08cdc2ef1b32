import { z } from "zod";
import { defineAct } from "../act";
import { eachCampaign, keysSchema } from "./on-records";

/** Which campaign serves an item first where several hold it. */
export const serveOrder = defineAct({
  schema: z.object({ action: z.literal("serve-order"), keys: keysSchema, serveOrder: z.int().min(1).max(9) }),
  button: "Serve order",
  title: "Serve order",
  fits: ["campaign"],
  affects: ["homes"],
  words: (asked) => `Serve order set to ${asked.serveOrder}`,
  apply: (draft, asked) =>
    eachCampaign(draft, asked.keys, (campaign) => ({ ...campaign, serveOrder: asked.serveOrder })),
});
