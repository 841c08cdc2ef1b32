import { noSums, type Sums } from "@/core/kit/metrics";
import { groupCube, totalOfGroups, type Cube, type Group } from "@/core/results/cube";
import { toldNothing } from "@/core/results/told";
import type { Database } from "@/db/client";
import { remember } from "../../read/memo";
import type { WindowCube } from "../../results/cubes";
import type { LevelCodes } from "./level-codes";

/** A window's results divided by a level and a split. Shared; must not be written to. */
export interface Divided {
  groups: Group[];
  total: Sums;
  /** The sums of the same level and split, or null. */
  find(key: number, split: number): Sums | null;
}

/** What divides a cube. */
export interface Division {
  /** Names the division for keeping it, or null where it can change while the cube stays. */
  name: string | null;
  level: LevelCodes;
  split: LevelCodes | null;
  within: [LevelCodes, number][];
  hasStore: boolean;
  expected: boolean;
}

const MOST_KEPT = 12;

/** Divides a window's results; kept as long as it, so that another order or page of the same costs nothing. */
export async function divide(db: Database, cube: WindowCube, division: Division): Promise<Divided> {
  const { name } = division;
  if (name === null) return makeDivided(cube, division);
  return remember(db, "divided", [...cube.stamp, name], () => makeDivided(cube, division), MOST_KEPT);
}

function makeDivided({ ads, store }: WindowCube, { level, split, within, hasStore, expected }: Division): Divided {
  const groups = groupCube(ads, level.codeOf(ads), split?.codeOf(ads) ?? null, keeper(ads, within), expected);
  const index = new Map<number, Map<number, Group>>();
  const put = (group: Group) => {
    const row = index.get(group.key);
    if (row) row.set(group.split, group);
    else index.set(group.key, new Map([[group.split, group]]));
  };
  groups.forEach(put);
  if (hasStore && store) {
    const days = store.dimensions.day;
    const items = store.dimensions.item!;
    const code = (codes: LevelCodes, line: number) =>
      codes.ofItem ? codes.ofItem(items[line]!) : ((days?.[line] as number | undefined) ?? -1);
    for (let line = 0; line < store.length; line++) {
      if (!within.every(([codes, wanted]) => code(codes, line) === wanted)) continue;
      const key = code(level, line);
      const splitKey = split ? code(split, line) : 0;
      let group = index.get(key)?.get(splitKey);
      if (!group) {
        group = { key, split: splitKey, sums: noSums(), told: toldNothing() };
        put(group);
        groups.push(group);
      }
      group.sums.storeOrders += store.sums.orders[line]!;
      (group.sums.storeRevenue as number) += store.sums.revenue[line]!;
    }
  }
  return {
    groups,
    total: totalOfGroups(groups),
    find: (key, splitKey) => index.get(key)?.get(splitKey)?.sums ?? null,
  };
}

/** Whether a cube's line lies within what is chosen. */
export function keeper(cube: Cube, within: [LevelCodes, number][]): (line: number) => boolean {
  const tests = within.map(([codes, code]) => {
    const of = codes.codeOf(cube);
    return (line: number) => of(line) === code;
  });
  return (line) => tests.every((test) => test(line));
}
