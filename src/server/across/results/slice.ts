import { and, gte, lte, sql } from "drizzle-orm";
import { formatDay, windowLength, type Window } from "@/core/kit/days";
import { METRICS, noSums, type MetricKey, type Sums } from "@/core/kit/metrics";
import { toUnits } from "@/core/kit/money";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Group } from "@/core/results/cube";
import { hasStoreSales, LEVEL_LABEL, sourceOf, type Level, type Source } from "@/core/results/levels";
import { linesEvidence } from "@/core/evidence/lines";
import { DEFAULT_HEAT_RULES, heatOf } from "@/core/evidence/heat";
import { chanceOfGoal, pooledReturn } from "@/core/evidence/pooling";
import type { Database } from "@/db/client";
import { campaignDays } from "@/db/schema";
import { loadCatalogue } from "../../catalogue/load";
import { remember, type Stamp } from "../../read/memo";
import { liveAccount } from "../../account/state";
import { loadEvidence } from "../../shelves/shelves";
import type { WorkspaceInfo } from "../../workspaces";
import { incompleteDays, loadCube, loadLag } from "../../results/cubes";
import { divide, keeper, type Divided } from "./divide";
import { itemNames, levelCodes, type LevelCodes } from "./level-codes";
import { codeTexts, loadWindow, resultDays } from "../../results/load";
import { windowTotal } from "./till";
import { asLine, searched, sorted, type SliceLine, type SliceTable } from "./slice-lines";
import { comparedWith, windowOf, type SliceQuery } from "./slice-query";

export interface Slice {
  from: string | null;
  to: string | null;
  /** The window compared with, or null; and how many of its days lie where there are results. */
  compared: { from: string; to: string; days: number; known: number } | null;
  source: Source;
  levelLabel: [one: string, many: string];
  splitLabel: [one: string, many: string] | null;
  total: Sums;
  before: Sums | null;
  lines: SliceLine[];
  count: number;
  nextCursor: number | null;
  /** Whether store sales stand beside the ad results. */
  hasStore: boolean;
  /** Days at the end of the window whose orders are not all in yet, and how many orders are still expected. */
  incompleteDays: number;
  ordersToCome: number;
  /** Levels that go with what is chosen. */
  offered: Level[];
}

/** Lines for which intervals are worked out; each takes some 0.1 ms of the web process. */
const MOST_INTERVALS = 1000;

const ALL_LEVELS = Object.keys(LEVEL_LABEL) as Level[];

/** Results of a window by a level, divided by a second one if asked, beside another window. */
export async function viewSlice(db: Database, info: WorkspaceInfo, query: SliceQuery): Promise<Outcome<Slice>> {
  const used = [query.level, ...(query.split === "" ? [] : [query.split]), ...query.within.map(({ level }) => level)];
  const source = sourceOf(used);
  if (!source) {
    const label = (level: Level) => (LEVEL_LABEL[level as keyof typeof LEVEL_LABEL]?.[0] ?? level).toLowerCase();
    return fail(
      "results-not-divided",
      `No report divides results by ${used.map(label).join(" and ")} at once.`,
      "Choose another split, or drop the narrower view.",
    );
  }
  const window = await windowOf(db, query);
  if (!window.ok) return window;
  const compared = comparedWith(query, window.value);
  if (!compared.ok) return compared;
  const level = await levelCodes(db, query.level, query.set);
  if (!level.ok) return level;
  const split = query.split === "" ? null : await levelCodes(db, query.split, query.set);
  if (split && !split.ok) return split;
  const within: [LevelCodes, number][] = [];
  for (const one of query.within) {
    const codesOf = await levelCodes(db, one.level, query.set);
    if (!codesOf.ok) return codesOf;
    within.push([codesOf.value, codesOf.value.codeOfKey(one.key)]);
  }
  const byDay = used.includes("day");
  const hasStore = hasStoreSales(used);
  // Shelves can be recomputed while results stay, so what they divide is not kept.
  const { revision } = await loadCatalogue(db, []);
  const name = used.includes("shelf")
    ? null
    : JSON.stringify([query.level, query.split, query.within, query.complete, revision]);
  const division = {
    name,
    level: level.value,
    split: split?.value ?? null,
    within,
    hasStore,
    expected: query.complete,
  };
  const cube = await loadCube(db, source, window.value, byDay);
  const now = await divide(db, cube, division);
  const then = compared.value ? await divide(db, await loadCube(db, source, compared.value, byDay), division) : null;
  const total = { ...now.total };
  const before = then && { ...then.total };
  // The shop's sales can't be divided by what ads are divided by, but beside the whole they can always stand.
  if (!hasStore && query.within.length === 0) {
    await addStoreTotal(db, total, window.value);
    if (before && compared.value) await addStoreTotal(db, before, compared.value);
  }
  const idle = await idleGroups(db, query, level.value, now);
  const table: SliceTable = {
    level: level.value,
    split: split?.value ?? null,
    groups: idle.length > 0 ? [...now.groups, ...idle] : now.groups,
    then,
    total,
  };
  const evidence = await evidenceOf(db, name === null ? null : [...cube.stamp, name], now.groups, info.goal);
  const found = searched(table, query.q);
  const end = query.cursor + query.limit;
  const ordered = sorted(table, found, query.sort, end, (sums) => evidence.chance(sums));
  const dry = query.level === "campaign" ? await dryDays(db, window.value) : null;
  const shown = ordered.slice(query.cursor, end).map((group) => asLine(table, group, dry));
  // Intervals take long to work out and only screens show them; a file of all lines gets chances alone.
  const withIntervals = query.limit <= MOST_INTERVALS;
  if (query.level === "item" && used.length === 1) {
    await addItemEvidence(db, info, window.value, shown, withIntervals);
  } else {
    for (const line of shown) {
      line.chance = evidence.chance(line.sums);
      if (withIntervals) line.evidence = evidence.of(line.sums);
    }
  }
  const span = await resultDays(db);
  const lag = await loadLag(db);
  const { ads } = cube;
  const keep = keeper(ads, within);
  let toCome = 0;
  for (let i = 0; i < ads.length; i++) if (keep(i)) toCome += ads.expected.orders[i]! - ads.sums.orders[i]!;
  return ok({
    from: span ? formatDay(Math.max(window.value.from, span.from)) : null,
    to: span ? formatDay(Math.min(window.value.to, span.to)) : null,
    compared: compared.value && {
      ...{ from: formatDay(compared.value.from), to: formatDay(compared.value.to) },
      days: windowLength(compared.value),
      known: span
        ? Math.max(0, Math.min(compared.value.to, span.to) - Math.max(compared.value.from, span.from) + 1)
        : 0,
    },
    source,
    levelLabel: level.value.label,
    splitLabel: split?.value.label ?? null,
    total,
    before,
    lines: shown,
    count: found.length,
    nextCursor: end < found.length ? end : null,
    hasStore,
    incompleteDays: incompleteDays(lag, window.value),
    ordersToCome: toCome,
    offered: ALL_LEVELS.filter((one) => sourceOf([...query.within.map(({ level: l }) => l), one]) !== null),
  });
}

/** Items get the evidence that every other screen shows of them: pooled by category, with their price as the value. */
async function addItemEvidence(
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

async function addStoreTotal(db: Database, total: Sums, window: Window): Promise<void> {
  const { storeOrders, storeRevenue } = await windowTotal(db, window);
  Object.assign(total, { storeOrders, storeRevenue });
}

type LinesEvidence = ReturnType<typeof linesEvidence>;

/** The evidence of a table's lines, kept as long as they; a table that is not kept has it worked out each time. */
async function evidenceOf(db: Database, stamp: Stamp | null, groups: Group[], goal: number): Promise<LinesEvidence> {
  const make = () =>
    linesEvidence(
      groups.map(({ sums }) => sums),
      goal,
    );
  return stamp ? remember(db, "evidence of lines", [...stamp, goal], make, MOST_EVIDENCE) : make();
}

/** Tables whose evidence is kept beside each other. */
const MOST_EVIDENCE = 6;

/** What runs and had no result is shown too: nothing at all is a result. */
async function idleGroups(db: Database, query: SliceQuery, level: LevelCodes, now: Divided): Promise<Group[]> {
  if ((query.level !== "campaign" && query.level !== "adGroup") || query.split !== "" || query.within.length > 0)
    return [];
  const idle: Group[] = [];
  for (const record of (await liveAccount(db)).all(query.level)) {
    if (record.status !== "on") continue;
    const code = level.codeOfKey(record.key);
    if (code < 0 || now.find(code, 0) === null)
      idle.push({ key: level.codeFor!(record.key), split: 0, sums: noSums() });
  }
  return idle;
}

async function dryDays(db: Database, window: Window): Promise<Map<string, { days: number; hour: number }>> {
  const names = await codeTexts(db, "campaign");
  const rows = await db
    .select({
      campaign: campaignDays.campaign,
      days: sql<number>`count(*)`,
      hour: sql<number>`avg(${campaignDays.dryAt})`,
    })
    .from(campaignDays)
    .where(
      and(gte(campaignDays.day, window.from), lte(campaignDays.day, window.to), sql`${campaignDays.dryAt} IS NOT NULL`),
    )
    .groupBy(campaignDays.campaign);
  return new Map(rows.map((row) => [names.get(row.campaign) ?? "", { days: row.days, hour: row.hour }]));
}

/** All lines found as headings and rows for a file. Money in currency units. */
export async function exportSlice(
  db: Database,
  info: WorkspaceInfo,
  query: SliceQuery,
  metrics: MetricKey[],
): Promise<Outcome<{ headings: string[]; rows: (string | number | null)[][] }>> {
  const slice = await viewSlice(db, info, { ...query, cursor: 0, limit: 1_000_000 });
  if (!slice.ok) return slice;
  const { lines, levelLabel, splitLabel, total } = slice.value;
  const cell = (key: MetricKey, sums: Sums | null) => {
    const value = sums && METRICS[key].of(sums);
    return value !== null && METRICS[key].kind === "money" ? toUnits(value) : value;
  };
  const splitNames = (line: SliceLine | null) => (splitLabel ? [line?.splitName ?? ""] : []);
  const headings = [
    ...[levelLabel[0], "Key", ...(splitLabel ? [splitLabel[0]] : [])],
    ...metrics.flatMap((key) => [METRICS[key].label, `${METRICS[key].label}, compared`]),
    ...["Spend share", "Sales share", "Chance of reaching the goal"],
  ];
  const rows = lines.map((line) => [
    ...[line.name, line.key, ...splitNames(line)],
    ...metrics.flatMap((key) => [cell(key, line.sums), cell(key, line.before)]),
    ...[line.spendShare, line.salesShare, line.chance],
  ]);
  const sums = metrics.flatMap((key) => [cell(key, total), cell(key, slice.value.before)]);
  return ok({ headings, rows: [...rows, ["Everything", "", ...splitNames(null), ...sums, 1, 1, null]] });
}
