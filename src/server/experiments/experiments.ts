import { desc, eq } from "drizzle-orm";
import { z } from "zod";
import { changeInWords } from "@/core/experiments/changes";
import type { Definition } from "@/core/experiments/definition";
import { leastFound } from "@/core/experiments/noise";
import { isBuyable } from "@/core/catalogue/field-changes";
import { cellText } from "@/core/kit/columns";
import { diffSize } from "@/core/kit/diff";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { changeLog, experiments, experimentDays } from "@/db/schema";
import { partThatStands } from "../account/edits";
import { liveAccount } from "../account/state";
import { loadCatalogue } from "../catalogue/load";
import { resultDays } from "../results/load";
import type { WorkspaceInfo } from "../workspaces";
import { aroundOf, breachesOf, countIn, lookAt, type Breach, type Look } from "./look";
import { standingOf, type ExperimentRow } from "./running";

/** An experiment in the list. */
export interface ExperimentLine extends Omit<Look, "points"> {
  id: number;
  name: string;
  hypothesis: string;
  change: string;
  definition: Omit<Definition, "items" | "change">;
  pairs: number;
  changes: number;
  who: string;
  at: number;
  ended: { how: string; by: string } | null;
  learned: { text: string; by: string; at: number } | null;
}

/** One experiment with all that is known of it. */
export interface ExperimentView extends ExperimentLine {
  points: Look["points"];
  leastFound: number | null;
  /** What it does on each day, of one by days: planned, and what stood. */
  dayByDay: { day: number; on: boolean; stood: boolean | null }[];
  soldOut: { with: number; without: number } | null;
  /** How many of its changes stand as they were made; others were taken out, refused or changed since. Null before it is sent. */
  standing: number | null;
  breaches: Breach[];
  around: { at: number; who: string; what: string }[];
}

/** All experiments, newest first. */
export async function listExperiments(db: Database, info: WorkspaceInfo): Promise<ExperimentLine[]> {
  const rows = await db.select().from(experiments).orderBy(desc(experiments.id)).limit(200);
  if (rows.length === 0) return [];
  const standing = await standingOf(db, info);
  const lastDay = (await resultDays(db))?.to ?? null;
  const lines: ExperimentLine[] = [];
  for (const row of rows) {
    const { points: _, ...look } = await lookAt(db, info, row, standing(row.id), lastDay);
    lines.push(lineOf(row, look));
  }
  return lines;
}

function lineOf(row: ExperimentRow, look: Omit<Look, "points">): ExperimentLine {
  const { items: _, change, ...definition } = row.definition;
  const { arms } = row;
  return {
    ...look,
    ...{ id: row.id, name: definition.name, hypothesis: definition.hypothesis, change: changeInWords(change) },
    definition,
    ...{ pairs: arms.of === "days" ? arms.on.length / 2 : arms.with.length, changes: diffSize(row.diff) },
    ...{ who: row.who, at: row.at },
    ended: row.endedHow === null ? null : { how: row.endedHow, by: row.endedBy },
    learned: row.learnedAt === null ? null : { text: row.learned, by: row.learnedBy, at: row.learnedAt },
  };
}

/** Finds one by its number. */
export async function findExperiment(db: Database, id: number): Promise<Outcome<ExperimentRow>> {
  const [row] = await db.select().from(experiments).where(eq(experiments.id, id));
  return row ? ok(row) : fail("experiment-unknown", `There is no experiment ${id}.`);
}

/** One experiment with its days, what disturbed it, and what else happened. */
export async function viewExperiment(db: Database, info: WorkspaceInfo, id: number): Promise<Outcome<ExperimentView>> {
  const found = await findExperiment(db, id);
  if (!found.ok) return found;
  const row = found.value;
  const standing = (await standingOf(db, info))(id);
  const { points, ...look } = await lookAt(db, info, row, standing, (await resultDays(db))?.to ?? null);
  const stood = new Map(
    (await db.select().from(experimentDays).where(eq(experimentDays.experiment, id))).map((day) => [
      day.day,
      day.stood,
    ]),
  );
  const { arms } = row;
  const start = look.start;
  return ok({
    ...lineOf(row, look),
    points,
    leastFound: leastFound(row.noise, row.definition.days),
    dayByDay:
      arms.of === "days" && start !== null
        ? arms.on.map((on, at) => ({ day: start + at, on, stood: stood.get(start + at) ?? null }))
        : [],
    soldOut: arms.of === "items" ? await soldOutIn(db, arms) : null,
    standing:
      look.stage === "running" || look.stage === "over"
        ? diffSize(partThatStands(await liveAccount(db), row.diff, "after"))
        : null,
    breaches: await breachesOf(db, info, row, standing.dispatch, look.until),
    around: await aroundOf(db, row),
  });
}

/** Items of each arm that can't be bought now. */
async function soldOutIn(db: Database, arms: { with: number[][]; without: number[][] }) {
  const { columns } = await loadCatalogue(db, ["availability"]);
  const [numbers, availability] = [columns["itemNo"], columns["availability"]];
  const gone = new Set<number>();
  if (numbers?.kind === "number" && availability) {
    numbers.values.forEach((no, row) => {
      if (!isBuyable(cellText(availability, row))) gone.add(no);
    });
  }
  const isOut = (item: number) => gone.has(item);
  return { with: countIn(arms.with, isOut), without: countIn(arms.without, isOut) };
}

export const learnSchema = z.object({
  /** What was learned, in one's own words; empty takes the rule back. */
  text: z.string().trim().max(400),
});

/** Makes a rule of what was found, or takes it back. It stands among the house rules with where it comes from. */
export async function learnFrom(
  db: Database,
  info: WorkspaceInfo,
  who: string,
  id: number,
  { text }: z.output<typeof learnSchema>,
): Promise<Outcome<ExperimentView>> {
  const found = await findExperiment(db, id);
  if (!found.ok) return found;
  const at = Date.now();
  await db.transaction(async (tx) => {
    await tx
      .update(experiments)
      .set({ learned: text, learnedBy: text === "" ? "" : who, learnedAt: text === "" ? null : at })
      .where(eq(experiments.id, id));
    const { name } = found.value.definition;
    await tx.insert(changeLog).values({
      ...{ at, who, place: "experiments", about: `experiment/${id}`, why: text },
      what: text === "" ? `No rule of experiment “${name}” any more` : `House rule from experiment “${name}”`,
    });
  });
  return viewExperiment(db, info, id);
}

/** Rules that experiments left, newest first. */
export async function learnedRules(db: Database, info: WorkspaceInfo): Promise<ExperimentLine[]> {
  return (await listExperiments(db, info)).filter(({ learned }) => learned !== null);
}
