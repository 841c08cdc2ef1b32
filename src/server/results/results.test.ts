import { beforeAll, describe, expect, it } from "vitest";
import { formatDay } from "@/core/kit/days";
import { SUM_KEYS } from "@/core/kit/metrics";
import type { Database } from "@/db/client";
import { savePlanogram } from "../planogram/planograms";
import { recomputeShelfSet } from "../shelves/compute";
import { viewShelfSet } from "../shelves/view";
import { loadCatalogue } from "../catalogue/load";
import { startMarketRun } from "../market/run-days";
import { cancelJob } from "../jobs/jobs";
import { importFeed, runToEnd, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { loadWindow, resultDays } from "./load";
import { setUpSteps, tillStrip } from "../across/results/till";
import { sliceSchema } from "../across/results/slice-query";
import { viewSlice, type Slice } from "../across/results/slice";
import { windowOfDays } from "./window";

const FIRST = 20_705;
const DAYS = 45;
const LAST = FIRST + DAYS - 1;
const FEED = `id,title,price,brand,category\n${Array.from(
  { length: 40 },
  (_, i) =>
    `I${i},Maker${i % 3} Hose ${i % 5 ? "oak" : "steel"} ${i},${8 + 3 * i}.50,Maker${i % 3},Garden > ${i % 2 ? "Hoses" : "Rakes"}`,
).join("\n")}\n`;

let workspace: { db: Database; info: WorkspaceInfo };

beforeAll(async () => {
  workspace = await testWorkspace();
  const { db, info } = workspace;
  await importFeed(workspace, FEED);
  await savePlanogram(db, {
    key: "p",
    name: "P",
    ladder: ["brand", "category2"].map((by) => ({ by, largest: null })),
    campaignLine: 1,
    adGroupLine: 2,
    inStockOnly: true,
    campaignName: [{ kind: "field", field: "level-1" }],
    adGroupName: [{ kind: "field", field: "level-2" }],
    purpose: "scale",
    bidding: "fixed",
    goal: null,
    totalBudget: 9_000,
    shareBy: "items",
    startingBid: 600,
    serveOrder: 3,
    replaces: [],
  });
  await runToEnd(db, info, "planogram-apply", { planogram: "p" });
  await runToEnd(db, info, "dispatch", { takesBack: null });
  await runToEnd(db, info, "market-run", { from: FIRST, through: LAST, seed: "r" });
  await recomputeShelfSet(db, "return-by-chance");
});

async function slice(asked: object, { db, info } = workspace): Promise<Slice> {
  const outcome = await viewSlice(db, info, sliceSchema.parse(asked));
  if (!outcome.ok) throw new Error(outcome.error.message);
  return outcome.value;
}

async function rows(sql: string): Promise<unknown[][]> {
  const { rows: found } = await workspace.db.$client.execute(sql);
  return found.map((row) => Array.from({ length: Object.keys(row).length }, (_, i) => row[i]));
}

describe("windows", () => {
  it("end on the last day with results, and reach back as far as asked", async () => {
    expect(await resultDays(workspace.db)).toEqual({ from: FIRST, to: LAST });
    expect(await windowOfDays(workspace.db, 7)).toEqual({ from: LAST - 6, to: LAST });
    const [total] = await rows("SELECT sum(cost) FROM item_facts");
    const all = await slice({ level: "campaign", days: 120 });
    expect([all.total.cost, all.before, all.from]).toEqual([total![0], null, formatDay(FIRST)]);
  });

  it("of any length sum to the same as their days one by one, spans or not", async () => {
    const { db } = workspace;
    for (const [from, to] of [
      [FIRST, LAST],
      [FIRST + 3, FIRST + 3],
      [20_720, 20_735],
      [20_719, 20_736],
      [FIRST - 50, LAST + 50],
    ] as const) {
      const { rows: sums } = await loadWindow(db, { from, to });
      const itemNo = (await loadCatalogue(db, [])).columns["itemNo"] as { values: Float64Array };
      const slow = await rows(
        `SELECT item_no, sum(impressions), sum(clicks), sum(cost), sum(orders), sum(units), sum(revenue) FROM item_facts WHERE day BETWEEN ${from} AND ${to} GROUP BY item_no`,
      );
      const store = new Map(
        (
          await rows(
            `SELECT item_no, sum(orders), sum(revenue) FROM store_sales WHERE day BETWEEN ${from} AND ${to} GROUP BY item_no`,
          )
        ).map((row) => [row[0], row.slice(1)]),
      );
      const ads = new Map(slow.map((row) => [row[0], row.slice(1)]));
      itemNo.values.forEach((no, row) => {
        const expected = [...(ads.get(no) ?? [0, 0, 0, 0, 0, 0]), ...(store.get(no) ?? [0, 0])];
        expect(SUM_KEYS.map((key) => sums[key][row])).toEqual(expected);
      });
    }
  });
});

describe("results", () => {
  it("compare with the days before", async () => {
    const view = await slice({ level: "campaign", days: 20 });
    const [before] = await rows(
      `SELECT sum(cost), sum(revenue) FROM item_facts WHERE day BETWEEN ${LAST - 39} AND ${LAST - 20}`,
    );
    expect([view.before!.cost, view.before!.revenue]).toEqual(before);
    expect(view.lines.reduce((sum, line) => sum + line.before!.cost, 0)).toBe(view.before!.cost);
  });

  it("tell on how many of the last days a budget ran dry, and about when, whatever the window", async () => {
    const view = await slice({ level: "campaign", days: 30 });
    const slow = await rows(
      `SELECT c.text, count(*), avg(dry_at) FROM campaign_days d JOIN codes c ON c.no = d.campaign
       WHERE dry_at IS NOT NULL AND day > ${LAST - 14} GROUP BY d.campaign`,
    );
    expect(slow.length).toBeGreaterThan(0);
    for (const [key, days, hour] of slow) {
      const line = view.lines.find((entry) => entry.key === key)!;
      expect([line.dryDays, line.dryHour]).toEqual([days, hour]);
    }
  });

  it("day by day agree with SQL for a campaign, an ad group and a shelf", async () => {
    const { db } = workspace;
    for (const [level, column] of [
      ["campaign", "campaign"],
      ["adGroup", "ad_group"],
    ] as const) {
      const view = await slice({ level, days: 12 });
      const { key } = view.lines[0]!;
      const within = JSON.stringify([{ level, key }]);
      const series = (await slice({ level: "day", within, days: 12, sort: "name" })).lines;
      const slow = await rows(
        `SELECT sum(cost), sum(revenue), sum(clicks) FROM item_facts f JOIN codes c ON c.no = f.${column} WHERE c.text = '${key}' AND day > ${LAST - 12} GROUP BY day ORDER BY day`,
      );
      expect(
        series.filter(({ sums }) => sums.impressions > 0).map(({ sums }) => [sums.cost, sums.revenue, sums.clicks]),
      ).toEqual(slow);
    }
    const shelves = await viewShelfSet(db, "return-by-chance");
    if (!shelves.ok) throw new Error();
    const index = shelves.value.shelves.findIndex(({ items }) => items > 0);
    const members = [...shelves.value.shelfOf.keys()]
      .filter((row) => shelves.value.shelfOf[row] === index)
      .map((row) => row + 1);
    const within = JSON.stringify([{ level: "shelf", key: shelves.value.shelves[index]!.key }]);
    const series = (await slice({ level: "day", within, days: 12, sort: "name" })).lines;
    const [cost] = await rows(
      `SELECT sum(cost) FROM item_facts WHERE day > ${LAST - 12} AND item_no IN (${members.join()})`,
    );
    const [store] = await rows(
      `SELECT sum(revenue) FROM store_sales WHERE day > ${LAST - 12} AND item_no IN (${members.join()})`,
    );
    expect(series.reduce((sum, point) => sum + point.sums.cost, 0)).toBe(Number(cost![0] ?? 0));
    expect(series.reduce((sum, point) => sum + point.sums.storeRevenue, 0)).toBe(Number(store![0] ?? 0));
    expect((await slice({ level: "day", within: '[{"level":"campaign","key":"none"}]', days: 3 })).lines).toEqual([]);
  });

  it("keep the sales of items that leave the feed, told apart", async () => {
    const other = await testWorkspace();
    await importFeed(other, FEED);
    await runToEnd(other.db, other.info, "market-run", { from: FIRST, through: FIRST + 4, seed: "g" });
    const before = await slice({ level: "shelf", days: 5 }, other);
    await importFeed(other, FEED.split("\n").slice(0, 35).join("\n"));
    const after = await slice({ level: "shelf", days: 5 }, other);
    expect(after.total).toEqual(before.total);
    expect(after.lines.map(({ key }) => key)).toContain("gone");
    expect(after.lines.reduce((sum, line) => sum + line.sums.storeRevenue, 0)).toBe(after.total.storeRevenue);
  });
});

describe("the way round the loop", () => {
  it("is told step by step", async () => {
    expect(await setUpSteps(workspace.db)).toEqual({
      catalogue: true,
      shelves: true,
      campaigns: true,
      basket: 0,
      results: true,
      stocktake: false,
    });
    const empty = await testWorkspace();
    expect(await setUpSteps(empty.db)).toEqual({
      catalogue: false,
      shelves: false,
      campaigns: false,
      basket: 0,
      results: false,
      stocktake: false,
    });
    expect(await startMarketRun(empty.db, empty.info, { days: 7 })).toMatchObject({
      ok: false,
      error: { code: "market-no-catalogue" },
    });
    const till = await tillStrip(workspace.db, workspace.info, 7);
    expect(till).toMatchObject({ items: 40, withoutHome: 0, leaks: 0, budget: 9_000, resultsTo: formatDay(LAST) });
    expect(till.lastDayCost).toBeLessThanOrEqual(9_000);
  });

  it("goes on after the last whole day when a run is stopped", async () => {
    const { db, info } = workspace;
    await db.$client.execute(
      `CREATE TRIGGER halt AFTER INSERT ON day_rollups WHEN NEW.day = ${LAST + 2} BEGIN UPDATE jobs SET cancel_asked = 1 WHERE state = 'running'; END`,
    );
    const started = await startMarketRun(db, info, { days: 30, seed: "r" });
    if (!started.ok) throw new Error();
    await cancelJob(db, started.value.id);
    const job = await runToEnd(db, info, "market-run", { from: LAST + 1, through: LAST + 400, seed: "r" });
    expect(job.state).toBe("cancelled");
    const days = (await resultDays(db))!;
    expect(days.to).toBeGreaterThanOrEqual(LAST + 2);
    expect(days.to).toBeLessThan(LAST + 400);
    const [count] = await rows(
      `SELECT (SELECT count(DISTINCT day) FROM item_facts), (SELECT count(*) FROM day_rollups), (SELECT day FROM market_state)`,
    );
    expect(count).toEqual([days.to - FIRST + 1, days.to - FIRST + 1, days.to]);
    await db.$client.execute("DROP TRIGGER halt");
    const next = await runToEnd(db, info, "market-run", { from: days.to + 1, through: days.to + 3, seed: "r" });
    expect(next.result).toMatchObject({ days: 3, to: formatDay(days.to + 3) });
  });
});
