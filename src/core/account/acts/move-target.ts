import { z } from "zod";
import { fail, ok, type Outcome } from "../../kit/outcome";
import { defineAct } from "../act";
import type { Draft } from "../draft";
import { shortKey } from "../keys";
import { campaignNamed, freeKey } from "../own-tree";
import { TARGET_TYPES, type AccountRecord, type Target } from "../records";
import { amountSchema, nameSchema } from "../records/basics";
import { keysSchema } from "./on-records";

const asked = z.object({
  action: z.literal("move-target"),
  keys: keysSchema,
  name: nameSchema,
  /** Mills a day. */
  dailyBudget: amountSchema,
});

/** Targets into a campaign of their own. */
export const moveTarget = defineAct({
  schema: asked,
  button: "Own campaign",
  title: "Move to a campaign of its own",
  fits: ["target"],
  affects: ["homes", "budgets"],
  words: ({ name }) => `Moved to a campaign of its own: ${name}`,
  apply: move,
});

/** Whether a record is something that an ad group aims at. */
function isTarget(record: AccountRecord | undefined): record is Target {
  return record !== undefined && (TARGET_TYPES as readonly string[]).includes(record.type);
}

/**
 * Moves targets into a new campaign like the one they are in, with the items that their ad groups show. They keep their
 * keys, so that what they did before stays known as theirs.
 */
function move(draft: Draft, { keys, name, dailyBudget }: z.output<typeof asked>): Outcome<Draft> {
  if (campaignNamed(draft, name)) {
    return fail("name-taken", `There is a campaign called “${name}” already.`, "Choose another name.");
  }
  const targets = keys.map((key) => draft.get(key));
  if (!targets.every(isTarget)) return fail("edit-unfit", "Only keywords, listing targets and reaches can be moved.");
  const adGroups = [...new Set(targets.map(({ adGroup }) => adGroup))].map((key) => draft.find("adGroup", key));
  const sources = [...new Set(adGroups.map((group) => group?.campaign ?? null))].map((key) =>
    draft.find("campaign", key),
  );
  const [source] = sources;
  if (!source || sources.some((campaign) => campaign?.kind !== source.kind)) {
    return fail("edit-unfit", "Targets of different kinds of campaign can't go into one.", "Move one kind at a time.");
  }
  const campaign = freeKey(draft, "c", name);
  const { pausedFor: _, reviewOn: __, pool: ___, ...plain } = source;
  draft.put({ ...plain, key: campaign, name, dailyBudget, status: "on", origin: null });
  for (const group of adGroups) {
    if (!group) continue;
    const key = freeKey(draft, "g", `${campaign.slice(2)}-${group.name}`);
    draft.put({ ...group, key, campaign, name: adGroups.length === 1 ? name : group.name, status: "on" });
    const renamed = (old: string) => shortKey(`p:${key.slice(2)}|${old}`);
    for (const node of draft.account.productGroups(group.key)) {
      const parent = node.parent === null ? null : renamed(node.parent);
      draft.put({ ...node, key: renamed(node.key), adGroup: key, parent });
    }
    for (const target of targets) if (target.adGroup === group.key) draft.put({ ...target, adGroup: key });
  }
  return ok(draft);
}
