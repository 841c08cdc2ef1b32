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

/** What is kept under this very stamp, made or being made; null when there is nothing. */
export function recall<T>(db: Database, name: string, stamp: Stamp): Promise<T> | null {
  const key = JSON.stringify(stamp);
  const found = memo
    .get(db)
    ?.get(name)
    ?.find((entry) => entry.stamp === key);
  return found ? (found.value as Promise<T>) : null;
}

/** What was kept last under a name, whatever it was made of: what goes on being used of it need not be read anew. */
export function recallLast<T>(db: Database, name: string): Promise<T> | null {
  const [last] = memo.get(db)?.get(name) ?? [];
  return last ? (last.value as Promise<T>) : null;
}
