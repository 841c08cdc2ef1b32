import { type Window } from "@/core/kit/days";
import type { Group } from "@/core/results/cube";
import { linesEvidence } from "@/core/evidence/lines";
import { DEFAULT_HEAT_RULES, heatOf } from "@/core/evidence/heat";
import { chanceOfGoal, pooledReturn } from "@/core/evidence/pooling";
import type { Database } from "@/db/client";
import { remember, type Stamp } from "../../read/memo";
import { loadEvidence } from "../../shelves/shelves";
import type { WorkspaceInfo } from "../../workspaces";
import { itemNames } from "./item-names";
import { loadWindow } from "../../results/load";
import { type SliceLine } from "./slice-lines";

type LinesEvidence = ReturnType<typeof linesEvidence>;

/** The evidence of a table's lines, kept as long as they; a table that is not kept has it worked out each time. */
export async function evidenceOf(
  db: Database,
  stamp: Stamp | null,
  groups: Group[],
  goal: number,
): Promise<LinesEvidence> {
  const make = () =>
    linesEvidence(
      groups.map(({ sums }) => sums),
      goal,
    );
  return stamp ? remember(db, "evidence of lines", [...stamp, goal], make, MOST_EVIDENCE) : make();
}

/** Tables whose evidence is kept beside each other. */
const MOST_EVIDENCE = 6;

/** Items get the evidence that every other screen shows of them: pooled by category, with their price as the value. */
export async function addItemEvidence(
  db: Database,
  info: WorkspaceInfo,
  window: Window,
  lines: SliceLine[],
  withIntervals: boolean,
): Promise<void> {
  const results = await loadWindow(db, window);
  const evidence = await loadEvidence(db, results);
  const { rowOf } = await itemNames(db);
  for (const line of lines) {
    const row = rowOf.get(line.key);
    if (row === undefined || line.sums.clicks === 0) continue;
    const chance = chanceOfGoal(evidence, row, info.goal);
    line.chance = chance;
    const known = withIntervals ? pooledReturn(evidence, row) : null;
    if (known) line.evidence = { ...known, chance, heat: heatOf(chance, line.sums.clicks, DEFAULT_HEAT_RULES) };
  }
}
