/**
 * A change between two states of keyed records: the one currency of change. A planogram's output, the basket,
 * a dispatch and its undo are this same thing at different times.
 *
 * @example
 * diffRecords({ a: 1, b: 2 }, { b: 3, c: 4 })
 * // { added: { c: 4 }, changed: { b: [2, 3] }, removed: { a: 1 } }
 */
export interface Diff<T> {
  added: Record<string, T>;
  changed: Record<string, [from: T, to: T]>;
  removed: Record<string, T>;
}

/** A diff that changes nothing. */
export function emptyDiff<T>(): Diff<T> {
  return { added: {}, changed: {}, removed: {} };
}

/** Whether two plain JSON values are the same, whatever the order of their keys. */
export function sameValue(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (typeof a !== "object" || typeof b !== "object" || a === null || b === null) return false;
  if (Array.isArray(a) !== Array.isArray(b)) return false;
  // Without lists of keys: structures of 100,000 records are compared field by field.
  let more = 0;
  for (const key in a) {
    if (!(key in b) || !sameValue((a as never)[key], (b as never)[key])) return false;
    more++;
  }
  for (const _ in b) more--;
  return more === 0;
}

/** What leads from `before` to `after`. */
export function diffRecords<T>(before: Record<string, T>, after: Record<string, T>): Diff<T> {
  const diff = emptyDiff<T>();
  for (const [key, to] of Object.entries(after)) {
    if (!Object.hasOwn(before, key)) diff.added[key] = to;
    else if (!sameValue(before[key], to)) diff.changed[key] = [before[key] as T, to];
  }
  for (const [key, from] of Object.entries(before)) if (!Object.hasOwn(after, key)) diff.removed[key] = from;
  return diff;
}

/** The diff that takes this one back. Inverting twice gives the same diff. */
export function invertDiff<T>(diff: Diff<T>): Diff<T> {
  const changed: Diff<T>["changed"] = {};
  for (const [key, [from, to]] of Object.entries(diff.changed)) changed[key] = [to, from];
  return { added: { ...diff.removed }, changed, removed: { ...diff.added } };
}

/** The records after a diff; what the diff does not name stays as it is. */
export function applyDiff<T>(records: Record<string, T>, diff: Diff<T>): Record<string, T> {
  const result = { ...records };
  for (const key of Object.keys(diff.removed)) delete result[key];
  for (const [key, [, to]] of Object.entries(diff.changed)) result[key] = to;
  for (const [key, to] of Object.entries(diff.added)) result[key] = to;
  return result;
}

/** One diff that does what `first` and then `second` do. Changes that cancel out vanish. */
export function composeDiffs<T>(first: Diff<T>, second: Diff<T>): Diff<T> {
  const start: Record<string, T> = {};
  const end: Record<string, T> = {};
  for (const [key, to] of Object.entries(first.added)) end[key] = to;
  for (const [key, [from, to]] of Object.entries(first.changed)) {
    start[key] = from;
    end[key] = to;
  }
  for (const [key, from] of Object.entries(first.removed)) start[key] = from;
  const untouched = (key: string) => !Object.hasOwn(start, key) && !Object.hasOwn(first.added, key);
  for (const [key, to] of Object.entries(second.added)) end[key] = to;
  for (const [key, [from, to]] of Object.entries(second.changed)) {
    if (untouched(key)) start[key] = from;
    end[key] = to;
  }
  for (const [key, from] of Object.entries(second.removed)) {
    if (untouched(key)) start[key] = from;
    delete end[key];
  }
  return diffRecords(start, end);
}

/** What a diff holds, as lists. */
export interface Touched<T> {
  added: readonly T[];
  changed: readonly (readonly [from: T, to: T])[];
  removed: readonly T[];
}

const lists = new WeakMap<Diff<unknown>, Touched<unknown>>();

/**
 * What a diff holds, as lists. They are made once, since a diff never changes once it is made:
 * going through the keys of half a million changes takes a third of a second each time.
 */
export function touchedBy<T>(diff: Diff<T>): Touched<T> {
  let found = lists.get(diff) as Touched<T> | undefined;
  if (!found) {
    const { added, changed, removed } = diff;
    found = { added: Object.values(added), changed: Object.values(changed), removed: Object.values(removed) };
    lists.set(diff, found);
  }
  return found;
}

/** A diff from what each key had before and has after; null where it was or is not there. No key comes twice. */
export function diffOf<T>(rows: Iterable<readonly [key: string, before: T | null, after: T | null]>): Diff<T> {
  const diff = emptyDiff<T>();
  // The lists are filled on the way: taking them out of half a million keys again costs as much as putting them in.
  const touched = { added: [] as T[], changed: [] as [T, T][], removed: [] as T[] };
  for (const [key, before, after] of rows) {
    if (before !== null && after !== null) touched.changed.push((diff.changed[key] = [before, after]));
    else if (after !== null) touched.added.push((diff.added[key] = after));
    else if (before !== null) touched.removed.push((diff.removed[key] = before));
  }
  lists.set(diff, touched);
  return diff;
}

/** How many records a diff touches. */
export function diffSize(diff: Diff<unknown>): number {
  const { added, changed, removed } = touchedBy(diff);
  return added.length + changed.length + removed.length;
}
