import { z } from "zod";
import { plural } from "../../kit/format";
import { fail, ok, type Outcome } from "../../kit/outcome";
import { defineAct } from "../act";
import type { Draft } from "../draft";
import { campaignNamed, freeKey } from "../own-tree";
import type { AdGroup } from "../records/ad-group";
import { amountSchema, keySchema } from "../records/basics";
import type { Campaign } from "../records/campaign";
import { keysSchema } from "./on-records";

const asked = z.object({
  action: z.literal("move-groups"),
  keys: keysSchema,
  /** The campaign they go into; null makes a new one of this name and budget. */
  into: keySchema.nullable(),
  name: z.string().trim().max(200).default(""),
  /** Mills a day. */
  dailyBudget: amountSchema.default(0),
});
type Asked = z.output<typeof asked>;

/** Ad groups into another campaign. */
export const moveGroups = defineAct({
  schema: asked,
  button: "Move",
  title: "Move to another campaign",
  fits: ["adGroup"],
  affects: ["homes", "budgets"],
  words: ({ keys, into, name }) =>
    into === null
      ? `Moved to a campaign of its own: ${name}`
      : `${plural(keys.length, "group")} moved to another campaign`,
  apply: move,
});

/**
 * Moves ad groups into another campaign of their kind, or into a new one like the one they are in. They keep their keys,
 * so that what they did stays known as theirs. A campaign that is left without any is paused, with its reason.
 */
function move(draft: Draft, intent: Asked): Outcome<Draft> {
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
    const isLeft = draft.all("adGroup").some((group) => group.campaign === source.key && !moving.has(group.key));
    if (isLeft || source.key === key || source.status !== "on") continue;
    draft.put({ ...source, status: "paused", pausedFor: `its ${plural(groups.length, "group")} moved to ${name}` });
  }
  return ok(draft);
}

function targetOf(draft: Draft, { into, name, dailyBudget }: Asked, source: Campaign | undefined): Outcome<Campaign> {
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
