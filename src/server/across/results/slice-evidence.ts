import { type Window } from "@/core/kit/days";
import type { Group } from "@/core/results/cube";
import { heatOfLine, type LineEvidence } from "@/core/evidence/lines";
import { chanceOfGoal, pooledReturn } from "@/core/evidence/evidence";
import type { Database } from "@/db/client";
import type { Stamp } from "../../read/memo";
import { loadEvidence } from "../../evidence/items";
import { loadLinesEvidence } from "../../evidence/lines";
import type { WorkspaceInfo } from "../../workspaces";
import { itemNames } from "./item-names";
import { loadWindow } from "../../results/load";
import type { LevelCodes } from "./level-codes";

/** What is known of the return of a table's lines. */
export interface GroupEvidence {
  chance: (group: Group) => number | null;
  of: (group: Group) => LineEvidence | null;
}

/** The evidence of a table's lines; see {@link loadLinesEvidence}. */
export async function evidenceOfLines(
  db: Database,
  stamp: Stamp | null,
  all: Group[],
  goal: number,
): Promise<GroupEvidence> {
  const known = all.map(({ told }) => told);
  const made = await loadLinesEvidence(db, stamp, known, goal);
  return { chance: ({ told }) => made.chance(told), of: ({ told }) => made.of(told) };
}

/** Items get the evidence that every other screen shows of them, with what the catalogue knows of each. */
export async function evidenceOfItems(
  db: Database,
  info: WorkspaceInfo,
  window: Window,
  level: LevelCodes,
): Promise<GroupEvidence> {
  const results = await loadWindow(db, window);
  const evidence = await loadEvidence(db, results);
  const { rowOf } = await itemNames(db);
  const chance = ({ key, told }: Group) => {
    const row = rowOf.get(level.keyOf(key));
    return row === undefined || told.clicks === 0 ? null : chanceOfGoal(evidence, row, info.goal);
  };
  return {
    chance,
    of: (group) => {
      const row = rowOf.get(level.keyOf(group.key));
      const likely = chance(group);
      const interval = row === undefined || likely === null ? null : pooledReturn(evidence, row);
      if (!interval || likely === null) return null;
      const { clicks, orders } = group.told;
      return { ...interval, chance: likely, heat: heatOfLine(likely, clicks, orders, evidence.expected[row!]!) };
    },
  };
}
