import type { RowSums } from "../results/window-sums";
import { chanceOfGoal, type Evidence } from "../evidence/evidence";
import { DEFAULT_HEAT_RULES, isRead } from "../evidence/heat";
import type { ShelfSet } from "./shelf-set";

/** What a set remembers of each item between recomputes: its shelf, and where it has been heading for how long. */
export interface ShelfMemory {
  /** Index of the shelf, or 255 for an item not seen before. */
  shelf: Uint8Array;
  /** Index of the shelf it would be on without memory. */
  heading: Uint8Array;
  /** Recomputes in a row that it has been heading there. */
  rounds: Uint8Array;
}

export const NEVER_SEEN = 255;

/** Memory of nothing, for `length` rows. */
export function blankMemory(length: number): ShelfMemory {
  return {
    shelf: new Uint8Array(length).fill(NEVER_SEEN),
    heading: new Uint8Array(length).fill(NEVER_SEEN),
    rounds: new Uint8Array(length),
  };
}

/**
 * Puts every row on exactly one shelf: first match wins, the last tier takes what is left, too little evidence goes to
 * `unread` (index `tiers.length`). An item already on a tier leaves it only when past the cut by the margin, or after
 * `patience` recomputes in a row beyond it (`maths.md` 3).
 * @param evidence needed for a `probability` set
 * @returns the new memory; its `shelf` is the membership
 */
export function assignShelves(set: ShelfSet, sums: RowSums, memory: ShelfMemory, evidence?: Evidence): ShelfMemory {
  const length = sums.clicks.length;
  const unread = set.tiers.length;
  const cuts = set.tiers.map((tier) => tier.least ?? -Infinity);
  const next: ShelfMemory = {
    shelf: new Uint8Array(length),
    heading: new Uint8Array(length),
    rounds: new Uint8Array(length),
  };
  const { clicks, orders, cost, revenue } = sums;
  for (let row = 0; row < length; row++) {
    // How much clicks could tell is known only with evidence; without it the set's own rule is all.
    const known = { clicks: clicks[row]!, orders: orders[row]!, expected: evidence?.expected[row] ?? Infinity };
    const isKnown = isRead(known, {
      ...DEFAULT_HEAT_RULES,
      leastClicks: set.leastClicks,
      provenOrders: set.leastOrders,
    });
    let target = unread;
    let value = 0;
    if (isKnown) {
      value = measureOf(set, cost[row]!, revenue[row]!, evidence, row);
      target = 0;
      while (value < cuts[target]!) target++;
    }
    const before = memory.shelf[row]!;
    const rounds = memory.heading[row] === target ? Math.min(254, memory.rounds[row]! + 1) : 1;
    next.heading[row] = target;
    next.rounds[row] = rounds;
    const moves =
      before === target ||
      before === NEVER_SEEN ||
      before >= unread ||
      target === unread ||
      rounds >= set.patience ||
      isPastMargin(value, cuts, before, target, set.margin);
    next.shelf[row] = moves ? target : before;
  }
  return next;
}

function measureOf(set: ShelfSet, cost: number, revenue: number, evidence: Evidence | undefined, row: number): number {
  if (set.measure === "probability") {
    if (!evidence) throw new Error("a probability set needs evidence");
    return chanceOfGoal(evidence, row, set.goal);
  }
  // Orders without cost come from clicks that cost nothing; any return on nothing is above every cut.
  if (cost === 0) return revenue > 0 ? Infinity : 0;
  return revenue / cost;
}

/** Whether the value lies past the cut between the tier it stands on and the next one towards its target. */
function isPastMargin(value: number, cuts: number[], before: number, target: number, margin: number): boolean {
  if (target < before) return value >= cuts[before - 1]! * (1 + margin);
  return value < cuts[before]! * (1 - margin);
}
