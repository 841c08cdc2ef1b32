import { z } from "zod";
import { fail, ok, type Outcome } from "../../kit/outcome";
import { defineAct } from "../act";
import type { Draft } from "../draft";

/** Groups of a value that the feed calls otherwise now. */
export const renameValue = defineAct({
  schema: z.object({
    action: z.literal("rename-value"),
    /** The field that groups are split by, and the value before and now. */
    by: z.string().min(1).max(200),
    from: z.string().min(1).max(500),
    to: z.string().min(1).max(500),
  }),
  button: "Follow",
  title: "Follow a renamed value",
  fits: [],
  affects: ["homes"],
  words: ({ from, to }) => `“${from}” is now called “${to}”`,
  apply: (draft, { by, from, to }) => follow(draft, by, from, to),
});

/** What stands between the parts of made names. */
const BETWEEN = " · ";

/**
 * Follows a value that the feed calls by another name now: groups of the old value hold the new one, under their own keys,
 * so that their bids and results stay with them; campaigns and ad groups that are called like it are called anew.
 * A split that has a group for the new value already is left alone.
 */
function follow(draft: Draft, by: string, from: string, to: string): Outcome<Draft> {
  const { account } = draft;
  const children = new Map<string, Set<string>>();
  for (const { parent, value } of account.all("productGroup")) {
    if (parent === null || value === null) continue;
    children.set(parent, (children.get(parent) ?? new Set()).add(value));
  }
  const touched = new Set<string>();
  for (const group of account.all("productGroup")) {
    if (group.value !== from || group.parent === null) continue;
    if (draft.find("productGroup", group.parent)?.by !== by || children.get(group.parent)?.has(to)) continue;
    draft.put({ ...group, value: to });
    touched.add(group.adGroup);
  }
  if (touched.size === 0) {
    return fail("rename-nowhere", `No group is named for "${from}" that could be named for "${to}".`);
  }
  const renamed = (name: string) =>
    name
      .split(BETWEEN)
      .map((part) => (part === from ? to : part))
      .join(BETWEEN);
  for (const key of touched) {
    const adGroup = draft.find("adGroup", key);
    if (!adGroup) continue;
    draft.put({ ...adGroup, name: renamed(adGroup.name) });
    const campaign = draft.find("campaign", adGroup.campaign);
    if (campaign) draft.put({ ...campaign, name: renamed(campaign.name) });
  }
  return ok(draft);
}
