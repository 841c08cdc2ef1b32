import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { CHANNEL_LIMITS } from "../channel/limits";
import { testCampaign } from "../market/test-shop";
import { testGround } from "../moves/ground.testing";
import { PRESET_RULES } from "../moves/house-rules";
import { holdBid, itemBids } from "./item-bids";

const campaign = (items: string[], bid: number) => testCampaign("a", { dailyBudget: 100_000 }, items, bid);

describe("a bid within its limits", () => {
  it("moves by no more than a step, in whole cents, within what the channel takes; more is never bid for less (properties)", () => {
    const amount = fc.integer({ min: CHANNEL_LIMITS.lowestBid, max: CHANNEL_LIMITS.highestBid });
    const wanted = fc.double({ min: 0, max: 200_000, noNaN: true });
    fc.assert(
      fc.property(wanted, wanted, amount, fc.integer({ min: 5, max: 400 }), (a, b, present, largestStep) => {
        const rules = { ...PRESET_RULES, largestStep };
        const [low, high] = [holdBid(Math.min(a, b), present, rules), holdBid(Math.max(a, b), present, rules)];
        expect(low.bid).toBeLessThanOrEqual(high.bid);
        for (const { bid } of [low, high]) {
          expect(bid % 10).toBe(0);
          expect(bid).toBeGreaterThanOrEqual(CHANNEL_LIMITS.lowestBid);
          expect(bid).toBeLessThanOrEqual(CHANNEL_LIMITS.highestBid);
          expect(bid).toBeLessThanOrEqual(present * (1 + largestStep / 100) + 5);
          expect(bid).toBeGreaterThanOrEqual(Math.min(present, present / (1 + largestStep / 100)) - 5);
        }
      }),
    );
  });

  it("says what holds it back", () => {
    expect(holdBid(900, 300, PRESET_RULES)).toEqual({ bid: 600, limitedBy: "largestStep" });
    expect(holdBid(100, 300, PRESET_RULES)).toEqual({ bid: 150, limitedBy: "largestStep" });
    const far = { ...PRESET_RULES, largestStep: 400 };
    expect(holdBid(1, 10, far)).toEqual({ bid: 10, limitedBy: "floorBid" });
    expect(holdBid(1, 100, { ...far, floorBid: 8 })).toEqual({ bid: 80, limitedBy: "floorBid" });
    expect(holdBid(900, 300, { ...far, ceilingBid: 50 })).toEqual({ bid: 500, limitedBy: "ceilingBid" });
    // A bid beyond the ceiling comes back step by step; a floor above the ceiling gives way.
    expect(holdBid(900, 2_000, { ...PRESET_RULES, ceilingBid: 50 })).toEqual({ bid: 1_000, limitedBy: "largestStep" });
    expect(holdBid(1, 100, { ...far, floorBid: 90, ceilingBid: 20 })).toEqual({ bid: 200, limitedBy: "ceilingBid" });
    expect(holdBid(400, 300, PRESET_RULES)).toEqual({ bid: 400, limitedBy: null });
  });
});

describe("bids of items", () => {
  it("are 80 % of what a click leaves that is new, worked out by hand", () => {
    // 2 orders a hundred clicks, 50.00 an order, three quarters new, 40 % left: 0.30 a click; eight tenths of that are 0.24.
    const [move, ...others] = itemBids(testGround([{ id: "1", clicks: 100, cost: 20_000 }], campaign(["1"], 400)));
    expect(others).toEqual([]);
    expect(move).toMatchObject({
      ...{ key: "item-bid/1", what: "Bid €0.40 → €0.24", campaign: "a", limitedBy: null },
      why: "A click brings 1.00 of sales by evidence, 75 % of it new and kept, 40 % of that left; 80 % of it is bid",
      acts: [{ action: "amounts", of: "item-bid", amounts: [{ key: "1", mills: 240 }] }],
    });
    expect(move!.expected.clicks).toBeLessThan(0);
    expect(move!.expected.cost).toBeLessThan(0);
  });

  it("go by the goal where costs are not known, and lose contribution's interval with them", () => {
    const [move] = itemBids(testGround([{ id: "1", clicks: 100, cost: 20_000, margin: NaN }], campaign(["1"], 400)));
    // 1.00 of sales a click over a goal of 3.
    expect(move).toMatchObject({ amount: { from: 400, to: 330 }, expected: { contribution: null } });
  });

  it("stay where they stand within the least change, of what can't be bought, and where the channel bids", () => {
    const item = { id: "1", clicks: 100, cost: 20_000 };
    expect(itemBids(testGround([item], campaign(["1"], 250)))).toEqual([]);
    expect(itemBids(testGround([item], campaign(["1"], 400), { isBuyable: () => false }))).toEqual([]);
    const byReturn = testCampaign("a", { bidding: "return", goal: 3 }, ["1"], 400);
    expect(itemBids(testGround([item], byReturn))).toEqual([]);
  });

  it("are none rather than wild ones where a goal is 0, a margin beyond the price, or nothing known of orders", () => {
    const item = { id: "1", clicks: 100, cost: 20_000 };
    const bids = (one: object, more = {}) =>
      itemBids(testGround([{ ...item, ...one }], campaign(["1"], 400), more)).map(({ amount }) => amount!.to);
    expect(bids({ margin: NaN }, { goalOf: () => ({ goal: 0, from: "workspace" }) })).toEqual([]);
    expect(bids({ rate: NaN })).toEqual([]);
    // A cost below nothing makes a margin of more than all: the goal is gone by as if no costs were known.
    expect(bids({ margin: 1.7 })).toEqual(bids({ margin: NaN }));
    // What loses on every sale comes down by one step.
    expect(bids({ margin: -0.2 })).toEqual([200]);
    // A campaign without money says nothing of how long money lasts.
    const none = testCampaign("a", { dailyBudget: 0 }, ["1"], 400);
    expect(itemBids(testGround([item], none)).map(({ amount }) => amount!.to)).toEqual([240]);
  });

  it("do not suffer from an item of the same category of which nothing is known", () => {
    const items = [
      { id: "1", clicks: 100, cost: 20_000 },
      { id: "2", clicks: 50, cost: 10_000, rate: NaN },
    ];
    const recent = { orders: [1, 1], seenClicks: [50, 25] };
    const places = ["1", "2"].map((id) => ({
      ...{ campaign: "a", adGroup: "g:a", target: `p:a/${id}`, place: "oak rake", impressions: 900 },
      ...{ clicks: 50, seenClicks: 50, cost: 10_000, orders: 1, revenue: 50_000 },
    }));
    const moves = itemBids(testGround(items, campaign(["1", "2"], 400), { recent, places }));
    expect(moves.map(({ key }) => key)).toEqual(["item-bid/1"]);
    expect(Number.isFinite(moves[0]!.expected.contribution!.mean)).toBe(true);
  });

  it("go to each group by itself, also where several take the bid of their ad group", () => {
    const groups = ["x", "y"].map((name) => ({
      ...{ type: "productGroup", key: `p:a/${name}`, adGroup: "g:a", parent: "p:a", role: "unit", by: null },
      ...{ value: name, status: "on", bid: null },
    }));
    const structure = campaign([], 400);
    const root = { ...structure["p:a"]!, by: "brand" };
    const items = ["x", "y"].flatMap((brand, b) =>
      [1, 2].map((i) => ({ id: `${brand}${i}`, brand, rate: 0.01 + 0.02 * b })),
    );
    const all = { ...structure, "p:a": root, ...Object.fromEntries(groups.map((group) => [group.key, group])) };
    const moves = itemBids(testGround(items, all as typeof structure));
    expect(moves.map(({ key, amount }) => [key, amount!.to])).toEqual([
      ["group-bid/p:a/x", 200],
      ["group-bid/p:a/y", 360],
    ]);
  });

  it("come down together where money is gone before the evening, and that is what is said", () => {
    const items = [{ id: "1", clicks: 100, cost: 20_000 }];
    const purses = [{ campaign: "a", budget: 100_000, cost: 100_000, dryAt: 12 }];
    const [move] = itemBids(testGround(items, campaign(["1"], 240), { purses }));
    // Half of the day's money: 0.24 × 0.5^0.7 = 0.148.
    expect(move!.amount).toEqual({ from: 240, to: 150 });
    expect(move!.why).toContain("× 0.62 so that money lasts");
  });

  it("are one for all that few clicked in a group of many", () => {
    const ids = ["1", "2", "3"];
    const structure = campaign(ids, 400);
    const split = Object.values(structure).find(({ key }) => key === "p:a")!;
    const open = { [split.key]: { ...split, role: "unit", by: null } } as typeof structure;
    const kept = Object.fromEntries(Object.entries(structure).filter(([key]) => !key.startsWith("p:a/")));
    const items = [
      { id: "1", clicks: 100, cost: 20_000 },
      { id: "2", rate: 0.01 },
      { id: "3", rate: 0.03 },
    ];
    const moves = itemBids(testGround(items, { ...kept, ...open }));
    expect(moves.map(({ key }) => key)).toEqual(["item-bid/1", "group-bid/p:a"]);
    // 0.01 and 0.03 in the mean are as much as 0.02.
    expect(moves[1]!.amount).toEqual({ from: 400, to: 240 });
  });
});
