import { beforeAll, describe, expect, it } from "vitest";
import { recordSchema } from "@/core/account/records";
import { diffRecords } from "@/core/kit/diff";
import { formatDay } from "@/core/kit/days";
import { testCampaign } from "@/core/market/test-shop";
import { editAccount } from "../account/edits";
import { addToBasket, importFeed, runToEnd, testWorkspace } from "../testing";
import { lookAtShare, shareAskSchema, viewMoneyDesk, type MoneyDesk } from "./desk";
import { monthPlan, monthPlanSchema, setMonthPlan } from "./month-plan";

const FIRST = 20_685;
const DAYS = 44;
const LAST = FIRST + DAYS - 1;
const FROM = LAST - 13;
const IDS = Array.from({ length: 240 }, (_, i) => `I${i}`);
// Every third piece is nearly sold out.
const FEED = `id,title,price,category,cost,quantity\n${IDS.map((id, i) => `${id},Hose ${i},${4 + (i % 5)}.50,Garden > Hoses,${2 + (i % 5) / 4},${i % 3 === 0 ? 1 : 9000}`).join("\n")}\n`;

let workspace: Awaited<ReturnType<typeof testWorkspace>>;
let desk: MoneyDesk;

async function sql(statement: string): Promise<number[][]> {
  const { rows } = await workspace.db.$client.execute(statement);
  return rows.map((row) => Array.from({ length: Object.keys(row).length }, (_, i) => Number(row[i])));
}

const ask = (over: object) => shareAskSchema.parse({ total: 40_000, way: "next", ...over });

beforeAll(async () => {
  workspace = await testWorkspace();
  const { db, info } = workspace;
  await importFeed(workspace, FEED);
  const structure = {
    ...testCampaign("a", { dailyBudget: 1_500 }, IDS.slice(0, 120), 1_200),
    ...testCampaign("b", { dailyBudget: 90_000 }, IDS.slice(120), 1_200),
    ...testCampaign("off", { status: "paused" }, IDS.slice(0, 2), 1_200),
    "day-cap": recordSchema.parse({ type: "dayCap", key: "day-cap", dailyBudget: 90_000_000 }),
  };
  await addToBasket(db, diffRecords({}, structure));
  await runToEnd(db, info, "dispatch", { takesBack: null });
  await runToEnd(db, info, "market-run", { from: FIRST, through: LAST, seed: "desk" });
  const view = await viewMoneyDesk(db, info);
  if (!view.ok) throw new Error(view.error.message);
  desk = view.value;
});

const lineOf = (key: string) => desk.lines.find((line) => line.key === key)!;

describe("what money brings", () => {
  it("says what was spent and sold as the reports have it, late orders on top", async () => {
    expect([desk.from, desk.to]).toEqual([FROM, LAST]);
    for (const key of ["a", "b"]) {
      const [[cost, revenue]] = (await sql(
        `SELECT sum(cost), sum(revenue) FROM item_facts JOIN codes ON codes.no = campaign
         WHERE codes.kind = 'campaign' AND codes.text = '${key}' AND day BETWEEN ${FROM} AND ${LAST}`,
      )) as [[number, number]];
      const { spent, sales } = lineOf(key);
      expect(spent).toBeCloseTo(cost / 14, 6);
      expect(sales).toBeGreaterThanOrEqual(revenue / 14 - 1e-6);
      expect(sales).toBeLessThan((revenue / 14) * 1.6);
    }
    expect(desk.lines.map(({ key }) => key).sort()).toEqual(["a", "b"]);
  });

  it("takes days that ran dry as parts of full ones", async () => {
    const [[days]] = (await sql(
      `SELECT count(*) FROM campaign_days JOIN codes ON codes.no = campaign
       WHERE codes.kind = 'campaign' AND codes.text = 'a' AND dry_at IS NOT NULL AND day BETWEEN ${FROM} AND ${LAST}`,
    )) as [[number]];
    const [a, b] = [lineOf("a"), lineOf("b")];
    expect(a.dryDays).toBe(days);
    expect(a.full.cost).toBeGreaterThan(1.2 * a.spent);
    expect(a.evened).toBeGreaterThan(0);
    expect(b).toMatchObject({ dryDays: 0, evened: 0 });
    expect(b.full.cost).toBeCloseTo(b.spent, 6);
  });

  it("has a curve from nothing on, within its band, and the next unit as its slope", () => {
    const { curve, next, spent, margin } = lineOf("b");
    expect(curve[0]).toMatchObject({ spend: 0, sales: 0 });
    for (const { sales, low, high } of curve.slice(1)) {
      expect(sales).toBeGreaterThanOrEqual(low);
      expect(sales).toBeLessThanOrEqual(high);
    }
    const at = curve.findIndex(({ spend }) => spend > spent);
    const slope = (curve[at]!.sales - curve[at - 1]!.sales) / (curve[at]!.spend - curve[at - 1]!.spend);
    expect(next.sales / slope).toBeCloseTo(1, 0);
    expect(next.left! / next.sales).toBeCloseTo(margin!, 6);
  });

  it("knows how much of the sales stands on thin stock", async () => {
    // One piece each, so thin where the shop sells more than one in 14 days.
    const [[thin, all]] = (await sql(
      `SELECT sum(CASE WHEN substr(i.item_id, 2) % 3 = 0 AND s.orders * 14 > ${DAYS} THEN f.revenue ELSE 0 END), sum(f.revenue)
       FROM (SELECT item_no, sum(revenue) AS revenue FROM item_facts GROUP BY item_no) f
       JOIN items i ON i.item_no = f.item_no
       LEFT JOIN (SELECT item_no, sum(orders) AS orders FROM store_sales GROUP BY item_no) s ON s.item_no = f.item_no
       WHERE CAST(substr(i.item_id, 2) AS INTEGER) >= 120`,
    )) as [[number, number]];
    expect(thin).toBeGreaterThan(0);
    expect(lineOf("b").thinStock).toBeCloseTo(thin / all, 9);
  });
});

describe("sharing a total out", () => {
  it("is only a look; what it says is put in by the same act that people use", async () => {
    const { db, info } = workspace;
    const look = await lookAtShare(db, info, ask({ step: 400, room: 20 }));
    if (!look.ok) throw new Error(look.error.message);
    const { lines, version, kept } = look.value;
    expect(lines.map(({ key }) => key).sort()).toEqual(["a", "b"]);
    expect(lines.reduce((sum, { to }) => sum + to, 0) + kept).toBeCloseTo(40_000, 6);
    expect((await lookAtShare(db, info, ask({ keys: ["off"] }))).ok).toBe(false);
    const amounts = lines.map(({ key, to }) => ({ key, mills: to }));
    const done = await editAccount(db, "t", version, { action: "amounts", of: "budget", amounts }, "EUR");
    expect(done.ok && done.value.changes).toBe(lines.filter(({ from, to }) => from !== to).length);
  });

  it("says in words where the limits leave no room", async () => {
    const { db, info } = workspace;
    const look = await lookAtShare(db, info, ask({ total: 1_000, step: 10 }));
    expect(!look.ok && look.error.message).toContain("which is more than 1.00");
  });
});

describe("the month's plan", () => {
  it("is set, told against spend, logged, and taken away", async () => {
    const { db, info } = workspace;
    expect(desk.month).toMatchObject({ plan: null, leftADay: null, cap: 90_000_000 });
    const month = formatDay(LAST).slice(0, 7);
    const set = (mills: number | null) =>
      setMonthPlan(db, info, "ann", monthPlanSchema.parse({ month, mills, over: 5 }));
    await set(900_000);
    expect(await monthPlan(db, LAST)).toMatchObject({ mills: 900_000, over: 5, who: "ann" });
    const view = await viewMoneyDesk(db, info);
    if (!view.ok) throw new Error(view.error.message);
    const [[spent]] = (await sql(`SELECT sum(cost) FROM item_facts WHERE day >= ${view.value.month.from}`)) as [
      [number],
    ];
    expect(view.value.month.spent).toBe(spent);
    expect(view.value.month.leftADay).toBeCloseTo(Math.max(0, 900_000 - spent) / view.value.month.daysLeft, 6);
    await set(null);
    expect(await monthPlan(db, LAST)).toBeNull();
    const log = await sql("SELECT count(*) FROM change_log WHERE place = 'budgets'");
    expect(log[0]![0]).toBe(2);
    expect(monthPlanSchema.safeParse({ month: "2026-13", mills: 1 }).success).toBe(false);
  });

  it("of a workspace without results is a clear sentence", async () => {
    const empty = await testWorkspace();
    const view = await viewMoneyDesk(empty.db, empty.info);
    expect(!view.ok && view.error.message).toContain("no results yet");
  });
});
