import Papa from "papaparse";
import { beforeAll, describe, expect, it } from "vitest";
import { asText } from "@/core/kit/columns";
import { windowEnding } from "@/core/kit/days";
import { OVERSPEND } from "@/core/market/purses";
import { METRIC_KEYS, METRICS } from "@/core/kit/metrics";
import type { Planogram } from "@/core/planogram/planogram";
import { recordsOf } from "@/core/account/testing";
import type { Database } from "@/db/client";
import { quillmoorFeed } from "../../demo/quillmoor";
import { findItem } from "./across/catalogue/item-detail";
import { loadCatalogue } from "./catalogue/load";
import { findItems, itemsQuerySchema } from "./across/catalogue/items";
import { ok } from "@/core/kit/outcome";
import { viewBasket } from "./dispatch/basket";
import { removeFromBasket } from "./dispatch/take-out";
import { takeBackDispatch } from "./dispatch/dispatches";
import { readAccount } from "./account/state";
import { claimJob, runJob } from "./jobs/work";
import { jobHandlers } from "./runner/handlers";
import { editAccount } from "./account/edits";
import { viewAccount } from "./planogram/workbench";
import { previewItems, previewPlanogram, savePlanogram, splitFields } from "./planogram/planograms";
import { tillStrip } from "./across/results/till";
import { sliceSchema } from "./across/results/slice-query";
import { viewSlice, type Slice } from "./across/results/slice";
import { windowOfDays } from "./results/window";
import { resultDays } from "./results/load";
import { recomputeShelfSet } from "./shelves/compute";
import { viewShelfSet } from "./shelves/view";
import { importFeed, runToEnd, testWorkspace, liveStructure } from "./testing";
import type { WorkspaceInfo } from "./workspaces";

/** The whole loop on a part of the demo's feed, checked against SQL on the same rows. */

const DAYS = 40;
const FIRST = 20_700;
// Long enough to be read partly by spans of 16 days: 20,704 to 20,719 and on.
const WINDOW = 30;

const PLAN: Planogram = {
  key: "by-category",
  name: "By category",
  ladder: [
    { by: "category1", largest: null },
    { by: "brand", largest: null },
  ],
  campaignLine: 1,
  adGroupLine: 2,
  inStockOnly: true,
  campaignName: [{ kind: "field", field: "level-1" }],
  adGroupName: [{ kind: "field", field: "level-2" }],
  purpose: "scale",
  bidding: "fixed",
  goal: null,
  totalBudget: 90_000,
  shareBy: "items",
  startingBid: 450,
  serveOrder: 2,
  replaces: [],
};

type Workspace = { db: Database; info: WorkspaceInfo };

function feedText(): string {
  const { headings, rows } = quillmoorFeed();
  return Papa.unparse([[...headings], ...rows.filter((_, i) => i % 4 === 0)]);
}

async function start(): Promise<Workspace> {
  const workspace = await testWorkspace();
  const { db } = workspace;
  expect((await importFeed(workspace, feedText())).error).toBeNull();
  await savePlanogram(db, PLAN);
  expect((await runToEnd(db, workspace.info, "planogram-apply", { planogram: PLAN.key })).error).toBeNull();
  expect((await runToEnd(db, workspace.info, "dispatch", { takesBack: null })).error).toBeNull();
  const run = { from: FIRST, through: FIRST + DAYS - 1, seed: "s" };
  expect((await runToEnd(db, workspace.info, "market-run", run)).error).toBeNull();
  return workspace;
}

async function slice(asked: object): Promise<Slice> {
  const outcome = await viewSlice(workspace.db, workspace.info, sliceSchema.parse(asked));
  if (!outcome.ok) throw new Error(outcome.error.message);
  return outcome.value;
}

async function query(db: Database, sql: string): Promise<number[][]> {
  const { rows } = await db.$client.execute(sql);
  return rows.map((row) => Array.from({ length: Object.keys(row).length }, (_, i) => Number(row[i])));
}

let workspace: Workspace;
beforeAll(async () => {
  workspace = await start();
});

const LAST = FIRST + DAYS - 1;
const IN_WINDOW = `day BETWEEN ${LAST - WINDOW + 1} AND ${LAST}`;

describe("numbers agree wherever they are shown, and with SQL", () => {
  it("in total, by campaign, ad group and shelf, and in the till strip", async () => {
    const { db, info } = workspace;
    const [facts] = await query(
      db,
      `SELECT sum(impressions), sum(clicks), sum(cost), sum(orders), sum(revenue) FROM item_facts WHERE ${IN_WINDOW}`,
    );
    const [store] = await query(db, `SELECT sum(orders), sum(revenue) FROM store_sales WHERE ${IN_WINDOW}`);
    await recomputeShelfSet(db, "return-tiers");
    const till = await tillStrip(db, info, WINDOW);
    expect([till.cost, till.roas]).toEqual([facts![2], facts![4]! / facts![2]!]);
    for (const level of ["campaign", "adGroup", "shelf"] as const) {
      const view = await slice({ level, days: WINDOW });
      const { impressions, clicks, cost, orders, revenue, storeOrders, storeRevenue } = view.total;
      expect([impressions, clicks, cost, orders, revenue]).toEqual(facts);
      expect([storeOrders, storeRevenue]).toEqual(store);
      for (const key of ["clicks", "cost", "orders", "revenue"] as const) {
        expect(view.lines.reduce((sum, line) => sum + line.sums[key], 0)).toBe(view.total[key]);
      }
      const shares = view.lines.reduce((sum, line) => sum + (line.spendShare ?? 0), 0);
      expect(shares).toBeCloseTo(1, 9);
    }
    const series = (await slice({ level: "day", days: WINDOW, sort: "name" })).lines;
    const byDay = await query(db, `SELECT sum(cost) FROM item_facts WHERE ${IN_WINDOW} GROUP BY day ORDER BY day`);
    expect(series.map((point) => [point.sums.cost])).toEqual(byDay);
  });

  it("by each campaign", async () => {
    const { db } = workspace;
    const view = await slice({ level: "campaign", days: WINDOW });
    const { rows } = await db.$client.execute(
      `SELECT c.text, sum(f.cost), sum(f.revenue) FROM item_facts f JOIN codes c ON c.no = f.campaign WHERE ${IN_WINDOW} GROUP BY f.campaign`,
    );
    const slow = new Map(rows.map((row) => [String(row[0]), [Number(row[1]), Number(row[2])]]));
    expect(view.lines).toHaveLength(slow.size);
    for (const line of view.lines) expect([line.sums.cost, line.sums.revenue]).toEqual(slow.get(line.key));
  });

  it("by every item, sorted and filtered as SQL does", async () => {
    const { db, info } = workspace;
    const window = await windowOfDays(db, WINDOW);
    const find = (more: object) => findItems(db, info, itemsQuerySchema.parse({ limit: 1000, ...more }), window);
    const all = await find({ sort: "-cost" });
    const slow = await db.$client.execute(
      `SELECT i.item_id, coalesce(sum(f.cost), 0) AS cost, coalesce(sum(f.clicks), 0) FROM items i
       LEFT JOIN item_facts f ON f.item_no = i.item_no AND f.${IN_WINDOW} WHERE i.to_rev IS NULL GROUP BY i.item_no ORDER BY cost DESC, i.item_no`,
    );
    expect(all.items.map(({ id, sums }) => [id, sums.cost, sums.clicks])).toEqual(
      slow.rows.map((row) => [row[0], Number(row[1]), Number(row[2])]),
    );
    const dear = await find({
      where: {
        match: "all",
        of: [
          { field: "price", op: "at-least", value: "50000" },
          { field: "clicks", op: "at-least", value: "5" },
        ],
      },
    });
    const [count] = await query(
      db,
      `SELECT count(*) FROM (SELECT i.item_no FROM items i JOIN item_facts f ON f.item_no = i.item_no AND f.${IN_WINDOW}
       WHERE i.to_rev IS NULL AND i.price >= 50000 GROUP BY i.item_no HAVING sum(f.clicks) >= 5)`,
    );
    expect(dear.total).toBe(count![0]);
    expect(dear.total).toBeGreaterThan(0);
    const pages = [await find({ sort: "title", limit: 7 }), await find({ sort: "title", limit: 7, cursor: 7 })];
    expect(pages.flatMap(({ items }) => items)).toEqual((await find({ sort: "title", limit: 14 })).items);
  });

  it("on shelves: a partition whose members are what the item table lists", async () => {
    const { db, info } = workspace;
    await recomputeShelfSet(db, "return-tiers");
    const view = await viewShelfSet(db, "return-tiers");
    if (!view.ok) throw new Error();
    const window = windowEnding((await resultDays(db))!.to, 90);
    let items = 0;
    for (const shelf of view.value.shelves) {
      const found = await findItems(
        db,
        info,
        itemsQuerySchema.parse({ shelf: `return-tiers/${shelf.key}`, limit: 1000 }),
        window,
      );
      expect(found.total).toBe(shelf.items);
      expect(found.items.reduce((sum, { sums }) => sum + sums.cost, 0)).toBe(shelf.sums.cost);
      items += shelf.items;
    }
    const [count] = await query(db, "SELECT count(*) FROM items WHERE to_rev IS NULL");
    expect(items).toBe(count![0]);
  });

  it("in the panel of an item", async () => {
    const { db, info } = workspace;
    const window = await windowOfDays(db, WINDOW);
    const [top] = (await findItems(db, info, itemsQuerySchema.parse({ sort: "-clicks", limit: 1 }), window)).items;
    const detail = await findItem(db, info, top!.id, window);
    if (!detail.ok) throw new Error(detail.error.message);
    expect(detail.value.sums).toEqual(top!.sums);
    expect(detail.value.series.reduce((sum, point) => sum + point.cost, 0)).toBe(top!.sums.cost);
    expect(detail.value.live.homes).toHaveLength(1);
    for (const key of METRIC_KEYS) expect(METRICS[key].of(detail.value.sums)).toBe(METRICS[key].of(top!.sums));
    expect((await findItem(db, info, "nope", window)).ok).toBe(false);
  });
});

describe("the market's reports agree with each other", () => {
  it("spend stays within every budget, and reports of campaigns, placements and store fit the facts", async () => {
    const { db } = workspace;
    const [over] = await query(db, `SELECT count(*) FROM campaign_days WHERE cost > budget * ${1 + OVERSPEND}`);
    expect(over).toEqual([0]);
    // What a day spends above its budget was left over earlier in the month; results began within the first one.
    const [month] = await query(
      db,
      `SELECT count(*) FROM (SELECT sum(cost) OVER w AS spent, sum(budget) OVER w AS given FROM campaign_days
       WINDOW w AS (PARTITION BY campaign, strftime('%Y-%m', day * 86400, 'unixepoch') ORDER BY day)) WHERE spent > given`,
    );
    expect(month).toEqual([0]);
    const [wrong] = await query(
      db,
      `SELECT count(*) FROM campaign_days d WHERE d.cost <> (SELECT coalesce(sum(cost), 0) FROM item_facts f WHERE f.day = d.day AND f.campaign = d.campaign)`,
    );
    expect(wrong).toEqual([0]);
    const [media] = await query(
      db,
      "SELECT (SELECT sum(impressions) FROM slot_facts WHERE slot = 3), (SELECT sum(impressions) FROM placement_facts)",
    );
    expect(media![0]).toBe(media![1]);
    // The shop counts an order on the day it comes in and for the item it is of, which can be another of the same kind than
    // the one clicked: over all days each kind has sold at least what ads brought.
    const { columns } = await loadCatalogue(db, ["category"]);
    const [category, numbers] = [asText(columns["category"]!), columns["itemNo"]!];
    const kindOf = new Map<number, number>();
    if (numbers.kind === "number") numbers.values.forEach((no, row) => kindOf.set(no, category.codes[row]!));
    const byKind = async (table: string) => {
      const sums = new Map<number, number>();
      for (const [no, orders] of await query(db, `SELECT item_no, sum(orders) FROM ${table} GROUP BY item_no`)) {
        const kind = kindOf.get(Number(no)) ?? -1;
        sums.set(kind, (sums.get(kind) ?? 0) + Number(orders));
      }
      return sums;
    };
    const [ads, shop] = [await byKind("item_facts"), await byKind("store_sales")];
    expect(ads.size).toBeGreaterThan(1);
    for (const [kind, orders] of ads) expect(shop.get(kind) ?? 0).toBeGreaterThanOrEqual(orders);
    const sums = "sum(impressions), sum(clicks), sum(cost), sum(orders), sum(units), sum(revenue)";
    const kinds = await Promise.all(
      ["item", "term", "slot", "hour"].map((kind) =>
        query(db, `SELECT day, campaign, ${sums} FROM ${kind}_facts GROUP BY day, campaign ORDER BY day, campaign`),
      ),
    );
    expect(kinds[0]!.length).toBeGreaterThan(100);
    for (const other of kinds.slice(1)) expect(other).toEqual(kinds[0]);
    const arrived = await query(
      db,
      `SELECT a.day, sum(a.orders), sum(a.revenue) FROM order_arrivals a GROUP BY a.day ORDER BY a.day`,
    );
    const byDay = await query(db, "SELECT day, sum(orders), sum(revenue) FROM item_facts GROUP BY day ORDER BY day");
    expect(arrived).toEqual(byDay);
  });

  it("are the same to the last number for the same seed", async () => {
    const other = await start();
    const dump = async ({ db }: Workspace) =>
      (
        await db.$client.execute(
          `SELECT f.day, c.text, t.text, f.impressions, f.clicks, f.cost, f.orders, f.revenue FROM term_facts f
         JOIN codes c ON c.no = f.target JOIN codes t ON t.no = f.term ORDER BY 1, 2, 3`,
        )
      ).rows.map((row) => Object.values(row).join("|"));
    const [one, two] = [await dump(workspace), await dump(other)];
    expect(one.length).toBeGreaterThan(1000);
    expect(two).toEqual(one);
    // A month of days once more: a minute and more where the machine is busy.
  }, 180_000);
});

describe("planning, sending and taking back", () => {
  it("previews what is then made, down to the items", async () => {
    const { db } = workspace;
    const preview = await previewPlanogram(db, PLAN);
    if (!preview.ok) throw new Error(preview.error.message);
    const live = await liveStructure(db);
    expect(preview.value.counts.campaigns).toBe(recordsOf(live, "campaign").length);
    expect(preview.value.counts.adGroups).toBe(recordsOf(live, "adGroup").length);
    const [stock] = await query(
      db,
      "SELECT count(*) FROM items WHERE to_rev IS NULL AND json_extract(cells, '$[5]') <> 'out of stock'",
    );
    expect(preview.value.counts.items).toBe(stock![0]);
    const first = preview.value.campaigns[0]!;
    const items = await previewItems(db, PLAN, first.node, 0, 1000);
    expect(items.ok && items.value.total).toBe(first.items);
    const account = await viewAccount(db, await windowOfDays(db, WINDOW), 3);
    expect(account.lines.find((line) => line.key === first.key)?.items).toBe(first.items);
    const brand = (await splitFields(db)).find(({ by }) => by === "brand")!;
    const [sql] = await query(
      db,
      "SELECT count(DISTINCT nullif(json_extract(cells, '$[8]'), '')), count(nullif(json_extract(cells, '$[8]'), '')) FROM items WHERE to_rev IS NULL",
    );
    expect([brand.distinct, brand.filled]).toEqual(sql);
  });

  it("gathers edits in the basket, cancels what cancels out, sends, and takes back to the record", async () => {
    const { db, info } = workspace;
    const before = structuredClone(await liveStructure(db));
    const campaign = recordsOf(before, "campaign")[0]!;
    const window = await windowOfDays(db, WINDOW);
    const dearest = (await findItems(db, info, itemsQuerySchema.parse({ sort: "-cost", limit: 3 }), window)).items.map(
      ({ id }) => id,
    );
    const edit = async (change: Parameters<typeof editAccount>[3]) => {
      const done = await editAccount(db, "tester", null, change, info.currency);
      if (!done.ok) throw new Error(done.error.message);
    };
    await edit({ action: "budget", keys: [campaign.key], op: { how: "set", mills: 1_000_000 } });
    await edit({ action: "budget", keys: [campaign.key], op: { how: "set", mills: campaign.dailyBudget } });
    expect(Object.keys((await readAccount(db)).held.changed)).toEqual([]);
    await edit({ action: "item-bid", items: dearest, op: { how: "percent", percent: 50 } });
    await edit({
      action: "exclude",
      items: dearest.slice(0, 1),
      reason: "wasteful",
      campaign: null,
      reviewOn: "2027-01-01",
    });
    await edit({ action: "budget", keys: [campaign.key], op: { how: "set", mills: 33_000 } });
    const basket = await viewBasket(db, info);
    expect(basket.checks).toEqual([]);
    expect(basket.effect?.stopped).toBe(1);
    expect(basket.effect?.repriced).toBe(2);
    expect(basket.leaks).toEqual([]);
    expect((await runToEnd(db, info, "dispatch", { takesBack: null })).error).toBeNull();
    const sent = await liveStructure(db);
    expect(recordsOf(sent, "exclusion").map(({ item }) => item)).toEqual(dearest.slice(0, 1));
    const detail = await findItem(db, info, dearest[1]!, window);
    expect(detail.ok && detail.value.live.homes.map(({ bid, own }) => [bid, own])).toEqual([[675, true]]);

    const job = await takeBackDispatch(db, 2);
    if (!job.ok) throw new Error(job.error.message);
    await runJob(db, info, jobHandlers, (await claimJob(db, "test"))!);
    expect(await liveStructure(db)).toEqual(before);
    expect((await takeBackDispatch(db, 2)).ok).toBe(false);
  });

  it("takes single changes out of the basket again", async () => {
    const { db, info } = workspace;
    const [first, second] = recordsOf(await liveStructure(db), "campaign");
    await editAccount(
      db,
      "tester",
      null,
      { action: "status", keys: [first!.key, second!.key], status: "paused" },
      "EUR",
    );
    expect(await removeFromBasket(db, info, "tester", { keys: [first!.key] })).toMatchObject(ok({ removed: 1 }));
    expect((await viewBasket(db, info)).changes.map(({ key }) => key)).toEqual([second!.key]);
    expect(await removeFromBasket(db, info, "tester", { keys: "all" })).toMatchObject(ok({ removed: 1 }));
    expect((await runToEnd(db, info, "dispatch", { takesBack: null })).error?.code).toBe("basket-empty");
  });

  it("names a second plan's campaigns apart, and takes a new campaign out together with all that is new below it", async () => {
    const { db, info } = workspace;
    await savePlanogram(db, { ...PLAN, key: "other", serveOrder: 5 });
    await runToEnd(db, info, "planogram-apply", { planogram: "other" });
    const added = Object.values((await readAccount(db)).held.added);
    const campaigns = added.flatMap((record) => (record.type === "campaign" ? [record] : []));
    expect(campaigns.map(({ name }) => name)).toContain("Watering (2)");
    const below = added.filter(({ key }) => key.slice(2).startsWith(campaigns[0]!.key.slice(2)));
    expect(await removeFromBasket(db, info, "tester", { keys: [campaigns[0]!.key] })).toMatchObject(
      ok({ removed: below.length }),
    );
    expect((await viewBasket(db, info)).checks.filter(({ grave }) => grave)).toEqual([]);
    await removeFromBasket(db, info, "tester", { keys: "all" });
  });

  it("does not send what the channel would refuse", async () => {
    const { db, info } = workspace;
    const [first] = recordsOf(await liveStructure(db), "campaign");
    await editAccount(
      db,
      "tester",
      null,
      { action: "budget", keys: [first!.key], op: { how: "set", mills: 10 } },
      "EUR",
    );
    const job = await runToEnd(db, info, "dispatch", { takesBack: null });
    expect(job.error?.code).toBe("dispatch-checks");
    expect((await viewBasket(db, info)).total).toBe(1);
    await removeFromBasket(db, info, "tester", { keys: "all" });
  });
});
