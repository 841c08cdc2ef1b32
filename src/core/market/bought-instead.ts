import { groupBy } from "../kit/group-by";
import { hashText } from "../kit/random";
import type { ItemTruth, World } from "./world-types";

/** Of the orders that are of another item than the one clicked, the share that stays in its family, where it has one. */
const IN_FAMILY = 0.6;

/**
 * Draws for each row of a category which of its family and which of its category is bought in its place now and then: the
 * next in an order made of names alone, so that few change when items come and go.
 */
export function othersBought(
  truth: ItemTruth,
  rows: number[],
  idOf: (row: number) => string,
  familyOf: (row: number) => string,
  seed: string,
): void {
  const at = new Map(rows.map((row) => [row, hashText(`${seed}/instead/${idOf(row)}`)]));
  const inTurn = (some: number[], next: Int32Array) => {
    if (some.length < 2) return;
    const sorted = [...some].sort((a, b) => at.get(a)! - at.get(b)! || a - b);
    sorted.forEach((row, i) => (next[row] = sorted[(i + 1) % sorted.length]!));
  };
  inTurn(rows, truth.beside);
  for (const [family, members] of groupBy(rows, familyOf)) if (family !== "") inTurn(members, truth.kin);
}

/** A row that an order after a click on some row can be of, and how likely. */
export interface Bought {
  row: number;
  share: number;
}

const kept = new WeakMap<World, Bought[][]>();

/** What is bought after a click on a row: mostly itself, now and then another that can be bought. Shares sum to 1. */
export function boughtAfter(world: World, row: number): readonly Bought[] {
  let known = kept.get(world);
  if (!known) kept.set(world, (known = []));
  return (known[row] ??= workOut(world, row));
}

function workOut({ truth, nature }: World, row: number): Bought[] {
  const could = (other: number) => other >= 0 && other !== row && truth.inStock[other] === 1;
  const kin = could(truth.kin[row]!) ? truth.kin[row]! : -1;
  const beside = could(truth.beside[row]!) ? truth.beside[row]! : -1;
  const toKin = kin < 0 ? 0 : nature.elsewhere * (beside < 0 || beside === kin ? 1 : IN_FAMILY);
  const toBeside = beside < 0 || beside === kin ? 0 : nature.elsewhere * (kin < 0 ? 1 : 1 - IN_FAMILY);
  const list = [{ row, share: 1 - toKin - toBeside }];
  if (toKin > 0) list.push({ row: kin, share: toKin });
  if (toBeside > 0) list.push({ row: beside, share: toBeside });
  return list;
}

/** What an order of a row comes to before anything is sent back, in mills. */
export function orderValue({ truth }: World, row: number): number {
  return truth.price[row]! * (1 + truth.extraUnits[row]!);
}

/** What an order after a click on a row comes to in reports, in mills: of itself and of others. */
export function reportedValue(world: World, row: number): number {
  return boughtAfter(world, row).reduce((sum, { row: of, share }) => sum + share * orderValue(world, of), 0);
}

/** What of it stays in the shop, × each row's margin: what an order after a click on a row is worth. Mills; rows without a margin count nothing. */
export function keptValue(world: World, row: number, margins: Float64Array): number {
  return boughtAfter(world, row).reduce((sum, { row: of, share }) => {
    const margin = margins[of]!;
    if (!Number.isFinite(margin)) return sum;
    return sum + share * orderValue(world, of) * (1 - world.truth.returned[of]!) * margin;
  }, 0);
}
