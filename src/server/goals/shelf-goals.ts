import { shelvesOf } from "@/core/shelves/shelf-set";
import type { Database } from "@/db/client";
import { loadCatalogue } from "../catalogue/load";
import { remember } from "../read/memo";
import { storedPlaces } from "../shelves/members";
import { findShelfSet, listShelfSets } from "../shelves/sets";

/** Goals that shelves have of their own, and what they were read from. */
export interface ShelfGoals {
  /** The goal of the shelf that a row stands on: of the first set in order whose shelf has one; null where none has. */
  of(row: number): number | null;
  /** Changes with them. */
  stamp: string;
}

/** The return goals of shelves, by catalogue row. */
export async function shelfGoals(db: Database): Promise<ShelfGoals> {
  const sets = (await listShelfSets(db)).filter(({ definition }) =>
    shelvesOf(definition).some(({ goal }) => goal !== null),
  );
  const { revision, length } = await loadCatalogue(db, []);
  const stamp = [
    revision,
    ...sets.map(
      ({ definition, computedAt }) =>
        `${definition.key} ${computedAt} ${shelvesOf(definition)
          .map(({ goal }) => goal)
          .join()}`,
    ),
  ];
  const goals = await remember(db, "shelf goals", stamp, async () => {
    const found = new Float64Array(length).fill(NaN);
    for (const { definition } of sets) {
      const kept = await findShelfSet(db, definition.key);
      if (!kept) continue;
      const shelves = shelvesOf(kept.definition);
      (await storedPlaces(db, kept)).forEach((place, row) => {
        const goal = shelves[place]?.goal ?? null;
        if (goal !== null && Number.isNaN(found[row]!)) found[row] = goal;
      });
    }
    return found;
  });
  return { of: (row) => (Number.isNaN(goals[row] ?? NaN) ? null : goals[row]!), stamp: stamp.join("|") };
}
