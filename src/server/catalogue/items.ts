import { asc, eq } from "drizzle-orm";
import { z } from "zod";
import { EXTRA_PREFIX } from "@/core/catalogue/catalogue-columns";
import { FAULT, faultsIn } from "@/core/catalogue/faults";
import { findRows, findRowsSchema, SEARCHED_FIELDS } from "@/core/catalogue/find-rows";
import { cellText, type Column } from "@/core/kit/columns";
import type { Window } from "@/core/kit/days";
import { formatDay } from "@/core/kit/days";
import { METRIC_KEYS, METRICS, type MetricKey, type Sums } from "@/core/kit/metrics";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { chanceOfGoal, HEATS, pooledReturn, type Heat } from "@/core/shelves/evidence";
import { sumsOfRow } from "@/core/results/window-sums";
import type { Database } from "@/db/client";
import { feeds, items as itemVersions, revisions } from "@/db/schema";
import { liveStructure, plannedStructure } from "../dispatch/structure";
import { walkStructure } from "../planogram/serving";
import { forEachDay, loadWindow, type WindowResults } from "../results/load";
import { listShelfSets, loadEvidence, loadHeat, viewShelfSet } from "../shelves/shelves";
import type { WorkspaceInfo } from "../workspaces";
import { loadCatalogue } from "./load";

export const itemsQuerySchema = findRowsSchema.extend({
  limit: z.coerce.number().int().min(1).max(1000).default(100),
  /** Where the page begins, as the last answer's `nextCursor` gave it. */
  cursor: z.coerce.number().int().min(0).default(0),
  /** Only the items on one shelf: `set/shelf`. */
  shelf: z.string().max(100).default(""),
});

export type ItemsQuery = z.infer<typeof itemsQuerySchema>;

export interface ItemLine {
  id: string;
  title: string;
  brand: string;
  category: string;
  image: string;
  availability: string;
  /** Mills. */
  price: number;
  heat: Heat;
  warnings: string[];
  sums: Sums;
}

const LINE_COLUMNS = ["id", "title", "brand", "category", "image", "availability", "price", "warnings"];

function textAt(column: Column | undefined, row: number): string {
  return column ? cellText(column, row) : "";
}

const metricColumns = new WeakMap<WindowResults, Map<string, Column>>();

/** A metric of every row as a column, worked from its sums; kept with the window's results. */
function metricColumn(results: WindowResults, key: MetricKey): Column {
  const kept = metricColumns.get(results) ?? new Map<string, Column>();
  metricColumns.set(results, kept);
  let column = kept.get(key);
  if (!column) {
    const { of } = METRICS[key];
    const values = Float64Array.from(results.rows.clicks, (_, row) => of(sumsOfRow(results.rows, row)) ?? NaN);
    kept.set(key, (column = { kind: "number", values }));
  }
  return column;
}

const heats = new WeakMap<WindowResults, { goal: number; heat: Heat[] }>();

async function heatOfRows(db: Database, results: WindowResults, goal: number): Promise<Heat[]> {
  const kept = heats.get(results);
  if (kept?.goal === goal) return kept.heat;
  const heat = await loadHeat(db, results, goal);
  heats.set(results, { goal, heat });
  return heat;
}

/** The rows a query finds, in its order. Conditions may name any field, any metric, `heat` or `shelf:<set>`. */
async function foundRows(db: Database, info: WorkspaceInfo, query: ItemsQuery, window: Window) {
  const asked = [query.sort.replace(/^-/, ""), ...query.conditions.map(({ field }) => field)];
  const catalogue = await loadCatalogue(db, [...SEARCHED_FIELDS, ...LINE_COLUMNS, ...asked]);
  const results = await loadWindow(db, window);
  const columns = { ...catalogue.columns };
  for (const name of asked) {
    if ((METRIC_KEYS as readonly string[]).includes(name)) columns[name] = metricColumn(results, name as MetricKey);
  }
  const heat = await heatOfRows(db, results, info.goal);
  if (asked.includes("heat")) {
    const values = ["", ...HEATS];
    columns["heat"] = { kind: "text", values, codes: Uint32Array.from(heat, (step) => values.indexOf(step)) };
  }
  let rows = findRows({ length: catalogue.length, columns }, query);
  if (query.shelf !== "") {
    const [setKey = "", shelfKey = ""] = query.shelf.split("/");
    const view = await viewShelfSet(db, setKey);
    if (!view.ok) return { rows: new Uint32Array(0), catalogue, results, heat };
    const index = view.value.shelves.findIndex((shelf) => shelf.key === shelfKey);
    rows = rows.filter((row) => view.value.shelfOf[row] === index);
  }
  return { rows, catalogue, results, heat };
}

/** A page of the item table. */
export async function findItems(
  db: Database,
  info: WorkspaceInfo,
  query: ItemsQuery,
  window: Window,
): Promise<{ items: ItemLine[]; total: number; nextCursor: number | null }> {
  const { rows, catalogue, results, heat } = await foundRows(db, info, query, window);
  const { columns } = catalogue;
  const number = (name: string, row: number) =>
    columns[name]?.kind === "number" ? (columns[name].values[row] as number) : 0;
  const end = Math.min(rows.length, query.cursor + query.limit);
  const items = Array.from(rows.subarray(query.cursor, end), (row) => ({
    id: textAt(columns["id"], row),
    title: textAt(columns["title"], row),
    brand: textAt(columns["brand"], row),
    category: textAt(columns["category"], row),
    image: textAt(columns["image"], row),
    availability: textAt(columns["availability"], row),
    price: number("price", row),
    heat: heat[row] as Heat,
    warnings: faultsIn(number("warnings", row)).map((code) => FAULT[code].label),
    sums: sumsOfRow(results.rows, row),
  }));
  return { items, total: rows.length, nextCursor: end < rows.length ? end : null };
}

/** The IDs that a query finds, for acting on a selection that spans pages. */
export async function findItemIds(
  db: Database,
  info: WorkspaceInfo,
  query: ItemsQuery,
  window: Window,
): Promise<string[]> {
  const { rows, catalogue } = await foundRows(db, info, query, window);
  return Array.from(rows, (row) => textAt(catalogue.columns["id"], row));
}

export interface ItemDetail extends ItemLine {
  link: string;
  /** Every field of the feed, by its heading. */
  fields: { name: string; value: string }[];
  shelves: { set: string; setName: string; shelf: string; heat: Heat }[];
  homes: ItemHome[];
  excluded: boolean;
  /** Pooled return: mean and the ends of the 80 % interval; null without a CPC to go by. */
  pooled: { mean: number; low: number; high: number } | null;
  chance: number;
  family: { id: string; title: string }[];
  series: { day: string; cost: number; revenue: number; clicks: number; orders: number }[];
}

export interface ItemHome {
  campaign: string;
  campaignName: string;
  adGroup: string;
  adGroupName: string;
  group: string;
  /** Mills a click. */
  bid: number;
  serveOrder: number;
  leak: boolean;
  /** Whether the bid is the item's own. */
  own: boolean;
}

async function rowOfItem(db: Database, id: string): Promise<number> {
  const { columns } = await loadCatalogue(db, ["id"]);
  const column = columns["id"];
  if (column?.kind !== "text") return -1;
  const code = column.values.indexOf(id);
  return code < 0 ? -1 : column.codes.indexOf(code);
}

/** The groups that serve an item in the account as it will be once the basket is sent, first to serve first. */
export async function homesOfItem(db: Database, id: string): Promise<ItemHome[]> {
  const structure = await plannedStructure(db);
  const row = await rowOfItem(db, id);
  if (row < 0) return [];
  const { serving } = await walkStructure(db, structure);
  return serving
    .filter((group) => group.rows.includes(row))
    .map(({ campaign, adGroup, group, bid, leak }) => ({
      campaign: campaign.key,
      campaignName: campaign.name,
      adGroup: adGroup.key,
      adGroupName: adGroup.name,
      group: group.key,
      bid,
      serveOrder: campaign.serveOrder,
      leak,
      own: group.value === id,
    }))
    .sort((a, b) => a.serveOrder - b.serveOrder || b.bid - a.bid);
}

/** Everything about one item, for its panel. */
export async function findItem(
  db: Database,
  info: WorkspaceInfo,
  id: string,
  window: Window,
): Promise<Outcome<ItemDetail>> {
  const row = await rowOfItem(db, id);
  if (row < 0) return fail("item-unknown", `There is no item ${id} in the catalogue.`, "It may have left the feed.");
  const catalogue = await loadCatalogue(db, "all");
  const { columns } = catalogue;
  const results = await loadWindow(db, window);
  const evidence = await loadEvidence(db, results);
  const heat = await heatOfRows(db, results, info.goal);
  const itemNo = columns["itemNo"]?.kind === "number" ? (columns["itemNo"].values[row] as number) : 0;
  const shelves: ItemDetail["shelves"] = [];
  for (const { definition } of await listShelfSets(db)) {
    const view = await viewShelfSet(db, definition.key);
    if (!view.ok) continue;
    const shelf = view.value.shelves[view.value.shelfOf[row] as number]!;
    shelves.push({ set: definition.key, setName: definition.name, shelf: shelf.name, heat: shelf.heat });
  }
  const number = (name: string) => (columns[name]?.kind === "number" ? (columns[name].values[row] as number) : 0);
  const structure = await liveStructure(db);
  const family = textAt(columns["family"], row);
  return ok({
    id,
    title: textAt(columns["title"], row),
    brand: textAt(columns["brand"], row),
    category: textAt(columns["category"], row),
    image: textAt(columns["image"], row),
    link: textAt(columns["link"], row),
    availability: textAt(columns["availability"], row),
    price: number("price"),
    heat: heat[row] as Heat,
    warnings: faultsIn(number("warnings")).map((code) => FAULT[code].label),
    sums: sumsOfRow(results.rows, row),
    fields: await rawFields(db, itemNo),
    shelves,
    homes: await homesOfItem(db, id),
    excluded: Object.values(structure).some((record) => record.type === "exclusion" && record.item === id),
    pooled: pooledReturn(evidence, row),
    chance: chanceOfGoal(evidence, row, info.goal),
    family: family === "" ? [] : familyOf(columns, family),
    series: await itemSeries(db, itemNo, window),
  });
}

function familyOf(columns: Record<string, Column>, family: string): { id: string; title: string }[] {
  const column = columns["family"];
  if (column?.kind !== "text") return [];
  const code = column.values.indexOf(family);
  const members: { id: string; title: string }[] = [];
  column.codes.forEach((value, row) => {
    if (value === code) members.push({ id: textAt(columns["id"], row), title: textAt(columns["title"], row) });
  });
  return members;
}

async function rawFields(db: Database, itemNo: number): Promise<{ name: string; value: string }[]> {
  const versions = await db
    .select({ cells: itemVersions.cells, toRev: itemVersions.toRev })
    .from(itemVersions)
    .where(eq(itemVersions.itemNo, itemNo))
    .orderBy(asc(itemVersions.fromRev));
  const live = versions.find((version) => version.toRev === null);
  const [feed] = await db.select().from(feeds);
  if (!live || !feed?.currentRevision) return [];
  const [revision] = await db.select().from(revisions).where(eq(revisions.id, feed.currentRevision));
  const cells = JSON.parse(live.cells) as string[];
  return (revision?.headings ?? []).map((name, i) => ({ name, value: cells[i] ?? "" }));
}

async function itemSeries(db: Database, itemNo: number, window: Window): Promise<ItemDetail["series"]> {
  const series: ItemDetail["series"] = [];
  await forEachDay(db, window, (day, ads) => {
    const point = { day: formatDay(day), cost: 0, revenue: 0, clicks: 0, orders: 0 };
    ads.item.forEach((no, i) => {
      if (no !== itemNo) return;
      point.cost += ads.cost[i] as number;
      point.revenue += ads.revenue[i] as number;
      point.clicks += ads.clicks[i] as number;
      point.orders += ads.orders[i] as number;
    });
    series.push(point);
  });
  return series;
}

/** Names of the columns that filters and tables can use: fields, extras, and metrics. */
export async function itemColumns(db: Database): Promise<string[]> {
  const { names } = await loadCatalogue(db, []);
  return [
    ...names.filter((name) => !name.startsWith(EXTRA_PREFIX)),
    ...names.filter((name) => name.startsWith(EXTRA_PREFIX)),
  ];
}
