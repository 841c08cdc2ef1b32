import { describe, expect, it } from "vitest";
import { Account } from "../account/account";
import { makeEdit } from "../account/acts";
import { SLOT_KEYS } from "../kit/slots";
import { testCampaign } from "../market/test-shop";
import { editOfMoves } from "../moves/accept";
import { testGround, type TestItem } from "../moves/ground.testing";
import type { Ground, PurseDay, SlotLine } from "../moves/ground";
import { PRESET_RULES } from "../moves/house-rules";
import { dryCampaigns } from "./dry";

// A click brings 0.02 × 50 = 1.00 of sales, 0.40 of it left before what would have come anyway, and costs 0.20.
const ITEMS: TestItem[] = ["A1", "A2", "B1", "B2"].map((id) => ({ id, clicks: 500, cost: 100_000, orders: 10 }));
const structure = {
  ...testCampaign("a", { dailyBudget: 10_000 }, ["A1", "A2"], 300),
  ...testCampaign("b", { dailyBudget: 50_000 }, ["B1", "B2"], 300),
};

const days = (campaign: string, budget: number, cost: number, dryAt: number | null): PurseDay[] =>
  Array.from({ length: 7 }, () => ({ campaign, budget, cost, dryAt }));
const slot = (campaign: string, over: Partial<SlotLine> = {}): SlotLine => ({
  ...{ campaign, adGroup: `${campaign}/g`, slot: SLOT_KEYS.indexOf("lower-results"), impressions: 0 },
  ...{ clicks: 1_000, cost: 200_000, orders: 20, revenue: 1_000_000, seenClicks: 1_000 },
  ...over,
});
const ground = (more: Partial<Ground> = {}, items = ITEMS) =>
  testGround(items, structure, {
    slots: [slot("a"), slot("b")],
    // Without hours a day is even: half of it is gone at noon.
    purses: [...days("a", 10_000, 10_000, 12), ...days("b", 50_000, 20_000, null)],
    ...more,
  });

describe("dry campaigns", () => {
  it("get what others never spend, as much as full days need, as worked out by hand", () => {
    const [move, ...others] = dryCampaigns(ground());
    expect(others).toEqual([]);
    // A full day of a costs 20, a tenth more is 22, so 12 on top of 10; b keeps 26 of 50 and could give 24.
    expect(move!.acts).toEqual([
      { action: "budget", keys: ["a"], op: { how: "add", mills: 12_000 } },
      { action: "budget", keys: ["b"], op: { how: "add", mills: -12_000 } },
    ]);
    const { expected } = move!;
    // 10 a day more are spent until midnight; each brings 5.00 of sales, 0.4 × 0.75 of that is left and new.
    expect(expected.cost).toBe(10_000);
    expect(expected.revenue).toBeCloseTo(50_000, 3);
    expect(expected.clicks).toBeCloseTo(50, 6);
    expect(expected.contribution!.mean).toBeCloseTo(10_000 * (5 * 0.4 * 0.75 - 1), 3);
    expect(move!.why).toContain("7 days of 7, at about 12:00");
  });

  it("leave what may be spent in all as it is", () => {
    const on = ground();
    const made = makeEdit(on.account, editOfMoves(dryCampaigns(on))!, () => null, "EUR");
    if (!made.ok) throw new Error(made.error.message);
    const budgets = (account: Ground["account"]) => account.all("campaign").map(({ dailyBudget }) => dailyBudget);
    expect(budgets(made.value.after())).toEqual([22_000, 38_000]);
  });

  it("are left alone where their hours don't pay, few days were dry, nobody has money to spare, or a pool steers them", () => {
    expect(dryCampaigns(ground({ slots: [slot("a", { orders: 5 }), slot("b")] }))).toEqual([]);
    const seldom = days("a", 10_000, 10_000, null).with(0, { campaign: "a", budget: 10_000, cost: 10_000, dryAt: 12 });
    expect(dryCampaigns(ground({ purses: [...seldom, ...days("b", 50_000, 20_000, null)] }))).toEqual([]);
    expect(
      dryCampaigns(ground({ purses: [...days("a", 10_000, 10_000, 12), ...days("b", 50_000, 45_000, null)] })),
    ).toEqual([]);
    expect(dryCampaigns(ground({ rules: { ...PRESET_RULES, spareMoney: 300 } }))).toEqual([]);
    const pooled = testCampaign("a", { dailyBudget: 10_000, pool: "pool:s" }, ["A1", "A2"], 300);
    expect(dryCampaigns(ground({ account: Account.fromStructure({ ...structure, ...pooled }) }))).toEqual([]);
    expect(dryCampaigns(ground({ purses: [] }))).toEqual([]);
    expect(dryCampaigns(ground({ margin: new Float64Array(4).fill(NaN) }))).toEqual([]);
  });

  it("never take more from one campaign than it has to spare, however many are dry", () => {
    const more = {
      ...structure,
      ...testCampaign("c", { dailyBudget: 10_000 }, ["C1"], 300),
    };
    const items = [...ITEMS, { id: "C1", clicks: 500, cost: 100_000, orders: 10 }];
    const on = testGround(items, more, {
      slots: [slot("a"), slot("b"), slot("c")],
      purses: [...days("a", 10_000, 10_000, 6), ...days("b", 50_000, 20_000, null), ...days("c", 10_000, 10_000, 12)],
    });
    const given = dryCampaigns(on).flatMap(({ acts }) =>
      acts.flatMap((act) =>
        act.action === "budget" && act.op.how === "add" && act.op.mills < 0 ? [act.op.mills] : [],
      ),
    );
    expect(given.reduce((sum, mills) => sum + mills, 0)).toBe(-24_000);
  });
});
