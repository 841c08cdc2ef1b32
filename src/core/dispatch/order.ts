import { kindOf, type AccountRecord } from "../account/records";
import { touchedBy, type Diff } from "../kit/diff";
import type { Change } from "./contract";

/**
 * A diff as changes in an order in which a channel can take them one after another: nothing comes before what it hangs below
 * or draws on, and nothing goes before what hangs below it.
 */
export function inOrder(diff: Diff<AccountRecord>): Change[] {
  const { added, changed, removed } = touchedBy(diff);
  const puts: Change[] = [
    ...added.map((after) => ({ key: after.key, before: null, after })),
    ...changed.map(([before, after]) => ({ key: after.key, before, after })),
  ];
  const removals: Change[] = removed.map((before) => ({ key: before.key, before, after: null }));
  const heightOf = heights(new Map(puts.map(({ key, after }) => [key, after!])));
  const fallOf = heights(new Map(removals.map(({ key, before }) => [key, before!])));
  return [
    ...puts.sort((a, b) => heightOf(a.key) - heightOf(b.key)),
    ...removals.sort((a, b) => fallOf(b.key) - fallOf(a.key)),
  ];
}

/** How many of the records stand one above the other over each; none over what hangs below nothing of them. */
function heights(records: ReadonlyMap<string, AccountRecord>): (key: string) => number {
  const known = new Map<string, number>();
  const heightOf = (key: string): number => {
    const found = known.get(key);
    if (found !== undefined) return found;
    known.set(key, 0);
    const record = records.get(key)!;
    const above = kindOf(record.type)
      .parents(record)
      .filter((parent) => records.has(parent.key))
      .map((parent) => 1 + heightOf(parent.key));
    const height = Math.max(0, ...above);
    known.set(key, height);
    return height;
  };
  return heightOf;
}
