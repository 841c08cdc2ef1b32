import { fail, ok, type Outcome } from "../kit/outcome";
import type { Draft } from "./draft";
import { shortKey } from "./keys";
import type { ProductGroup } from "./records/product-group";

const LIFTED = "Divided, so that single items can bid on their own";

/**
 * Gives one item a bid of its own in the group that serves it. A group that holds more than the item is divided by item:
 * the item gets a unit with the new bid, all others stay together in a rest with the old one. Items lifted before stay
 * lifted, however many there are.
 * @param group key of the product group that serves the item in the account the draft began with
 */
export function liftItem(draft: Draft, group: string, item: string, bid: number): Outcome<Draft> {
  let at = draft.find("productGroup", group);
  // Divided by item since: the item is in what stayed behind.
  while (at?.role === "split" && at.by === "id") at = draft.find("productGroup", stayed(draft, at));
  if (!at || at.role === "split") {
    return fail("group-gone", "The group that served this item is no longer there.", "Reload and try again.");
  }
  const parent = draft.find("productGroup", at.parent);
  if (parent?.by === "id") {
    if (at.value === item) draft.put({ ...at, bid });
    else draft.put(unit(parent, item, bid));
    return ok(draft);
  }
  const isOpen = at.role === "remainder" || at.parent === null;
  const split: ProductGroup = { ...at, role: "split", by: "id", bid: null, status: "on" };
  draft.put(split, LIFTED);
  draft.put(
    {
      ...unit(split, item, at.bid),
      key: restKey(at.key),
      // What stays behind of an open remainder is as open as the remainder was.
      role: isOpen ? "remainder" : "rest",
      value: null,
      status: at.status,
    },
    LIFTED,
  );
  draft.put(unit(split, item, bid));
  return ok(draft);
}

function restKey(split: string): string {
  return `${split}/rest`;
}

/** The key of what stayed behind when items were lifted out of a group. */
function stayed(draft: Draft, split: ProductGroup): string {
  const key = restKey(split.key);
  if (draft.get(key)) return key;
  // A ladder that goes down to items closes its remainder under a key of its own.
  return (
    draft.account.productGroups(split.adGroup).find(({ parent, value }) => parent === split.key && value === null)
      ?.key ?? key
  );
}

function unit(split: ProductGroup, item: string, bid: number | null): ProductGroup {
  return {
    type: "productGroup",
    key: shortKey(`${split.key}/id=${encodeURIComponent(item)}`),
    adGroup: split.adGroup,
    parent: split.key,
    role: "unit",
    value: item,
    by: null,
    status: "on",
    bid,
  };
}
