import { and, gte, lte, sql } from "drizzle-orm";
import { z } from "zod";
import { formatDay, windowBefore, windowEnding, type Window } from "@/core/kit/days";
import { addSums, noSums, shareGap, type Sums } from "@/core/kit/metrics";
import { mills } from "@/core/kit/money";
import { recordsOf } from "@/core/planogram/structure";
import { sumsByCode, totalOf } from "@/core/results/window-sums";
import type { Database } from "@/db/client";
import { basket, campaignDays } from "@/db/schema";
import { listFeeds } from "../catalogue/feeds";
import { loadCatalogue } from "../catalogue/load";
import { liveStructure } from "../dispatch/structure";
import { walkStructure } from "../planogram/serving";
import { listShelfSets, viewShelfSet } from "../shelves/shelves";
import type { WorkspaceInfo } from "../workspaces";
import { codeTexts, forEachDay, loadWindow, resultDays, sumsByKey } from "./load";

export const DEFAULT_WINDOW_DAYS = 30;

/** The window a request asks for: a number of days ending on the last day with results. */
export const windowSchema = z.coerce.number().int().min(1).max(730).default(DEFAULT_WINDOW_DAYS);

/** That window, or a window of nothing on day 0 when there are no results. */
export async function windowOfDays(db: Database, days: number): Promise<Window> {
  const span = await resultDays(db);
  return span ? windowEnding(span.to, days) : { from: 0, to: 0 };
}

export interface TillStrip {
  goal: number;
  /** Return over the window, or null. */
  roas: number | null;
  cost: number;
  /** Mills a day over all running campaigns. */
  budget: number;
  /** Spend of the last day with results. */
  lastDayCost: number;
  withoutHome: number;
  items: number;
  leaks: number;
  feedReadAt: number | null;
  resultsTo: string | null;
  basket: number;
}

/** What the till strip shows. Homes and leaks are of the account as the channel has it. */
export async function tillStrip(db: Database, info: WorkspaceInfo, days: number): Promise<TillStrip> {
  const window = await windowOfDays(db, days);
  const structure = await liveStructure(db);
  const catalogue = await loadCatalogue(db, []);
  const { proof } = await walkStructure(db, structure);
  const [feed] = await listFeeds(db);
  const span = await resultDays(db);
  const total = await windowTotal(db, window);
  const last = span ? await windowTotal(db, { from: span.to, to: span.to }) : noSums();
  const [held] = await db.select({ count: sql<number>`count(*)` }).from(basket);
  const running = recordsOf(structure, "campaign").filter((campaign) => campaign.status === "on");
  return {
    goal: info.goal,
    roas: total.cost > 0 ? total.revenue / total.cost : null,
    cost: total.cost,
    budget: running.reduce((sum, campaign) => sum + campaign.dailyBudget, 0),
    lastDayCost: last.cost,
    withoutHome: proof.none,
    items: catalogue.length,
    leaks: proof.leaks.length,
    feedReadAt: feed?.readAt ?? null,
    resultsTo: span ? formatDay(span.to) : null,
    basket: held?.count ?? 0,
  };
}

/** All results of a window, items that left the catalogue included. */
export async function windowTotal(db: Database, window: Window): Promise<Sums> {
  const { rows, gone } = await loadWindow(db, window);
  const total = totalOf(rows);
  addSums(total, gone);
  return total;
}

export const RESULT_LEVELS = ["campaign", "adGroup", "item", "shelf"] as const;

export const resultsSchema = z.object({
  level: z.enum(RESULT_LEVELS).default("campaign"),
  days: windowSchema,
  /** The shelf set for level `shelf`. */
  set: z.string().max(60).default("return-tiers"),
});

export interface ResultLine {
  key: string;
  name: string;
  sums: Sums;
  before: Sums;
  spendShare: number | null;
  salesShare: number | null;
  gap: number | null;
  /** Days in the window on which the budget ran out, and the usual hour; campaigns only. */
  dryDays: number | null;
  dryHour: number | null;
}

export interface ResultsView {
  from: string | null;
  to: string | null;
  total: Sums;
  before: Sums;
  lines: ResultLine[];
}

/** Results of a window and the one before, by campaign, ad group or shelf. Items are read by the item table. */
export async function viewResults(db: Database, input: z.infer<typeof resultsSchema>): Promise<ResultsView> {
  const window = await windowOfDays(db, input.days);
  const earlier = windowBefore(window);
  const total = await windowTotal(db, window);
  const before = await windowTotal(db, earlier);
  const lines =
    input.level === "shelf"
      ? await shelfLines(db, input.set, window, earlier)
      : await keyLines(db, input.level === "item" ? "campaign" : input.level, window, earlier);
  const span = await resultDays(db);
  return {
    from: span ? formatDay(Math.max(window.from, span.from)) : null,
    to: span ? formatDay(window.to) : null,
    total,
    before,
    lines: lines
      .map((line) => ({ ...line, ...shareGap(line.sums, total) }))
      .sort((a, b) => b.sums.cost - a.sums.cost || (a.name < b.name ? -1 : 1)),
  };
}

type BareLine = Omit<ResultLine, "spendShare" | "salesShare" | "gap">;

async function keyLines(
  db: Database,
  level: "campaign" | "adGroup",
  window: Window,
  earlier: Window,
): Promise<BareLine[]> {
  const structure = await liveStructure(db);
  const sums = await sumsByKey(db, window, level);
  const before = await sumsByKey(db, earlier, level);
  const dry = level === "campaign" ? await dryDays(db, window) : new Map<string, { days: number; hour: number }>();
  for (const record of recordsOf(structure, level))
    if (!sums.has(record.key) && record.status === "on") sums.set(record.key, noSums());
  return [...sums].map(([key, value]) => {
    const record = structure[key];
    const campaign = record?.type === "adGroup" ? structure[record.campaign] : undefined;
    const own = record?.type === "campaign" || record?.type === "adGroup" ? record.name : `${key} (gone)`;
    const name = campaign?.type === "campaign" && campaign.name !== own ? `${campaign.name} · ${own}` : own;
    const ran = dry.get(key);
    return {
      key,
      name,
      sums: value,
      before: before.get(key) ?? noSums(),
      dryDays: ran?.days ?? null,
      dryHour: ran?.hour ?? null,
    };
  });
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

async function shelfLines(db: Database, set: string, window: Window, earlier: Window): Promise<BareLine[]> {
  const view = await viewShelfSet(db, set);
  if (!view.ok) return [];
  const { shelves, shelfOf } = view.value;
  const now = await loadWindow(db, window);
  const then = await loadWindow(db, earlier);
  const sums = sumsByCode(now.rows, shelfOf, shelves.length);
  const before = sumsByCode(then.rows, shelfOf, shelves.length);
  const lines = shelves.map((shelf, i) => ({
    key: shelf.key,
    name: shelf.name,
    sums: sums[i] as Sums,
    before: before[i] as Sums,
    dryDays: null,
    dryHour: null,
  }));
  if (now.gone.cost > 0 || now.gone.storeRevenue > 0) {
    lines.push({
      key: "gone",
      name: "Items no longer in the feed",
      sums: now.gone,
      before: then.gone,
      dryDays: null,
      dryHour: null,
    });
  }
  return lines;
}

export const seriesSchema = z.object({
  days: windowSchema,
  level: z.enum(["all", "campaign", "adGroup", "shelf"]).default("all"),
  key: z.string().max(700).default(""),
  set: z.string().max(60).default("return-tiers"),
});

export interface SeriesPoint {
  day: string;
  sums: Sums;
}

/** Results day by day: of everything, of one campaign or ad group, or of the items now on one shelf. */
export async function viewSeries(db: Database, input: z.infer<typeof seriesSchema>): Promise<SeriesPoint[]> {
  const window = await windowOfDays(db, input.days);
  const keep = await rollupFilter(db, input);
  const points: SeriesPoint[] = [];
  await forEachDay(db, window, (day, ads, store) => {
    const sums = noSums();
    for (let i = 0; i < ads.item.length; i++) {
      if (!keep(ads.campaign[i] as number, ads.adGroup[i] as number, ads.item[i] as number)) continue;
      sums.impressions += ads.impressions[i] as number;
      sums.clicks += ads.clicks[i] as number;
      sums.cost = mills(sums.cost + (ads.cost[i] as number));
      sums.orders += ads.orders[i] as number;
      sums.units += ads.units[i] as number;
      sums.revenue = mills(sums.revenue + (ads.revenue[i] as number));
    }
    if (input.level === "all" || input.level === "shelf") {
      for (let i = 0; i < store.item.length; i++) {
        if (!keep(0, 0, store.item[i] as number)) continue;
        sums.storeOrders += store.orders[i] as number;
        sums.storeRevenue = mills(sums.storeRevenue + (store.revenue[i] as number));
      }
    }
    points.push({ day: formatDay(day), sums });
  });
  return points;
}

async function rollupFilter(db: Database, { level, key, set }: z.infer<typeof seriesSchema>) {
  if (level === "all") return () => true;
  if (level === "shelf") {
    const view = await viewShelfSet(db, set);
    const catalogue = await loadCatalogue(db, []);
    const numbers = catalogue.columns["itemNo"];
    if (!view.ok || numbers?.kind !== "number") return () => false;
    const index = view.value.shelves.findIndex((shelf) => shelf.key === key);
    const members = new Set<number>();
    view.value.shelfOf.forEach((shelf, row) => shelf === index && members.add(numbers.values[row] as number));
    return (_c: number, _g: number, item: number) => members.has(item);
  }
  const names = await codeTexts(db, level);
  const code = [...names].find(([, text]) => text === key)?.[0] ?? -1;
  return level === "campaign" ? (c: number) => c === code : (_c: number, g: number) => g === code;
}

/** What is still missing on the way round the loop. */
export async function setUpSteps(db: Database) {
  const catalogue = await loadCatalogue(db, []);
  const span = await resultDays(db);
  const structure = await liveStructure(db);
  const [held] = await db.select({ count: sql<number>`count(*)` }).from(basket);
  const sets = await listShelfSets(db);
  return {
    catalogue: catalogue.length > 0,
    shelves: sets.some((set) => set.computedAt !== null),
    campaigns: recordsOf(structure, "campaign").length > 0,
    basket: held?.count ?? 0,
    results: span !== null,
  };
}
