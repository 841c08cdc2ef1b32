import { fail, ok, type Outcome } from "../kit/outcome";
import type { Draft } from "./draft";

/** What stands between the parts of made names. */
const BETWEEN = " · ";

/**
 * Follows a value that the feed calls by another name now: groups of the old value hold the new one, under their own keys,
 * so that their bids and results stay with them; campaigns and ad groups that are called like it are called anew.
 * A split that has a group for the new value already is left alone.
 */
export function renameValue(draft: Draft, by: string, from: string, to: string): Outcome<Draft> {
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
