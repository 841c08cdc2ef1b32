import { plural } from "../kit/format";
import { fail, ok, type Outcome } from "../kit/outcome";
import type { Draft } from "./draft";
import type { Intent } from "./intents";
import { campaignNamed, freeKey } from "./own-tree";
import type { AdGroup } from "./records/ad-group";
import type { Campaign } from "./records/campaign";

/**
 * Moves ad groups into another campaign of their kind, or into a new one like the one they are in. They keep their keys,
 * so that what they did stays known as theirs. A campaign that is left without any is paused, with its reason.
 */
export function moveGroups(draft: Draft, intent: Extract<Intent, { action: "move-groups" }>): Outcome<Draft> {
  const groups = intent.keys.map((key) => draft.find("adGroup", key));
  if (!groups.every((group): group is AdGroup => group !== undefined)) {
    return fail("edit-unfit", "Only ad groups and asset groups move between campaigns.");
  }
  const sources = [...new Set(groups.map(({ campaign }) => campaign))].flatMap(
    (key) => draft.find("campaign", key) ?? [],
  );
  const [first] = sources;
  const target = targetOf(draft, intent, first);
  if (!target.ok) return target;
  const { kind, key, name } = target.value;
  if (sources.some((source) => source.kind !== kind)) {
    return fail(
      "edit-unfit",
      `“${name}” is a campaign of another kind, which does nothing with such groups.`,
      `Choose a campaign of the kind ${first?.kind ?? ""}.`,
    );
  }
  const moving = new Set(intent.keys);
  for (const group of groups) draft.put({ ...group, campaign: key });
  for (const source of sources) {
    const isLeft = draft.account
      .all("adGroup")
      .some((group) => group.campaign === source.key && !moving.has(group.key));
    if (isLeft || source.key === key || source.status !== "on") continue;
    draft.put({ ...source, status: "paused", pausedFor: `its ${plural(groups.length, "group")} moved to ${name}` });
  }
  return ok(draft);
}

function targetOf(
  draft: Draft,
  { into, name, dailyBudget }: Extract<Intent, { action: "move-groups" }>,
  source: Campaign | undefined,
): Outcome<Campaign> {
  if (into !== null) {
    const found = draft.find("campaign", into);
    return found ? ok(found) : fail("campaign-gone", "That campaign is not there any more.", "Choose another one.");
  }
  if (!source) return fail("record-gone", "What you changed is no longer in the account.", "Reload and try again.");
  if (name === "") return fail("name-missing", "The campaign has no name.", "Give it one.");
  if (campaignNamed(draft, name)) {
    return fail("name-taken", `There is a campaign called “${name}” already.`, "Choose another name.");
  }
  const { pausedFor: _, reviewOn: __, ...plain } = source;
  const made: Campaign = { ...plain, key: freeKey(draft, "c", name), name, dailyBudget, status: "on", origin: null };
  draft.put(made);
  return ok(made);
}
