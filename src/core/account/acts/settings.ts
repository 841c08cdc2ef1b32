import { z } from "zod";
import { plural } from "../../kit/format";
import { fail, ok, type Outcome } from "../../kit/outcome";
import { defineAct } from "../act";
import type { Draft } from "../draft";
import { nameFollowing } from "../name-clash";
import { campaignSchema, type Campaign } from "../records/campaign";
import { keysSchema } from "./on-records";

/** Settings of campaigns that run, as they are changed together; what is left out stays, null takes away. */
export const campaignSettingsSchema = campaignSchema
  .pick({ purpose: true, bidding: true, goal: true, inStockOnly: true, startsOn: true, endsOn: true })
  .extend({ country: campaignSchema.shape.country.unwrap().nullable() })
  .partial()
  .refine((settings) => Object.keys(settings).length > 0, "Nothing is set.");
export type CampaignSettings = z.infer<typeof campaignSettingsSchema>;

/** Settings of campaigns. */
export const settings = defineAct({
  schema: z.object({
    action: z.literal("settings"),
    keys: keysSchema,
    settings: campaignSettingsSchema,
    /** Whether names that say the old purpose say the new one. */
    namesFollow: z.boolean().default(true),
  }),
  button: "Settings",
  title: "Settings",
  fits: ["campaign"],
  affects: ["homes"],
  words: ({ keys }) => `Settings of ${plural(keys.length, "campaign")}`,
  apply: (draft, asked) => setCampaigns(draft, asked.keys, asked.settings, asked.namesFollow),
});

/**
 * Sets campaigns, each where it agrees with what it has already.
 * @param follows whether a name that says the old purpose says the new one from then on, where no other campaign is called so
 */
function setCampaigns(draft: Draft, keys: string[], to: CampaignSettings, follows: boolean): Outcome<Draft> {
  const names = new Set(draft.all("campaign").map(({ name }) => name));
  for (const key of keys) {
    const before = draft.find("campaign", key);
    if (!before) return fail("record-gone", "What you changed is no longer in the account.", "Reload and try again.");
    const after = withSettings(before, to);
    if (after.bidding === "return" && after.goal === null) {
      return fail("goal-missing", `“${before.name}” has no goal to bid towards.`, "Set a goal return along with it.");
    }
    if (after.startsOn && after.endsOn && after.endsOn < after.startsOn) {
      return fail(
        "days-reversed",
        `“${before.name}” would end on ${after.endsOn}, before it begins on ${after.startsOn}.`,
        "Choose other days.",
      );
    }
    const name = follows ? nameFollowing(before.name, before.purpose, after.purpose) : before.name;
    const isFree = name !== before.name && !names.has(name);
    if (isFree) names.add(name);
    draft.put(isFree ? { ...after, name } : after);
  }
  return ok(draft);
}

function withSettings(campaign: Campaign, { country, ...others }: CampaignSettings): Campaign {
  const after = { ...campaign, ...others };
  if (country === null) delete after.country;
  else if (country !== undefined) after.country = country;
  return after;
}
