import { beforeAll, describe, expect, it } from "vitest";
import { recordSchema } from "@/core/account/records";
import { diffRecords } from "@/core/kit/diff";
import { testCampaign } from "@/core/market/test-shop";
import { editAccount } from "../account/edits";
import { addToBasket, importFeed, runToEnd, testWorkspace } from "../testing";
import { viewBudgets } from "./pools";

const FIRST = 20_705;
const DAYS = 20;
const LAST = FIRST + DAYS - 1;
/** The last days that are looked at. */
const FROM = LAST - 13;
const IDS = Array.from({ length: 120 }, (_, i) => `I${i}`);
const FEED = `id,title,price,category\n${IDS.map((id, i) => `${id},Hose ${i},${8 + (i % 20)}.50,Garden > Hoses`).join("\n")}\n`;

let workspace: Awaited<ReturnType<typeof testWorkspace>>;

async function sql(statement: string): Promise<number[][]> {
  const { rows } = await workspace.db.$client.execute(statement);
  return rows.map((row) => Array.from({ length: Object.keys(row).length }, (_, i) => Number(row[i])));
}

/** Spend of campaigns on each of the last days, straight from the reports. */
const spentBy = (...campaigns: string[]) =>
  sql(
    `SELECT day, sum(cost) FROM item_facts JOIN codes ON codes.no = campaign
     WHERE codes.kind = 'campaign' AND codes.text IN (${campaigns.map((key) => `'${key}'`).join(", ")}) AND day BETWEEN ${FROM} AND ${LAST} GROUP BY day`,
  );

beforeAll(async () => {
  workspace = await testWorkspace();
  const { db, info } = workspace;
  await importFeed(workspace, FEED);
  const third = IDS.length / 3;
  const structure = {
    ...testCampaign("a", { dailyBudget: 1_000, pool: "pool:s" }, IDS.slice(0, third), 1_200),
    ...testCampaign("b", { dailyBudget: 50_000_000, pool: "pool:s" }, IDS.slice(third, 2 * third), 1_200),
    ...testCampaign("c", { dailyBudget: 50_000_000 }, IDS.slice(2 * third), 1_200),
    ...testCampaign("off", { status: "paused", pool: "pool:s" }, IDS.slice(0, 2), 1_200),
    "pool:s": recordSchema.parse({ type: "pool", key: "pool:s", name: "Spring", dailyBudget: 1_800 }),
    "day-cap": recordSchema.parse({ type: "dayCap", key: "day-cap", dailyBudget: 90_000_000 }),
  };
  await addToBasket(db, diffRecords({}, structure));
  await runToEnd(db, info, "dispatch", { takesBack: null });
  await runToEnd(db, info, "market-run", { from: FIRST, through: LAST, seed: "budgets" });
});

describe("budgets", () => {
  it("say what each campaign spent a day, as the reports have it, dearest first", async () => {
    const view = await viewBudgets(workspace.db);
    expect([view.from, view.to]).toEqual([FROM, LAST]);
    for (const { key, spent } of view.campaigns) {
      const total = (await spentBy(key)).reduce((sum, [, cost]) => sum + cost!, 0);
      expect([key, spent]).toEqual([key, Math.round(total / 14)]);
    }
    const order = view.campaigns.map(({ spent }) => spent);
    expect(order).toEqual(order.toSorted((a, b) => b - a));
    expect(view.campaigns.find(({ key }) => key === "off")).toMatchObject({ spent: 0, dryDays: 0, dryAt: null });
  });

  it("run dry by the channel's own word", async () => {
    const [[days, hour]] = (await sql(
      `SELECT count(*), avg(dry_at) FROM campaign_days JOIN codes ON codes.no = campaign
       WHERE codes.kind = 'campaign' AND codes.text = 'a' AND dry_at IS NOT NULL AND day BETWEEN ${FROM} AND ${LAST}`,
    )) as [[number, number]];
    const a = (await viewBudgets(workspace.db)).campaigns.find(({ key }) => key === "a")!;
    expect(days).toBeGreaterThan(0);
    expect([a.dryDays, a.days]).toEqual([days, 14]);
    expect(a.dryAt).toBeCloseTo(hour, 9);
  });

  it("of a pool count its running campaigns together, and the days on which the channel stopped all of them", async () => {
    const { pools, cap, total } = await viewBudgets(workspace.db);
    const daily = await spentBy("a", "b");
    const sum = daily.reduce((all, [, cost]) => all + cost!, 0);
    expect(pools).toHaveLength(1);
    expect(pools[0]).toMatchObject({
      ...{ key: "pool:s", name: "Spring", dailyBudget: 1_800, members: 2, membersBudget: 50_001_000 },
      ...{ spent: Math.round(sum / 14), days: 14 },
    });
    const stops = await sql(
      `SELECT day, max(dry_at) FROM campaign_days JOIN codes ON codes.no = campaign
       WHERE codes.kind = 'campaign' AND codes.text IN ('a', 'b') AND day BETWEEN ${FROM} AND ${LAST}
       GROUP BY day HAVING count(dry_at) = 2`,
    );
    expect(stops.length).toBeGreaterThan(5);
    // What was spent falls short of the pool by chance, so it would tell of fewer days.
    expect(daily.filter(([, cost]) => cost! >= 1_800).length).toBeLessThan(stops.length);
    expect(pools[0]!.dryDays).toBe(stops.length);
    expect(pools[0]!.dryAt).toBeCloseTo(stops.reduce((all, [, hour]) => all + hour!, 0) / stops.length, 9);
    // The cap is far away; what all may spend is the running campaigns' budgets.
    expect(cap).toMatchObject({ dailyBudget: 90_000_000, campaignsBudget: 100_001_000, dryDays: 0, dryAt: null });
    expect(total.dailyBudget).toBe(100_001_000);
    expect(cap!.spent).toBe(total.spent);
  });

  it("are those with what waits in the basket", async () => {
    const { db } = workspace;
    const edit = { action: "budget" as const, keys: ["c"], op: { how: "set" as const, mills: 7_000 } };
    expect(await editAccount(db, "t", null, edit, "EUR")).toMatchObject({ ok: true });
    const view = await viewBudgets(db);
    expect(view.campaigns.find(({ key }) => key === "c")!.dailyBudget).toBe(7_000);
    expect(view.total.dailyBudget).toBe(50_008_000);
    // Of a purse of another size the channel has said nothing: past spend says when it would have run out.
    const wider = { action: "budget" as const, keys: ["pool:s"], op: { how: "set" as const, mills: 90_000 } };
    expect(await editAccount(db, "t", null, wider, "EUR")).toMatchObject({ ok: true });
    expect((await viewBudgets(db)).pools[0]).toMatchObject({ dailyBudget: 90_000, dryDays: 0, dryAt: null });
  });

  it("of a workspace without results know no day and no spend", async () => {
    const empty = await testWorkspace();
    expect(await viewBudgets(empty.db)).toMatchObject({
      ...{ from: null, to: null, campaigns: [], pools: [], cap: null, total: { dailyBudget: 0, spent: 0 } },
    });
  });
});
