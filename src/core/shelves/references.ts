import { shelfSetOf } from "../account/records/labels";
import { namesIn, type ShelfSet } from "./shelf-set";

/** The other sets that a set's rules ask about. */
export function setsNamedIn(set: ShelfSet): string[] {
  return namesIn(set).flatMap((name) => shelfSetOf(name) ?? []);
}

/** Sets in an order in which each comes after those it asks about; those of a circle are named beside. */
export function inOrder(sets: ShelfSet[]): { order: ShelfSet[]; circle: ShelfSet[] } {
  const byKey = new Map(sets.map((set) => [set.key, set]));
  const state = new Map<string, "open" | "done" | "bad">();
  const order: ShelfSet[] = [];
  const visit = (set: ShelfSet): boolean => {
    const known = state.get(set.key);
    if (known) return known === "done";
    state.set(set.key, "open");
    // A set that asks about one in a circle can't be computed either.
    const fine = setsNamedIn(set).every((key) => !byKey.has(key) || visit(byKey.get(key)!));
    state.set(set.key, fine ? "done" : "bad");
    if (fine) order.push(set);
    return fine;
  };
  for (const set of sets) visit(set);
  return { order, circle: sets.filter(({ key }) => state.get(key) === "bad") };
}
