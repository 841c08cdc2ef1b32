import path from "node:path";
import { DuckDBInstance, type DuckDBConnection } from "@duckdb/node-api";
import * as aq from "arquero";
import { drizzle } from "drizzle-orm/libsql";
import { cellText, type Columns } from "@/core/kit/columns";
import { findRows } from "@/core/catalogue/find-rows";
import { randomFrom } from "@/core/kit/random";
import { Account } from "@/core/account/account";
import { Draft } from "@/core/account/draft";
import { diffSize } from "@/core/kit/diff";
import { plannedRecords } from "@/core/planogram/planned-records";
import { planCatalogue } from "@/core/planogram/plan";
import type { Planogram } from "@/core/planogram/planogram";
import { previewPlan } from "@/core/planogram/preview";
import { SPAN_DAYS, spanStart, sumSpan } from "@/core/results/roll-up-days";
import { encodeRollup, encodeSpan, encodeStore, type DayRollup } from "@/core/results/day-columns";
import { openDatabase, type Database } from "@/db/client";
import * as schema from "@/db/schema";
import { loadCatalogue } from "@/server/catalogue/load";
import { provePlanogram } from "@/server/planogram/prove";
import { recomputeShelfSet } from "@/server/shelves/compute";
import { viewShelfSet } from "@/server/shelves/view";
import { benchShelves } from "./shelves";
import { benchResults } from "./results";
import { benchDerived } from "./derived";
import { figure, timed, type Figure } from "./measure";

const DAYS = 90;
const FIRST = 20_600;
/** Share of the items that have results on a day. */
const ACTIVE = 0.3;

function dayOf(day: number, itemNos: Float64Array): DayRollup {
  const random = randomFrom("bench-day", day);
  const items = [...itemNos].filter(() => random() < ACTIVE);
  const column = (make: () => number) => Float64Array.from(items, make);
  const clicks = column(() => Math.floor(random() * 6));
  const orders = clicks.map((count) => (random() < 0.02 * count ? 1 : 0));
  return {
    campaign: new Uint32Array(items.length).fill(1),
    adGroup: new Uint32Array(items.length).fill(2),
    item: Uint32Array.from(items),
    impressions: clicks.map((count) => count * 30),
    clicks,
    cost: clicks.map((count) => count * 240),
    orders,
    units: orders,
    revenue: orders.map((count) => count * 35_000),
  };
}

async function fillResults(db: Database, duck: DuckDBConnection, itemNos: Float64Array): Promise<void> {
  await duck.run(
    "CREATE TABLE facts (day INTEGER, item INTEGER, clicks INTEGER, cost BIGINT, orders INTEGER, revenue BIGINT)",
  );
  const appender = await duck.createAppender("facts");
  for (let day = FIRST; day < FIRST + DAYS; day++) {
    const rollup = dayOf(day, itemNos);
    const store = {
      item: new Uint32Array(0),
      orders: new Float64Array(0),
      units: new Float64Array(0),
      revenue: new Float64Array(0),
    };
    await db.$client.execute({
      sql: "INSERT INTO day_rollups VALUES (?, ?, ?)",
      args: [day, encodeRollup(rollup), encodeStore(store)],
    });
    for (let i = 0; i < rollup.item.length; i++) {
      appender.appendInteger(day);
      appender.appendInteger(rollup.item[i]!);
      appender.appendInteger(rollup.clicks[i]!);
      appender.appendBigInt(BigInt(rollup.cost[i]!));
      appender.appendInteger(rollup.orders[i]!);
      appender.appendBigInt(BigInt(rollup.revenue[i]!));
      appender.endRow();
    }
  }
  appender.closeSync();
  for (let from = spanStart(FIRST) + SPAN_DAYS; from + SPAN_DAYS <= FIRST + DAYS; from += SPAN_DAYS) {
    const days = Array.from({ length: SPAN_DAYS }, (_, i) => dayOf(from + i, itemNos));
    const store = {
      item: new Uint32Array(0),
      orders: new Float64Array(0),
      units: new Float64Array(0),
      revenue: new Float64Array(0),
    };
    await db.$client.execute({
      sql: "INSERT INTO span_rollups VALUES (?, ?, ?)",
      args: [from, encodeSpan(sumSpan(days)), encodeStore(store)],
    });
  }
}

/** The same database with nothing of it in memory. */
function again(db: Database): Database {
  return drizzle(db.$client, { schema }) as Database;
}

const SHELVES_SQL = `SELECT item, CASE WHEN sum(clicks) < 20 AND sum(orders) < 3 THEN 'unread'
  WHEN sum(revenue) >= 5.4 * sum(cost) THEN 'hot' WHEN sum(revenue) >= 3.45 * sum(cost) THEN 'warm'
  WHEN sum(revenue) >= 2.4 * sum(cost) THEN 'mild' WHEN sum(revenue) >= 1.2 * sum(cost) THEN 'cool' ELSE 'cold' END AS shelf
  FROM facts WHERE day BETWEEN ${FIRST} AND ${FIRST + DAYS - 1} GROUP BY item`;

const PLAN: Planogram = {
  key: "bench",
  name: "Bench",
  ladder: ["category2", "brand", "id"].map((by) => ({ by, largest: null })),
  campaignLine: 1,
  adGroupLine: 2,
  inStockOnly: true,
  campaignName: [{ kind: "field", field: "level-1" }],
  adGroupName: [{ kind: "field", field: "level-2" }],
  purpose: "scale",
  bidding: "fixed",
  goal: null,
  totalBudget: 1_000_000,
  shareBy: "items",
  startingBid: 300,
  serveOrder: 3,
  replaces: [],
};

function objects(catalogue: Columns): { a: string; b: string; id: string; stock: string }[] {
  const text = (name: string, row: number) => cellText(catalogue.columns[name]!, row);
  return Array.from({ length: catalogue.length }, (_, row) => ({
    a: text("category2", row),
    b: text("brand", row),
    id: text("id", row),
    stock: text("availability", row),
  }));
}

async function loadItems(duck: DuckDBConnection, rows: ReturnType<typeof objects>): Promise<void> {
  await duck.run("CREATE TABLE items (a VARCHAR, b VARCHAR, id VARCHAR, stock VARCHAR)");
  const appender = await duck.createAppender("items");
  for (const row of rows) {
    for (const value of [row.a, row.b, row.id, row.stock]) appender.appendVarchar(value);
    appender.endRow();
  }
  appender.closeSync();
}

/** The same three-level grouping as the preview: a count for each campaign, ad group and product group. */
const PREVIEW_SQL = `SELECT a, b, id, count(*) FROM items WHERE stock <> 'out of stock' GROUP BY ROLLUP (a, b, id)`;

/** Shelves, preview and finding rows over the catalogue that the import bench left in `data`. */
export async function benchCore(data: string, label: string, wants: (name: string) => boolean): Promise<Figure[]> {
  const figures: Figure[] = [];
  const db = await openDatabase(`file:${path.join(data, "bench.db")}`);
  const duck = await (await DuckDBInstance.create(":memory:")).connect();
  const catalogue = await loadCatalogue(db, "all");
  const itemNos = (catalogue.columns["itemNo"] as { values: Float64Array }).values;
  if (wants("shelves")) {
    await fillResults(db, duck, itemNos);
    const duckMs = await timed(9, async () => (await duck.runAndReadAll(SHELVES_SQL)).getColumns());
    // What is kept in memory hangs on the database object, so a new one over the same connection begins with nothing.
    const cold = await timed(9, () => recomputeShelfSet(again(db), "return-tiers", { accept: true }));
    const warm = await timed(5, () => recomputeShelfSet(db, "return-tiers", { accept: true }));
    const viewed = await viewShelfSet(db, "return-tiers");
    const slow = (await duck.runAndReadAll(SHELVES_SQL))
      .getRows()
      .filter((row: unknown[]) => row[1] !== "unread").length;
    const ours = viewed.ok ? viewed.value.shelves.slice(0, -1).reduce((sum, shelf) => sum + shelf.items, 0) : -1;
    if (slow !== ours) throw new Error(`shelves disagree: ${ours} read here, ${slow} there`);
    figures.push(
      figure("recompute a shelf set, 90 days, nothing kept", label, cold, "DuckDB, own table", duckMs, "at most 1.0"),
    );
    figures.push(figure("recompute a shelf set, window kept", label, warm, "DuckDB, own table", duckMs, ""));
    figures.push(...(await benchShelves(db, label)));
    if (wants("results")) figures.push(...(await benchResults(db, label, FIRST, DAYS)));
  }
  if (wants("preview")) {
    const rows = objects(catalogue);
    await loadItems(duck, rows);
    const duckMs = await timed(5, async () => (await duck.runAndReadAll(PREVIEW_SQL)).getColumns());
    const table = aq.from(rows);
    const aqMs = await timed(5, () => {
      const kept = table.filter((d: { stock: string }) => d.stock !== "out of stock");
      kept.groupby("a").count().objects();
      kept.groupby("a", "b").count().objects();
      kept.groupby("a", "b", "id").count().objects();
    });
    const ms = await timed(9, () => previewPlan(PLAN, planCatalogue(PLAN, catalogue), catalogue));
    figures.push(
      figure("planogram preview, three levels to items", label, ms, "DuckDB", duckMs, "at most 0.5, under 100 ms"),
    );
    figures.push(figure("planogram preview, three levels to items", label, ms, "arquero", aqMs, "at most 0.5"));
    const proof = await timed(9, () => provePlanogram(db, PLAN));
    figures.push(figure("the same with its proof", label, proof, "", null, "under 250 ms"));
    const made = (bid: number) => {
      const plan = planCatalogue(PLAN, catalogue);
      return Account.of(plannedRecords({ ...PLAN, startingBid: bid }, plan, catalogue).values());
    };
    const [a, b] = [made(300), made(310)];
    const between = await timed(9, () => {
      const draft = new Draft(a);
      for (const record of b.records()) draft.put(record);
      return diffSize(draft.diff());
    });
    figures.push(figure(`difference of two structures of ${a.size} records`, label, between, "", null, "under 300 ms"));
  }
  if (wants("find")) {
    const query = {
      q: "kitchen lamp",
      where: { match: "all" as const, of: [{ field: "price", op: "at-least" as const, value: "50000" }] },
      sort: "-price",
    };
    findRows(catalogue, query);
    const ms = await timed(9, () => findRows(catalogue, query));
    figures.push(figure("search, filter and sort items", label, ms, "", null, "within 100 ms"));
  }
  if (wants("derived")) figures.push(...(await benchDerived(await loadCatalogue(db, "all"), label)));
  db.$client.close();
  return figures;
}
