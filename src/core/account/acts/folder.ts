import { z } from "zod";
import { defineAct } from "../act";
import { eachCampaign, keysSchema } from "./on-records";

/** What campaigns are sorted under. */
export const folder = defineAct({
  schema: z.object({
    action: z.literal("folder"),
    keys: keysSchema,
    /** Null for none. */
    folder: z.string().trim().min(1).max(60).nullable(),
  }),
  button: "Folder",
  title: "Folder",
  fits: ["campaign"],
  affects: [],
  words: (asked) => (asked.folder === null ? "Taken out of folders" : `Sorted under “${asked.folder}”`),
  apply: (draft, asked) =>
    eachCampaign(draft, asked.keys, ({ folder: _, ...campaign }) =>
      asked.folder === null ? campaign : { ...campaign, folder: asked.folder },
    ),
});
