import { groupBy } from "../kit/group-by";
import type { Account } from "./account";
import type { Ad } from "./records/ad";

const known = new WeakMap<readonly Ad[], Map<string, Ad[]>>();

/** The text ads of each ad group, by its key. */
export function adsByGroup(account: Account): ReadonlyMap<string, readonly Ad[]> {
  const all = account.all("ad");
  let found = known.get(all);
  if (!found) known.set(all, (found = groupBy(all, ({ adGroup }) => adGroup)));
  return found;
}

/**
 * The text ads that an ad group shows: those that are on; none where it has no ad at all, so that the channel makes one of the
 * title; null where it has ads and all are paused, so that nothing is shown.
 */
export function shownAds(account: Account, adGroup: string): readonly Ad[] | null {
  const ads = adsByGroup(account).get(adGroup);
  if (!ads) return [];
  const on = ads.filter(({ status }) => status === "on");
  return on.length === 0 ? null : on;
}
