import { shortKey } from "./keys";
import type { Draft } from "./draft";

/**
 * Puts the product groups of an ad group that shows just some values of a field: one unit each, the remainder closed.
 * @param by `id` for single items, `family` for whole families and whatever joins them later
 */
export function putTree(draft: Draft, adGroup: string, by: "id" | "family", values: Iterable<string>): void {
  const root = shortKey(`p:${adGroup.slice(2)}|`);
  const base = { type: "productGroup", adGroup, bid: null } as const;
  draft.put({ ...base, key: root, parent: null, role: "split", value: null, by, status: "on" });
  draft.put({ ...base, key: `${root}/*`, parent: root, role: "remainder", value: null, by: null, status: "closed" });
  for (const value of new Set(values)) {
    const key = shortKey(`${root}/${by}=${encodeURIComponent(value)}`);
    draft.put({ ...base, key, parent: root, role: "unit", value, by: null, status: "on" });
  }
}

/** A key that nothing in the account has, made from a name. */
export function freeKey(draft: Draft, prefix: "c" | "g" | "pool", name: string): string {
  const stem = `${prefix}:${
    name
      .toLowerCase()
      .normalize("NFKD")
      .replace(/[^\p{L}\p{N}]+/gu, "-")
      .replace(/^-+|-+$/g, "")
      .slice(0, 80) || "unnamed"
  }`;
  let key = stem;
  for (let n = 2; draft.get(key); n++) key = `${stem}-${n}`;
  return key;
}

/** The campaign that has a name already, or undefined: the channel takes a name once. */
export function campaignNamed(draft: Draft, name: string) {
  return draft.all("campaign").find((campaign) => campaign.name === name);
}
