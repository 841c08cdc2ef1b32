import { describe, expect, it } from "vitest";
import { testCampaign } from "../market/test-shop";
import { testGround } from "../moves/ground.testing";
import { campaignReturns, demandIndex, type CampaignDay } from "./money-desk";
import { nextSales, salesAt } from "./response";

const LAST = 20_700;
const ITEMS = ["A1", "A2", "B1"].map((id) => ({ id, clicks: 100, cost: 20_000, orders: 2 }));
const structure = {
  ...testCampaign("a", {}, ["A1", "A2"], 300),
  ...testCampaign("b", { serveOrder: 7 }, ["A2", "B1"], 300),
};
const ground = testGround(ITEMS, structure);
const days = (campaign: string, length: number, over: Partial<CampaignDay> = {}): CampaignDay[] =>
  Array.from({ length }, (_, i) => ({ campaign, day: LAST - i, cost: 10_000, sales: 40_000, dryAt: null, ...over }));
const returns = (list: CampaignDay[], orders = new Map<number, number>()) =>
  new Map(campaignReturns(ground, list, orders, LAST).map((one) => [one.key, one]));

describe("what each campaign's money brings", () => {
  it("is said a day over the last fortnight, or over the days there are", () => {
    const two = returns([...days("a", 60), ...days("b", 60, { cost: 4_000, sales: 8_000 })]);
    expect(two.get("a")).toMatchObject({
      spent: expect.closeTo(10_000, 6),
      sales: expect.closeTo(40_000, 6),
      dryDays: 0,
      evened: 0,
    });
    expect(two.get("b")!.spent).toBeCloseTo(4_000, 6);
    // Five days of results, of which b ran on one: 4 ÷ 5 a day.
    const short = returns([...days("a", 5), ...days("b", 1, { cost: 4_000, sales: 8_000 })]);
    expect(short.get("a")!.spent).toBeCloseTo(10_000, 6);
    expect(short.get("b")!.spent).toBeCloseTo(800, 6);
  });

  it("takes half a day for half of a full one, and says what lower bids all day would bring", () => {
    const { full, dryDays, evened, response, spent } = returns(days("a", 30, { dryAt: 12 })).get("a")!;
    expect(full).toEqual({ cost: expect.closeTo(20_000, 4), sales: expect.closeTo(80_000, 4) });
    expect(dryDays).toBe(14);
    expect(response.spend).toBeCloseTo(20_000, 4);
    // The same spend on the curve, less half of what a full day brings.
    expect(evened).toBeCloseTo(salesAt(response, spent) - salesAt(response, 20_000) / 2, 4);
    expect(evened).toBeGreaterThan(0);
  });

  it("counts what is only taken from another campaign's items as less, by its clicks", () => {
    const { shared, margin, next, response, spent } = returns([...days("a", 30), ...days("b", 30)]).get("a")!;
    expect(shared).toBeCloseTo(0.5, 6);
    // 0.4 is left after costs, three quarters of it new; six tenths of the half that is shared are taken.
    expect(margin).toBeCloseTo(0.3, 6);
    expect(next.sales).toBeCloseTo(nextSales(response, spent), 9);
    expect(next.left! / next.sales).toBeCloseTo(0.3 * (1 - 0.6 * 0.5), 6);
  });

  it("takes demand of the days out, and knows nothing of campaigns that are gone or never spent", () => {
    // Twice the orders of the shop up to a fortnight ago, and twice the spend and sales with them.
    const orders = new Map(Array.from({ length: 90 }, (_, i) => [LAST - i, i < 20 ? 50 : 100]));
    const busy = days("a", 90).map((one) => (one.day > LAST - 20 ? one : { ...one, cost: 20_000, sales: 80_000 }));
    expect(returns(busy, orders).get("a")!.response.spend / 10_000).toBeCloseTo(1, 1);
    expect(returns(busy).get("a")!.response.spend).toBeGreaterThan(13_000);
    expect(returns([...days("gone", 9), ...days("b", 9, { cost: 0, sales: 0 })]).size).toBe(0);
    const lately = returns([...days("a", 60), ...days("b", 20, { day: LAST - 40 })]).get("b")!;
    expect(lately.spent).toBe(0);
    expect(lately.next.sales).toBeCloseTo(nextSales(lately.response, lately.response.spend), 9);
  });

  it("knows nothing of demand where the shop tells of none", () => {
    expect(demandIndex(new Map(), LAST)(LAST - 30)).toBe(1);
    const flat = new Map(Array.from({ length: 60 }, (_, i) => [LAST - i, 7]));
    expect(demandIndex(flat, LAST)(LAST - 30)).toBeCloseTo(1, 9);
  });
});
