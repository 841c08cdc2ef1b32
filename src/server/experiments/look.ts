import { and, asc, between, eq, gte, lte } from "drizzle-orm";
import { campaignOf } from "@/core/account/campaign-of";
import { describeDiff } from "@/core/account/words";
import { changeInWords } from "@/core/experiments/changes";
import { pairsOfDays } from "@/core/experiments/day-plan";
import { effectOfDays, effectOfPairs, type Effect } from "@/core/experiments/effect";
import { MEASURES } from "@/core/experiments/measures";
import { meansOf, type Series } from "@/core/experiments/series";
import { amountInWords, findingOf, verdictInWords, type Finding } from "@/core/experiments/verdict";
import type { Day, Window } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { changeLog, dispatchChanges, dispatches, experimentDays } from "@/db/schema";
import { asDiff, liveAccount } from "../account/state";
import { loadCatalogue } from "../catalogue/load";
import { remember } from "../read/memo";
import { resultsVersion } from "../results/load";
import type { WorkspaceInfo } from "../workspaces";
import { firstDay, stageOf, type ExperimentRow, type Stage, type Standing } from "./running";
import { loadSeries, type Units } from "./series";

/** An effect after so many days, for the chart. */
export interface Point {
  day: Day;
  mean: number;
  low: number;
  high: number;
}

/** What an experiment is known to do by now. Amounts of its measure a day: mills, or a count. */
export interface Look {
  stage: Stage;
  start: Day | null;
  /** The last day that can count, and how many days there are results of, and that count. */
  until: Day | null;
  days: number;
  counted: number;
  effect: Effect | null;
  finding: Finding;
  /** Whether it was stopped, or would be, since harm is sure enough. */
  isHarmful: boolean;
  verdict: string;
  /** What the change is worth a month for all it was tried on, with the same ends; null while nothing is known. */
  month: { mean: number; low: number; high: number } | null;
  points: Point[];
}

/** Looks that are kept: more experiments are hardly listed. */
const KEPT = 200;

/** Works out what an experiment has found so far, from results as they are. Kept until results or what counts change. */
export async function lookAt(
  db: Database,
  info: Pick<WorkspaceInfo, "currency">,
  row: ExperimentRow,
  standing: Standing,
  lastDay: Day | null,
): Promise<Look> {
  const { definition, endedDay, endedHow } = row;
  const stage = stageOf({ endedDay, days: definition.days }, standing, lastDay);
  const { start } = standing;
  const ends = [start === null ? null : start + definition.days - 1, endedDay, standing.takenBack, lastDay];
  const until = start === null ? null : Math.min(...ends.map((day) => day ?? Infinity));
  const window = start === null || until === null || until < start ? null : { from: start, to: until };
  const { revision } = await loadCatalogue(db, []);
  const stamp = [await resultsVersion(db), revision, row.id, stage, endedHow, start, until];
  return remember(db, "experiment", stamp, () => look(db, info, row, stage, start, window), KEPT);
}

async function look(
  db: Database,
  { currency }: Pick<WorkspaceInfo, "currency">,
  row: ExperimentRow,
  stage: Stage,
  start: Day | null,
  window: Window | null,
): Promise<Look> {
  const { definition, arms } = row;
  const { measure, least } = definition;
  const found = window
    ? await (arms.of === "days" ? daysFound(db, row, window) : pairsFound(db, row, window))
    : { points: [], effect: null, counted: 0, clicks: null };
  const { clicks } = found;
  // Where hardly anybody clicked no difference is no finding.
  const isQuiet = clicks !== null && clicks.now < QUIET * clicks.before;
  const effect = isQuiet ? null : found.effect;
  const scale = 30 * (arms.of === "days" ? 1 : 2);
  const isOver = stage === "over" || stage === "ended";
  const words = verdictInWords(changeInWords(definition.change), measure, effect, least, isOver, currency);
  return {
    ...{ stage, start, until: window?.to ?? null, days: window ? window.to - window.from + 1 : 0 },
    ...{ counted: found.counted, effect, finding: findingOf(effect, least) },
    isHarmful: effect !== null && effect.isHarmful && MEASURES[measure].more === "better",
    verdict: BEFORE_IT[stage] ?? (isQuiet ? quietInWords(clicks) : words),
    month: effect && { mean: effect.mean * scale, low: effect.low * scale, high: effect.high * scale },
    points: isQuiet ? [] : found.points,
  };
}

/** Below this share of the clicks before, what goes without the change is too quiet to compare with. */
const QUIET = 0.25;

function quietInWords({ before, now }: Clicks): string {
  const words = (clicks: number) => amountInWords("clicks", clicks, "");
  return `Not yet: without the change there are ${words(now)} clicks a day, and were ${words(before)}. Money, stock or a pause may stand in the way.`;
}

/** What is said of one that has not begun. */
const BEFORE_IT: Partial<Record<Stage, string>> = {
  waiting: "It begins once the basket is sent.",
  dropped: "It was taken out of the basket before it began.",
};

/** Points that are drawn at most. */
const MOST_POINTS = 60;

/** Clicks a day of what goes without the change, before and now. */
interface Clicks {
  before: number;
  now: number;
}

interface Found {
  /** Null while no day counts. */
  clicks: Clicks | null;
  points: Point[];
  effect: Effect | null;
  counted: number;
}

async function pairsFound(db: Database, row: ExperimentRow, window: Window): Promise<Found> {
  const { arms, definition, noise, beforeFrom, beforeTo } = row;
  if (arms.of === "days") throw new Error("Days are no pairs of units.");
  const units: Units =
    arms.of === "items"
      ? { of: "items", lists: [...arms.with, ...arms.without] }
      : { of: "campaigns", keys: [...arms.with, ...arms.without] };
  const count = arms.with.length;
  const pairs = {
    with: Uint32Array.from({ length: count }, (_, at) => at),
    without: Uint32Array.from({ length: count }, (_, at) => count + at),
    left: [],
  };
  const name = `experiment/${row.id}`;
  const past = await loadSeries(db, name, units, definition.measure, { from: beforeFrom, to: beforeTo });
  const during = await loadSeries(db, name, units, definition.measure, window);
  const before = meansOf(past, 0, past.days, (day) => past.counts[day] === 1);
  const points: Point[] = [];
  const step = Math.max(1, Math.ceil(during.days / MOST_POINTS));
  let effect: Effect | null = null;
  let counted = 0;
  for (let to = 1; to <= during.days; to++) {
    if (during.counts[to - 1] === 1) counted++;
    if ((during.days - to) % step !== 0) continue;
    const means = meansOf(during, 0, to, (day) => during.counts[day] === 1);
    effect = effectOfPairs(before, means, pairs, noise, counted, definition.days);
    if (effect) points.push({ day: window.from + to - 1, mean: effect.mean, low: effect.low, high: effect.high });
  }
  const without = {
    of: units.of,
    ...(arms.of === "items" ? { lists: arms.without } : { keys: arms.without }),
  } as Units;
  const clicksOf = async (days: Window) => sumOf(await loadSeries(db, `${name}/without`, without, "clicks", days));
  const clicks = { before: await clicksOf({ from: beforeFrom, to: beforeTo }), now: await clicksOf(window) };
  return { points, effect, counted, clicks: counted > 0 ? clicks : null };
}

/** What all units brought, a day. */
function sumOf(series: Series): number {
  return meansOf(series, 0, series.days).reduce((sum, mean) => sum + mean, 0);
}

async function daysFound(db: Database, row: ExperimentRow, window: Window): Promise<Found> {
  const { arms, definition, noise } = row;
  if (arms.of !== "days") throw new Error("Only days are set against days.");
  const series = await loadSeries(db, "all", { of: "all" }, definition.measure, window);
  const stood = new Map(
    (await db.select().from(experimentDays).where(eq(experimentDays.experiment, row.id))).map((day) => [
      day.day,
      day.stood,
    ]),
  );
  const isGood = (at: number) => series.counts[at] === 1 && stood.get(window.from + at) === arms.on[at];
  const points: Point[] = [];
  const differences: number[] = [];
  let effect: Effect | null = null;
  for (const [one, other] of pairsOfDays(arms.on).sort((a, b) => Math.max(...a) - Math.max(...b))) {
    if (Math.max(one, other) >= series.days || !isGood(one) || !isGood(other)) continue;
    differences.push(series.values[one]! - series.values[other]!);
    effect = effectOfDays(differences, noise, arms.on.length / 2);
    if (effect)
      points.push({ day: window.from + Math.max(one, other), mean: effect.mean, low: effect.low, high: effect.high });
  }
  return { points, effect, counted: 2 * differences.length, clicks: await clicksWithout(db, row, window, isGood) };
}

/** Clicks of all ads on days that stood without the change, against a day before; null while there is none. */
async function clicksWithout(
  db: Database,
  { arms, beforeFrom, beforeTo }: ExperimentRow,
  window: Window,
  isGood: (at: number) => boolean,
): Promise<Clicks | null> {
  if (arms.of !== "days") return null;
  const of = (days: Window) => loadSeries(db, "all", { of: "all" }, "clicks", days);
  const now = await of(window);
  const without = Array.from(now.values).filter((_, at) => !arms.on[at] && isGood(at));
  if (without.length === 0) return null;
  const sum = without.reduce((all, clicks) => all + clicks, 0);
  return { before: sumOf(await of({ from: beforeFrom, to: beforeTo })), now: sum / without.length };
}

/** Changes from elsewhere in the campaigns of an experiment while it went on. */
export interface Breach {
  dispatch: number;
  day: Day;
  who: string;
  changes: number;
  words: string[];
}

const MOST_WORDS = 6;

/**
 * What was sent with it or since that is not of the experiment and changes the campaigns that it goes on in, or all of them.
 * @param first the dispatch that began it @param until the last day that counts
 */
export async function breachesOf(
  db: Database,
  info: WorkspaceInfo,
  row: ExperimentRow,
  first: number | null,
  until: Day | null,
): Promise<Breach[]> {
  if (first === null || until === null) return [];
  const sent = await db
    .select()
    .from(dispatches)
    .where(and(gte(dispatches.id, first), lte(dispatches.fromDay, until)))
    .orderBy(asc(dispatches.id));
  const own = new Set(await causesOfExperiment(db, row.id));
  const account = await liveAccount(db);
  const here = new Set(row.campaigns);
  const breaches: Breach[] = [];
  for (const dispatch of sent) {
    const day = firstDay(dispatch, info.timeZone);
    const changes = await db.select().from(dispatchChanges).where(eq(dispatchChanges.dispatch, dispatch.id));
    const others = changes.filter(({ cause, before, after }) => {
      const record = after ?? before;
      if (own.has(cause) || !record) return false;
      const campaign = campaignOf(record, (key) => account.get(key));
      return campaign ? here.has(campaign.key) : true;
    });
    if (others.length === 0 || day === null || day > until) continue;
    const words = describeDiff(account, asDiff(others), info.currency).slice(0, MOST_WORDS);
    breaches.push({ dispatch: dispatch.id, day, who: dispatch.who, changes: others.length, words });
  }
  return breaches;
}

async function causesOfExperiment(db: Database, experiment: number): Promise<number[]> {
  const { rows } = await db.$client.execute({
    sql: "SELECT id FROM causes WHERE kind = 'experiment' AND of = ?",
    args: [String(experiment)],
  });
  return rows.map((row) => Number(row[0]));
}

const MOST_AROUND = 20;
const DAY_MS = 24 * 60 * 60 * 1000;

/** What else the change log tells of the time in which an experiment was sent and ended. */
export async function aroundOf(db: Database, row: ExperimentRow) {
  return db
    .select({ at: changeLog.at, who: changeLog.who, what: changeLog.what })
    .from(changeLog)
    .where(between(changeLog.at, row.at - DAY_MS, row.at + (row.definition.days + 14) * DAY_MS))
    .orderBy(asc(changeLog.at))
    .limit(MOST_AROUND);
}

/** How many items of each arm can't be bought any more; both arms alike is luck. */
export function countIn(lists: readonly (readonly number[])[], isIn: (item: number) => boolean): number {
  return lists.reduce((sum, list) => sum + list.filter(isIn).length, 0);
}
