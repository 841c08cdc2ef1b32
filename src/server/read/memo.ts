import type { Database } from "@/db/client";

/** What a thing was made of: the revisions and settings that, while they stay, make it good. */
export type Stamp = readonly (string | number | boolean | null | undefined)[];

interface Kept {
  stamp: string;
  value: Promise<unknown>;
}

/** By database, so that closing one forgets all that was read of it; within it by name, last used first. */
const memo = new WeakMap<Database, Map<string, Kept[]>>();

/**
 * What was read or worked out from a workspace's database, kept while what it was made of stays. Whoever comes while it is
 * being made waits for the same work. What is given back is shared and must not be written to.
 * @param name what it is, the same for all of its kind
 * @param stamp the revisions it is made of, and what was asked
 * @param keep how many of the name are kept beside each other
 */
export function remember<T>(
  db: Database,
  name: string,
  stamp: Stamp,
  make: () => Promise<T> | T,
  keep = 1,
): Promise<T> {
  let names = memo.get(db);
  if (!names) memo.set(db, (names = new Map()));
  const key = JSON.stringify(stamp);
  const list = names.get(name) ?? [];
  const found = list.find((entry) => entry.stamp === key);
  if (found) {
    if (list[0] !== found) names.set(name, [found, ...list.filter((entry) => entry !== found)]);
    return found.value as Promise<T>;
  }
  const value = Promise.resolve().then(make);
  const entry: Kept = { stamp: key, value };
  names.set(name, [entry, ...list].slice(0, keep));
  // What could not be made is tried again by the next one who asks.
  value.catch(() => {
    const kept = memo.get(db)?.get(name);
    if (kept)
      memo.get(db)?.set(
        name,
        kept.filter((other) => other !== entry),
      );
  });
  return value;
}
