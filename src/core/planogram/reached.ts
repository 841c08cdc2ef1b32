import type { Plan } from "./plan";
import { Ways } from "./ways";

/**
 * The rows that the product-group trees of a plan lead to, by the node of their ad group, ascending: what a walk over the
 * records of `addProductGroups` finds before stock and exclusions, without making one record an item. A row reaches a unit
 * when its values are those on the way down to it, whether or not the plan meant it.
 */
export function reachedByPlan(plan: Plan, adGroupOf: (node: number) => number): Map<number, Uint32Array> {
  const { home, wanted } = plan;
  const adGroupOfNode = Int32Array.from(plan.parent, (_, node) => adGroupOf(node));
  const adGroups = Int32Array.from(home, (node) => (node < 0 ? NOWHERE : adGroupOfNode[node]!));
  const unplanned = [...home.keys()].filter((row) => home[row]! < 0 && (!wanted || wanted[row] === 1));
  if (unplanned.length === 0) return rowsBy(adGroups);
  // Rows that the plan did not mean have the way of one that it did, or reach nothing.
  const ways = new Ways(plan);
  const ends = unplanned.map((row) => ways.add(row));
  const adGroupAt = new Map<number, number>();
  for (let row = 0; row < home.length; row++) {
    if (home[row]! < 0) continue;
    const end = ways.find(row);
    if (end !== undefined) adGroupAt.set(end, adGroups[row]!);
  }
  unplanned.forEach((row, i) => {
    adGroups[row] = adGroupAt.get(ends[i]!) ?? NOWHERE;
  });
  return rowsBy(adGroups);
}

/** Rows that no tree leads to; −1 is the ad group of everything. */
const NOWHERE = -2;

function rowsBy(adGroups: Int32Array): Map<number, Uint32Array> {
  const counts = new Map<number, number>();
  for (const group of adGroups) if (group !== NOWHERE) counts.set(group, (counts.get(group) ?? 0) + 1);
  const found = new Map<number, { rows: Uint32Array; filled: number }>();
  for (const [group, count] of counts) found.set(group, { rows: new Uint32Array(count), filled: 0 });
  adGroups.forEach((group, row) => {
    const list = found.get(group);
    if (list) list.rows[list.filled++] = row;
  });
  return new Map([...found].map(([group, { rows }]) => [group, rows]));
}
