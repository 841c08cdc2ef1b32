import { and, eq, inArray, isNull, sql } from "drizzle-orm";
import { dayAt, type Day } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { basket, causes, dispatchChanges, dispatches, experiments } from "@/db/schema";
import type { Arms } from "@/db/schema/experiments";
import { resultDays } from "../results/load";
import type { WorkspaceInfo } from "../workspaces";

export type ExperimentRow = typeof experiments.$inferSelect;

/** How far an experiment has come. */
export type Stage = "waiting" | "dropped" | "running" | "over" | "ended";

/** When an experiment began at the channel, and where its changes are. */
export interface Standing {
  /** The first day on which the channel had it; null before that. */
  start: Day | null;
  /** The dispatch that brought it there. */
  dispatch: number | null;
  /** Whether changes of it wait in the basket. */
  isWaiting: boolean;
  /** The last day before its dispatch was taken back as a whole; null where it was not. */
  takenBack: Day | null;
}

/** Where the changes of experiments are, by number. */
export async function standingOf(
  db: Database,
  { timeZone }: Pick<WorkspaceInfo, "timeZone">,
): Promise<(experiment: number) => Standing> {
  const numbers = await db.select({ no: causes.id, of: causes.of }).from(causes).where(eq(causes.kind, "experiment"));
  const experimentOf = new Map(numbers.map(({ no, of }) => [no, Number(of)]));
  const found = new Map<number, Standing>();
  const at = (experiment: number): Standing => {
    const one = found.get(experiment) ?? { start: null, dispatch: null, isWaiting: false, takenBack: null };
    found.set(experiment, one);
    return one;
  };
  if (experimentOf.size === 0) return at;
  const waiting = await db
    .selectDistinct({ cause: basket.cause })
    .from(basket)
    .where(inArray(basket.cause, [...experimentOf.keys()]));
  for (const { cause } of waiting) at(experimentOf.get(cause)!).isWaiting = true;
  const sent = await db
    .selectDistinct({ cause: dispatchChanges.cause, dispatch: dispatchChanges.dispatch })
    .from(dispatchChanges)
    .where(inArray(dispatchChanges.cause, [...experimentOf.keys()]));
  const rows = new Map(
    (
      await db
        .select()
        .from(dispatches)
        .where(inArray(dispatches.id, [...new Set(sent.map(({ dispatch }) => dispatch))]))
    ).map((row) => [row.id, row]),
  );
  const first = new Map<number, number>();
  for (const { cause, dispatch } of sent) {
    const experiment = experimentOf.get(cause)!;
    first.set(experiment, Math.min(first.get(experiment) ?? Infinity, dispatch));
  }
  for (const [experiment, dispatch] of first) {
    const row = rows.get(dispatch)!;
    at(experiment).start = firstDay(row, timeZone);
    at(experiment).dispatch = dispatch;
    if (row.takenBackBy === null) continue;
    const [back] = await db.select().from(dispatches).where(eq(dispatches.id, row.takenBackBy));
    const day = back && firstDay(back, timeZone);
    at(experiment).takenBack = day === null || day === undefined ? null : day - 1;
  }
  return at;
}

/** The first whole day on which the channel works with a dispatch. The test market runs days by itself; others by the clock. */
export function firstDay(
  { fromDay, sentAt, channel }: Pick<typeof dispatches.$inferSelect, "fromDay" | "sentAt" | "channel">,
  timeZone: string,
): Day | null {
  if (channel === "market" || sentAt === null) return fromDay;
  return Math.max(fromDay ?? 0, dayAt(sentAt, timeZone) + 1);
}

/** How far an experiment has come by a day of results. */
export function stageOf(
  row: { endedDay: Day | null; days: number },
  { start, isWaiting, takenBack }: Standing,
  lastDay: Day | null,
): Stage {
  if (row.endedDay !== null || takenBack !== null) return "ended";
  if (start === null) return isWaiting ? "waiting" : "dropped";
  return lastDay !== null && lastDay >= start + row.days - 1 ? "over" : "running";
}

/** Experiments that nobody ended. @param of those with such arms alone: rows of items may be as long as the catalogue */
export function openExperiments(db: Database, of?: Arms["of"]): Promise<ExperimentRow[]> {
  const isOf = of === undefined ? undefined : sql`${experiments.arms} ->> '$.of' = ${of}`;
  return db
    .select()
    .from(experiments)
    .where(and(isNull(experiments.endedDay), isOf))
    .orderBy(experiments.id);
}

/** What is known of open experiments without reading their arms and changes. */
export function openInShort(db: Database) {
  return db
    .select({
      ...{ id: experiments.id, endedDay: experiments.endedDay, lookedDay: experiments.lookedDay },
      name: sql<string>`${experiments.definition} ->> '$.name'`,
      days: sql<number>`${experiments.definition} ->> '$.days'`,
    })
    .from(experiments)
    .where(isNull(experiments.endedDay))
    .orderBy(experiments.id);
}

/** Experiments whose days are over, and that nobody has settled. */
export async function experimentsOver(
  db: Database,
  info: Pick<WorkspaceInfo, "timeZone">,
): Promise<{ id: number; name: string }[]> {
  const open = await openInShort(db);
  if (open.length === 0) return [];
  const standing = await standingOf(db, info);
  const lastDay = (await resultDays(db))?.to ?? null;
  return open.flatMap((row) =>
    stageOf(row, standing(row.id), lastDay) === "over" ? [{ id: row.id, name: row.name }] : [],
  );
}

/** The name of an experiment that goes on with some of the same items or campaigns; null where none does. */
export async function runningOn(
  db: Database,
  info: Pick<WorkspaceInfo, "timeZone">,
  { arms, campaigns }: { arms: Arms; campaigns: string[] },
): Promise<string | null> {
  const open = await openExperiments(db);
  if (open.length === 0) return null;
  const standing = await standingOf(db, info);
  const lastDay = (await resultDays(db))?.to ?? null;
  const items = arms.of === "items" ? new Set([...arms.with, ...arms.without].flat()) : null;
  const here = new Set(campaigns);
  for (const row of open) {
    const { start, isWaiting, takenBack } = standing(row.id);
    if (takenBack !== null || (start === null && !isWaiting)) continue;
    // One whose days are over changes nothing any more.
    if (row.arms.of === "days" && start !== null && lastDay !== null && lastDay >= start + row.definition.days - 1)
      continue;
    const meets =
      items && row.arms.of === "items"
        ? [...row.arms.with, ...row.arms.without].some((list) => list.some((item) => items.has(item)))
        : row.campaigns.some((key) => here.has(key));
    if (meets) return row.definition.name;
  }
  return null;
}
