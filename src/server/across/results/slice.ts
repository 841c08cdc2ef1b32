import { formatDay, windowLength, type Window } from "@/core/kit/days";
import { METRICS, valueOf, type MetricKey, type Sums } from "@/core/kit/metrics";
import { toUnits } from "@/core/kit/money";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { totalOfGroups } from "@/core/results/cube";
import {
  hasStoreSales,
  isTraitLevel,
  LEVEL_LABEL,
  sourceOf,
  sourcesOf,
  type Level,
  type Source,
} from "@/core/results/levels";
import type { Database } from "@/db/client";
import { loadCatalogue } from "../../catalogue/load";
import type { WorkspaceInfo } from "../../workspaces";
import { loadCube, type WindowCube } from "../../results/cubes";
import { incompleteDays, loadLag } from "../../results/lag";
import { missingMeasures, sourceWithRows } from "../../results/reported";
import { divide, keeper, type Divided, type Division } from "./divide";
import { levelCodes, type LevelCodes } from "./level-codes";
import { resultDays } from "../../results/load";
import { asLine, searched, sorted, type SliceLine, type SliceTable } from "./slice-lines";
import { comparedWith, windowOf, type SliceQuery } from "./slice-query";
import { evidenceOfItems, evidenceOfLines, type GroupEvidence } from "./slice-evidence";
import { leftOutWindows, type LeftOut } from "../../results/window-rows";
import { placeTeller } from "../../places/place-kinds";
import { campaignStops } from "../../results/campaign-stops";
import { addStoreTotal, idleGroups } from "./slice-extras";

export interface Slice {
  from: string | null;
  to: string | null;
  /** The window compared with, or null; and how many of its days lie where there are results. */
  compared: { from: string; to: string; days: number; known: number } | null;
  source: Source;
  /** What that report does not tell of the lines, and of the whole: no value, not nought. */
  missing: (keyof Sums)[];
  missingOfTotal: (keyof Sums)[];
  /** Sums over several days, from report files, that lie in the window and can't be added to what counts. */
  leftOut: LeftOut[];
  levelLabel: [one: string, many: string];
  splitLabel: [one: string, many: string] | null;
  total: Sums;
  before: Sums | null;
  lines: SliceLine[];
  count: number;
  /** The sums of the lines found by words and numbers; null where nothing was asked for. */
  found: Sums | null;
  nextCursor: number | null;
  /** Whether store sales stand beside the ad results. */
  hasStore: boolean;
  /** Days at the end of the window whose orders are not all in yet, and how many orders are still expected. */
  incompleteDays: number;
  ordersToCome: number;
  /** Levels that go with what is chosen. */
  offered: Level[];
}

const ALL_LEVELS = Object.keys(LEVEL_LABEL) as Level[];

/** A query made out: which report answers it, and the codes it divides by. */
interface Asked {
  source: Source;
  used: Level[];
  window: Window;
  compared: Window | null;
  level: LevelCodes;
  split: LevelCodes | null;
  within: [LevelCodes, number][];
}

async function makeOut(db: Database, query: SliceQuery): Promise<Outcome<Asked>> {
  const used = [query.level, ...(query.split === "" ? [] : [query.split]), ...query.within.map(({ level }) => level)];
  const sources = sourcesOf(used);
  if (sources.length === 0) {
    const label = (level: Level) => (LEVEL_LABEL[level as keyof typeof LEVEL_LABEL]?.[0] ?? level).toLowerCase();
    return fail(
      "results-not-divided",
      `No report divides results by ${used.map(label).join(" and ")} at once.`,
      "Choose another split, or drop the narrower view.",
    );
  }
  const window = await windowOf(db, query);
  if (!window.ok) return window;
  const source = await sourceWithRows(db, sources, window.value);
  const compared = comparedWith(query, window.value);
  if (!compared.ok) return compared;
  const level = await levelCodes(db, query.level, query.set);
  if (!level.ok) return level;
  const split = query.split === "" ? null : await levelCodes(db, query.split, query.set);
  if (split && !split.ok) return split;
  const within: Asked["within"] = [];
  for (const one of query.within) {
    const codesOf = await levelCodes(db, one.level, query.set);
    if (!codesOf.ok) return codesOf;
    within.push([codesOf.value, codesOf.value.codeOfKey(one.key)]);
  }
  const codes = { level: level.value, split: split?.value ?? null, within };
  return ok({ source, used, window: window.value, compared: compared.value, ...codes });
}

/** What a division is kept under; null where it can change while results stay, as shelves and kinds of campaigns do. */
async function divisionName(db: Database, query: SliceQuery, used: Level[]): Promise<string | null> {
  if (used.includes("shelf") || used.some(isTraitLevel)) return null;
  const { revision } = await loadCatalogue(db, []);
  return JSON.stringify([query.level, query.split, query.within, query.complete, revision]);
}

/** Results of a window by a level, divided by a second one if asked, beside another window. */
export async function viewSlice(db: Database, info: WorkspaceInfo, query: SliceQuery): Promise<Outcome<Slice>> {
  const made = await makeOut(db, query);
  if (!made.ok) return made;
  const { source, used, window, compared, level, split, within } = made.value;
  const byDay = used.includes("day");
  const hasStore = hasStoreSales(used);
  const name = await divisionName(db, query, used);
  const division = { name, level, split, within, hasStore, expected: query.complete };
  const cube = await loadCube(db, source, window, byDay);
  const now = await divide(db, cube, division);
  const span = await resultDays(db);
  const known = compared ? daysKnown(span, compared) : 0;
  // Days of which only a part is known say nothing beside days that are all known.
  const isAlike = compared !== null && known === windowLength(compared);
  const then = isAlike ? await divide(db, await loadCube(db, source, compared, byDay), division) : null;
  const total = { ...now.total };
  const before = then && { ...then.total };
  // The shop's sales can't be divided by what ads are divided by, but beside the whole they can always stand.
  if (!hasStore && query.within.length === 0) {
    await addStoreTotal(db, total, window);
    if (before && compared) await addStoreTotal(db, before, compared);
  }
  const idle = await idleGroups(db, query, level, now);
  const groups = idle.length > 0 ? [...now.groups, ...idle] : now.groups;
  const ofAds = await missingMeasures(db, source, window, cube.ads);
  const noStore = total.storeOrders === 0 && total.storeRevenue === 0 ? STORE : [];
  const missing = [...ofAds, ...(hasStore ? noStore : STORE)];
  const table: SliceTable = { level, split, groups, then, total, missing };
  const evidence = await evidenceFor(db, info, query, { ...made.value, cube, division, now });
  const found = searched(table, query.q, query.where);
  const end = query.cursor + query.limit;
  const ordered = sorted(table, found, query.sort, end, evidence.chance);
  const dry = query.level === "campaign" ? (await campaignStops(db)).stops : null;
  const tell = query.level === "term" ? await placeTeller(db) : null;
  const shown = ordered.slice(query.cursor, end).map((group) => ({
    ...asLine(table, group, dry, tell),
    ...{ chance: evidence.chance(group), evidence: evidence.of(group) },
  }));
  return ok({
    from: span ? formatDay(Math.max(window.from, span.from)) : null,
    to: span ? formatDay(Math.min(window.to, span.to)) : null,
    compared: compared && {
      ...{ from: formatDay(compared.from), to: formatDay(compared.to), days: windowLength(compared) },
      known,
    },
    ...{ source, missing, missingOfTotal: [...ofAds, ...(query.within.length === 0 ? noStore : STORE)] },
    leftOut: await leftOutWindows(db, source, window),
    levelLabel: level.label,
    splitLabel: split?.label ?? null,
    total,
    before,
    lines: shown,
    count: found.length,
    found: query.q.trim() !== "" || query.where.length > 0 ? totalOfGroups(found) : null,
    nextCursor: end < found.length ? end : null,
    hasStore,
    incompleteDays: incompleteDays(await loadLag(db), window),
    ordersToCome: ordersToCome(cube, within),
    offered: ALL_LEVELS.filter((one) => sourceOf([...query.within.map(({ level: l }) => l), one]) !== null),
  });
}

/** The evidence of the lines asked for, learned from all lines of the window that are divided alike. */
async function evidenceFor(
  db: Database,
  info: WorkspaceInfo,
  query: SliceQuery,
  { used, level, window, cube, division, now }: Asked & { cube: WindowCube; division: Division; now: Divided },
): Promise<GroupEvidence> {
  if (query.level === "item" && used.length === 1) return evidenceOfItems(db, info, window, level);
  if (query.within.length === 0) {
    const stamp = division.name === null ? null : [...cube.stamp, division.name];
    return evidenceOfLines(db, stamp, now.groups, info.goal);
  }
  const name = await divisionName(db, { ...query, within: [] }, used);
  const whole = await divide(db, cube, { ...division, name, within: [] });
  return evidenceOfLines(db, name === null ? null : [...cube.stamp, name], whole.groups, info.goal);
}

/** What only the shop's own sales tell. */
const STORE = ["storeOrders", "storeRevenue"] as const;

/** How many days of a window lie where there are results. */
function daysKnown(span: Window | null, window: Window): number {
  return span ? Math.max(0, Math.min(window.to, span.to) - Math.max(window.from, span.from) + 1) : 0;
}

/** Orders that are still expected of the days of a cube. */
function ordersToCome({ ads }: WindowCube, within: Asked["within"]): number {
  const keep = keeper(ads, within);
  let toCome = 0;
  for (let i = 0; i < ads.length; i++) if (keep(i)) toCome += ads.expected.orders[i]! - ads.sums.orders[i]!;
  return toCome;
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
  const cell = (key: MetricKey, sums: Sums | null, missing: Slice["missing"]) => {
    const value = sums && valueOf(key, sums, missing);
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
    ...metrics.flatMap((key) => [
      cell(key, line.sums, slice.value.missing),
      cell(key, line.before, slice.value.missing),
    ]),
    ...[line.spendShare, line.salesShare, line.chance],
  ]);
  const ofTotal = slice.value.missingOfTotal;
  const sums = metrics.flatMap((key) => [cell(key, total, ofTotal), cell(key, slice.value.before, ofTotal)]);
  return ok({ headings, rows: [...rows, ["Everything", "", ...splitNames(null), ...sums, 1, 1, null]] });
}
