import { and, gte, lte, sql } from "drizzle-orm";
import { z } from "zod";
import { formatDay, parseDay, windowBefore, type Window } from "@/core/kit/days";
import { METRICS, noSums, shareGap, type MetricKey, type Sums } from "@/core/kit/metrics";
import { toUnits } from "@/core/kit/money";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { groupCube, totalOfGroups, type Cube, type Group } from "@/core/results/cube";
import { hasStoreSales, isLevel, LEVEL_LABEL, sourceOf, type Level, type Source } from "@/core/results/levels";
import { linesEvidence, type LineEvidence } from "@/core/results/line-evidence";
import { recordsOf } from "@/core/planogram/structure";
import { chanceOfGoal, DEFAULT_HEAT_RULES, heatOf, pooledReturn } from "@/core/shelves/evidence";
import { cellText } from "@/core/kit/columns";
import type { Database } from "@/db/client";
import { campaignDays } from "@/db/schema";
import { loadCatalogue } from "../catalogue/load";
import { liveStructure } from "../dispatch/structure";
import { loadEvidence } from "../shelves/shelves";
import type { WorkspaceInfo } from "../workspaces";
import { incompleteDays, loadCube, loadLag, type WindowCube } from "./cubes";
import { levelCodes, type LevelCodes } from "./level-codes";
import { codeTexts, loadWindow, resultDays } from "./load";
import { windowTotal } from "./results";
import { windowOfDays, windowSchema } from "./window";

const levelSchema = z
  .string()
  .max(220)
  .refine(isLevel, "a level of results, or field: and a column") as z.ZodType<Level>;

/** Only the lines of one thing of a level. */
const withinSchema = z
  .string()
  .max(5000)
  .default("[]")
  .transform((text, context): { level: Level; key: string }[] => {
    try {
      return z
        .array(z.object({ level: levelSchema, key: z.string().max(700) }))
        .max(6)
        .parse(JSON.parse(text));
    } catch {
      context.addIssue({ code: "custom", message: "within must be JSON: a list of { level, key }" });
      return z.NEVER;
    }
  });

export const sliceSchema = z.object({
  level: levelSchema.default("campaign"),
  /** A second level by which each line is divided. */
  split: levelSchema.or(z.literal("")).default(""),
  days: windowSchema,
  /** First and last day instead of a number of days. */
  from: z.iso.date().optional(),
  to: z.iso.date().optional(),
  /** What the window is compared with: the days before, the same days a year ago, a range of its own, or nothing. */
  compare: z.enum(["before", "year", "range", "none"]).default("before"),
  compareFrom: z.iso.date().optional(),
  compareTo: z.iso.date().optional(),
  within: withinSchema,
  /** The shelf set for level `shelf`. */
  set: z.string().max(60).default("return-tiers"),
  /** Found in names and keys. */
  q: z.string().max(200).default(""),
  sort: z.string().max(60).default("-cost"),
  /** Whether orders that will still come are counted in. */
  complete: z.stringbool().default(false),
  limit: z.coerce.number().int().min(1).max(100_000).default(500),
  cursor: z.coerce.number().int().min(0).default(0),
});

export type SliceQuery = z.output<typeof sliceSchema>;

export interface SliceLine {
  key: string;
  name: string;
  /** The item's picture, at level `item`. */
  image: string | null;
  splitKey: string;
  splitName: string;
  sums: Sums;
  before: Sums | null;
  spendShare: number | null;
  salesShare: number | null;
  gap: number | null;
  evidence: LineEvidence | null;
  /** Days in the window on which the budget ran out, and the usual hour; campaigns only. */
  dryDays: number | null;
  dryHour: number | null;
}

export interface Slice {
  from: string | null;
  to: string | null;
  /** The window compared with, or null. */
  compared: { from: string; to: string } | null;
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

/** The window a query asks for. */
async function windowOf(db: Database, query: SliceQuery): Promise<Outcome<Window>> {
  if (!query.from && !query.to) return ok(await windowOfDays(db, query.days));
  const span = await resultDays(db);
  const from = query.from ? parseDay(query.from) : (span?.from ?? 0);
  const to = query.to ? parseDay(query.to) : (span?.to ?? 0);
  return to < from ? fail("days-reversed", "The last day lies before the first.") : ok({ from, to });
}

/** The window compared with. */
function comparedWith(query: SliceQuery, window: Window): Outcome<Window | null> {
  if (query.compare === "none") return ok(null);
  if (query.compare === "before") return ok(windowBefore(window));
  if (query.compare === "year") {
    const yearAgo = (day: number) => {
      const date = new Date(day * 86_400_000);
      return Math.floor(Date.UTC(date.getUTCFullYear() - 1, date.getUTCMonth(), date.getUTCDate()) / 86_400_000);
    };
    return ok({ from: yearAgo(window.from), to: yearAgo(window.to) });
  }
  if (!query.compareFrom || !query.compareTo) return fail("compare-range", "Say from and to which day to compare.");
  const range = { from: parseDay(query.compareFrom), to: parseDay(query.compareTo) };
  return range.to < range.from ? fail("days-reversed", "The last day compared lies before the first.") : ok(range);
}

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
  const divide = (cube: WindowCube) =>
    groups(cube, level.value, split?.value ?? null, within, hasStore, query.complete);
  const now = divide(await loadCube(db, source, window.value, byDay));
  const then = compared.value ? divide(await loadCube(db, source, compared.value, byDay)) : null;
  const lines = await makeLines(db, query, window.value, level.value, split?.value ?? null, now, then);
  const total = totalOfGroups(now);
  const before = then && totalOfGroups(then);
  // The shop's sales can't be divided by what ads are divided by, but beside the whole they can always stand.
  if (!hasStore && query.within.length === 0) {
    await addStoreTotal(db, total, window.value);
    if (before && compared.value) await addStoreTotal(db, before, compared.value);
  }
  for (const line of lines) Object.assign(line, shareGap(line.sums, total));
  const evidence = linesEvidence(
    lines.map(({ sums }) => sums),
    info.goal,
  );
  const found = sorted(searched(lines, query.q), query.sort, evidence.chance);
  const shown = found.slice(query.cursor, query.cursor + query.limit);
  // Intervals take time to work out, so only lines that are shown get theirs.
  for (const line of shown) line.evidence = evidence.of(line.sums);
  if (query.level === "item" && used.length === 1) await addItemEvidence(db, info, window.value, shown);
  const span = await resultDays(db);
  const lag = await loadLag(db);
  const { ads } = await loadCube(db, source, window.value, byDay);
  const keep = keeper(ads, within);
  let toCome = 0;
  for (let i = 0; i < ads.length; i++) if (keep(i)) toCome += ads.expected.orders[i]! - ads.sums.orders[i]!;
  return ok({
    from: span ? formatDay(Math.max(window.value.from, span.from)) : null,
    to: span ? formatDay(Math.min(window.value.to, span.to)) : null,
    compared: compared.value && { from: formatDay(compared.value.from), to: formatDay(compared.value.to) },
    source,
    levelLabel: level.value.label,
    splitLabel: split?.value.label ?? null,
    total,
    before,
    lines: shown,
    count: found.length,
    nextCursor: query.cursor + query.limit < found.length ? query.cursor + query.limit : null,
    hasStore,
    incompleteDays: incompleteDays(lag, window.value),
    ordersToCome: toCome,
    offered: ALL_LEVELS.filter((one) => sourceOf([...query.within.map(({ level: l }) => l), one]) !== null),
  });
}

/** Items get the evidence that every other screen shows of them: pooled by category, with their price as the value. */
async function addItemEvidence(db: Database, info: WorkspaceInfo, window: Window, lines: SliceLine[]): Promise<void> {
  const results = await loadWindow(db, window);
  const evidence = await loadEvidence(db, results);
  const { columns } = await loadCatalogue(db, ["id"]);
  const rowOf = new Map<string, number>();
  const ids = columns["id"];
  for (let row = 0; ids && row < results.rows.clicks.length; row++) rowOf.set(cellText(ids, row), row);
  for (const line of lines) {
    const row = rowOf.get(line.key);
    const known = row === undefined ? null : pooledReturn(evidence, row);
    if (row === undefined || !known || line.sums.clicks === 0) continue;
    const chance = chanceOfGoal(evidence, row, info.goal);
    line.evidence = { ...known, chance, heat: heatOf(chance, line.sums.clicks, DEFAULT_HEAT_RULES) };
  }
}

async function addStoreTotal(db: Database, total: Sums, window: Window): Promise<void> {
  const { storeOrders, storeRevenue } = await windowTotal(db, window);
  Object.assign(total, { storeOrders, storeRevenue });
}

/** Whether a cube's line lies within what is chosen. */
function keeper(cube: Cube, within: [LevelCodes, number][]): (line: number) => boolean {
  const tests = within.map(([codes, code]) => {
    const of = codes.codeOf(cube);
    return (line: number) => of(line) === code;
  });
  return (line) => tests.every((test) => test(line));
}

/** A window's groups, with store sales where they can stand beside. */
function groups(
  { ads, store }: WindowCube,
  level: LevelCodes,
  split: LevelCodes | null,
  within: [LevelCodes, number][],
  hasStore: boolean,
  expected: boolean,
): Group[] {
  const found = groupCube(ads, level.codeOf(ads), split?.codeOf(ads) ?? null, keeper(ads, within), expected);
  if (!hasStore || !store) return found;
  const index = new Map(found.map((group) => [`${group.key}/${group.split}`, group]));
  const days = store.dimensions.day;
  const items = store.dimensions.item!;
  const code = (codes: LevelCodes, line: number) =>
    codes.ofItem ? codes.ofItem(items[line] as number) : ((days?.[line] as number | undefined) ?? -1);
  for (let line = 0; line < store.length; line++) {
    if (!within.every(([codes, wanted]) => code(codes, line) === wanted)) continue;
    const key = code(level, line);
    const splitKey = split ? code(split, line) : 0;
    let group = index.get(`${key}/${splitKey}`);
    if (!group) {
      group = { key, split: splitKey, sums: noSums() };
      index.set(`${key}/${splitKey}`, group);
      found.push(group);
    }
    group.sums.storeOrders += store.sums.orders[line] as number;
    (group.sums.storeRevenue as number) += store.sums.revenue[line] as number;
  }
  return found;
}

async function makeLines(
  db: Database,
  query: SliceQuery,
  window: Window,
  level: LevelCodes,
  split: LevelCodes | null,
  now: Group[],
  then: Group[] | null,
): Promise<SliceLine[]> {
  const before = new Map(
    then?.map(({ key, split: part, sums }) => [`${level.keyOf(key)}\u001f${split?.keyOf(part) ?? ""}`, sums]),
  );
  const dry = query.level === "campaign" ? await dryDays(db, window) : null;
  const blank = { spendShare: null, salesShare: null, gap: null, evidence: null, dryDays: null, dryHour: null };
  const lines = now.map(({ key: code, split: part, sums }): SliceLine => {
    const key = level.keyOf(code);
    const splitKey = split?.keyOf(part) ?? "";
    const ran = dry?.get(key);
    return {
      ...blank,
      ...{ key, splitKey, sums },
      name: level.nameOf(code),
      image: level.imageOf?.(code) ?? null,
      splitName: split?.nameOf(part) ?? "",
      before: then ? (before.get(`${key}\u001f${splitKey}`) ?? noSums()) : null,
      dryDays: ran?.days ?? null,
      dryHour: ran?.hour ?? null,
    };
  });
  // What runs and had no result is shown too: nothing at all is a result.
  if ((query.level === "campaign" || query.level === "adGroup") && query.split === "" && query.within.length === 0) {
    const known = new Set(lines.map(({ key }) => key));
    for (const record of recordsOf(await liveStructure(db), query.level)) {
      if (known.has(record.key) || record.status !== "on") continue;
      const sums = noSums();
      const earlier = then ? (before.get(`${record.key}\u001f`) ?? noSums()) : null;
      lines.push({
        ...blank,
        key: record.key,
        name: record.name,
        image: null,
        splitKey: "",
        splitName: "",
        sums,
        before: earlier,
      });
    }
  }
  return lines;
}

function searched(lines: SliceLine[], q: string): SliceLine[] {
  const words = q.toLowerCase().split(/\s+/).filter(Boolean);
  if (words.length === 0) return lines;
  return lines.filter(({ key, name, splitName }) => {
    const text = `${name} ${key} ${splitName}`.toLowerCase();
    return words.every((word) => text.includes(word));
  });
}

/** Sorts by a metric, its change against the other window (`change:cost`), the gap, the chance, or the name. */
function sorted(lines: SliceLine[], sort: string, chance: (sums: Sums) => number | null): SliceLine[] {
  const sign = sort.startsWith("-") ? -1 : 1;
  const by = sort.replace(/^-/, "");
  const change = by.startsWith("change:") ? METRICS[by.slice("change:".length) as MetricKey] : undefined;
  const value = (line: SliceLine): number | string | null => {
    if (by === "name") return line.name.toLowerCase();
    if (by === "gap") return line.gap;
    if (by === "chance") return chance(line.sums);
    if (change) {
      const [now, then] = [change.of(line.sums), line.before && change.of(line.before)];
      return now === null || !then ? null : now / then - 1;
    }
    return METRICS[by as MetricKey]?.of(line.sums) ?? null;
  };
  const keyed = lines.map((line) => ({ line, at: value(line) }));
  keyed.sort((a, b) => {
    if (a.at === null || b.at === null) return Number(a.at === null) - Number(b.at === null);
    return sign * (a.at < b.at ? -1 : a.at > b.at ? 1 : 0) || (a.line.key < b.line.key ? -1 : 1);
  });
  return keyed.map(({ line }) => line);
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
    ...[line.spendShare, line.salesShare, line.evidence?.chance ?? null],
  ]);
  const sums = metrics.flatMap((key) => [cell(key, total), cell(key, slice.value.before)]);
  return ok({ headings, rows: [...rows, ["Everything", "", ...splitNames(null), ...sums, 1, 1, null]] });
}
