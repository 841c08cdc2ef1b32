import { z } from "zod";
import { plural } from "../../kit/format";
import { fail, ok } from "../../kit/outcome";
import { defineAct } from "../act";
import { assetSetSchema, assetsKey } from "../records/assets";
import { keysSchema } from "./on-records";

/** What the ads of asset groups are put together from, all the same. */
export const assets = defineAct({
  schema: z.object({ action: z.literal("assets"), keys: keysSchema, assets: assetSetSchema }),
  button: "Assets",
  title: "Assets",
  fits: ["adGroup"],
  affects: ["homes"],
  words: ({ keys }) => `Assets of ${plural(keys.length, "asset group")}`,
  apply: (draft, asked) => {
    for (const adGroup of asked.keys) {
      const campaign = draft.find("campaign", draft.find("adGroup", adGroup)?.campaign ?? null);
      if (campaign?.kind !== "asset") {
        return fail("edit-unfit", "Only groups of asset campaigns have assets.", "Plan an asset campaign first.");
      }
      draft.put({ ...asked.assets, type: "assets", key: assetsKey(adGroup), adGroup });
    }
    return ok(draft);
  },
});
