import { ancestorAt, nodesAt, type Plan } from "../planogram/plan";

/** What ads are written for: the ad groups of a plan with their rows, one after another in flat arrays. */
export interface Units {
  count: number;
  /** The node of the plan that each is. */
  node: Int32Array;
  /** Unit `u` has the rows from `start[u]` to before `start[u + 1]`. */
  start: Uint32Array;
  rows: Uint32Array;
  /** Marks the rows that can be bought: what a line says of several items is said of these. */
  sellable: Uint8Array;
}

/** The ad groups of a plan as units. @param level the ad-group line */
export function unitsOf(plan: Plan, level: number, sellable: Uint8Array): Units {
  const nodes = nodesAt(plan, level);
  const placeOf = new Map(nodes.map((node, at) => [node, at]));
  const of = new Int32Array(plan.home.length).fill(-1);
  const start = new Uint32Array(nodes.length + 1);
  for (let row = 0; row < of.length; row++) {
    const home = plan.home[row]!;
    if (home < 0) continue;
    const unit = placeOf.get(ancestorAt(plan, home, level))!;
    of[row] = unit;
    start[unit + 1]!++;
  }
  for (let unit = 0; unit < nodes.length; unit++) start[unit + 1]! += start[unit]!;
  const rows = new Uint32Array(start[nodes.length]!);
  const next = start.slice();
  for (let row = 0; row < of.length; row++) {
    const unit = of[row]!;
    if (unit >= 0) rows[next[unit]!++] = row;
  }
  return { count: nodes.length, node: Int32Array.from(nodes), start, rows, sellable };
}

/** The rows of a unit. */
export function rowsOf({ start, rows }: Units, unit: number): Uint32Array {
  return rows.subarray(start[unit]!, start[unit + 1]!);
}

/** The first row of a unit that can be bought, or −1. */
export function firstSellable(units: Units, unit: number): number {
  const { start, rows, sellable } = units;
  for (let i = start[unit]!; i < start[unit + 1]!; i++) if (sellable[rows[i]!]) return rows[i]!;
  return -1;
}
