import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { recordSchema } from "../account/records";
import { testCampaign } from "../market/test-shop";
import { testGround, type TestItem } from "../moves/ground.testing";
import type { Ground } from "../moves/ground";
import { PRESET_RULES } from "../moves/house-rules";
import { bidLines, type BidLine, type BidMethod } from "./bid-lines";

// By evidence 1.00 of sales a click, 0.40 of it left, three quarters of that new: 0.30, of which 80 % are bid.
const ITEMS: TestItem[] = [
  { id: "A1", clicks: 100, cost: 20_000, orders: 2 },
  { id: "A2", clicks: 0 },
  { id: "A3", clicks: 50, cost: 10_000, margin: NaN },
];
const hose = { type: "keyword", text: "hose", match: "exact", bid: 300 };
const words = (over: object = {}) => testCampaign("w", { kind: "keyword" }, ["A1"], 400, [{ ...hose, ...over }]);
const structure = { ...testCampaign("a", {}, ["A1", "A2", "A3"], 400), ...words() };
const ground = (more: Partial<Ground> = {}) => testGround(ITEMS, structure, more);
const card = { low: 100, typical: 200, high: 400 };
const lines = (method: BidMethod, on = ground(), kind: BidLine["kind"] = "item", of: BidLine["card"] = card) =>
  new Map(bidLines(on, { kind, method }, () => of).map((line) => [line.key, line]));

describe("bids of items", () => {
  it("are what a click leaves by contribution, as worked out by hand, and sales ÷ goal where costs are not known", () => {
    const found = lines("contribution");
    expect(found.get("A1")).toMatchObject({ bid: 400, clicks: 100, orders: 2, isOwn: true, none: null });
    expect(found.get("A1")!.proposed).toEqual({ bid: 240, limitedBy: null });
    // 1.00 ÷ 3.
    expect(found.get("A3")!.proposed).toEqual({ bid: 330, limitedBy: null });
    expect(found.get("A3")!.expected!.contribution).toBeNull();
  });

  it("are sales ÷ the goal in force, a low entry, or a push, each within the house rules", () => {
    expect(lines("goal").get("A1")).toMatchObject({
      goal: { goal: 3, from: "workspace" },
      proposed: { bid: 330, limitedBy: null },
    });
    // Low 0.10 and a cent; half of 0.40 is the furthest down.
    expect(lines("low").get("A1")!.proposed).toEqual({ bid: 200, limitedBy: "largestStep" });
    const wide = { ...PRESET_RULES, largestStep: 400 };
    expect(lines("low", ground({ rules: wide })).get("A1")!.proposed).toEqual({ bid: 110, limitedBy: null });
    expect(lines("push").get("A1")!.proposed).toEqual({ bid: 500, limitedBy: null });
    expect(lines("push", ground({ rules: { ...PRESET_RULES, ceilingBid: 45 } })).get("A1")!.proposed).toEqual({
      bid: 450,
      limitedBy: "ceilingBid",
    });
    const floor = { ...wide, floorBid: 15 };
    expect(lines("low", ground({ rules: floor })).get("A1")!.proposed).toEqual({ bid: 150, limitedBy: "floorBid" });
  });

  it("say why there is none: no card, nothing known, sold out, moved lately, it fits, the channel bids, or paused", () => {
    const why = (method: BidMethod, more: Partial<Ground> = {}, of: BidLine["card"] = card) =>
      lines(method, ground(more), "item", of).get("A1")!.none;
    expect(why("low", {}, null)).toBe("card");
    expect(why("low", {}, { low: null, typical: 200, high: null })).toBe("card");
    expect(why("contribution", { evidence: { ...ground().evidence, orderRate: new Float64Array(3).fill(NaN) } })).toBe(
      "unknown",
    );
    expect(why("goal", { goalOf: () => ({ goal: 0, from: "workspace" }) })).toBe("unknown");
    expect(why("contribution", { isBuyable: () => false })).toBe("out");
    const [home] = ground().homes;
    expect(why("contribution", { settling: new Set([home!.group.key]) })).toBe("settling");
    // A push never lowers.
    expect(why("push", {}, { ...card, typical: 60 })).toBe("fits");
    expect(why("push", {}, { ...card, typical: 160 })).toBe("fits");
    const ruled = testCampaign("a", { bidding: "return" }, ["A1", "A2", "A3"], 400);
    expect(lines("contribution", testGround(ITEMS, { ...ruled })).get("A1")!.none).toBe("channel");
  });

  it("of which nothing was clicked have no effect that anybody knows", () => {
    const { isOwn, expected, proposed } = lines("contribution").get("A2")!;
    expect([isOwn, expected]).toEqual([false, null]);
    expect(proposed).not.toBeNull();
  });
});

describe("bids of groups and keywords", () => {
  it("of a group go by the mean over its items, each by its clicks and one more", () => {
    // One group for all three, in place of one each.
    const { "p:a": split, ...rest } = testCampaign("a", {}, [], 400);
    const whole = { ...rest, "p:a": recordSchema.parse({ ...split, role: "unit", by: null, bid: 400 }) };
    const line = lines("contribution", testGround(ITEMS, whole), "group").get("p:a");
    // What is left of items without costs is bid by the goal: (101 × 0.24 + 1 × 0.24 + 51 × 0.3333) ÷ 153, in cents.
    expect(line!.proposed!.bid).toBe(10 * Math.round((101 * 240 + 240 + (51 * 1000) / 3) / 153 / 10));
    expect(line!.name).not.toBe("");
    expect(line!.goal).toEqual({ goal: expect.closeTo(3, 9), from: "workspace" });
    // Of items that ask for different returns: spend in proportion to clicks, 153 of sales cost 101 ÷ 4 + 1 ÷ 4 + 51 ÷ 2.
    const goalOf = (row: number) =>
      row === 2 ? { goal: 2, from: "shelf" as const } : { goal: 4, from: "workspace" as const };
    const mixed = lines("goal", testGround(ITEMS, whole, { goalOf }), "group").get("p:a")!;
    expect(mixed.goal).toEqual({ goal: expect.closeTo(153 / (102 / 4 + 51 / 2), 9), from: "several" });
  });

  it("of a keyword go by how its clicks did against what its items usually bring", () => {
    const place = { campaign: "w", adGroup: "g:w", target: "t:w/0", place: "hose", impressions: 0 };
    const counts = { clicks: 200, cost: 40_000, orders: 12, revenue: 600_000, seenClicks: 200 };
    const on = ground({ places: [{ ...place, ...counts }] });
    const line = lines("contribution", on, "keyword").get("t:w/0")!;
    expect(line).toMatchObject({
      name: "hose",
      campaign: "w",
      bid: 300,
      clicks: 200,
      cost: 40_000,
      orders: 12,
      isOwn: true,
    });
    // Twelve orders where four were usual: clearly more than 1.00 a click.
    expect(line.worth).toBeGreaterThan(1_300);
    expect(line.proposed!.bid).toBeGreaterThan(300);
    expect(lines("contribution", on, "listing").size).toBe(0);
    const paused = testGround(ITEMS, { ...structure, ...words({ status: "paused" }) });
    expect(lines("contribution", paused, "keyword").get("t:w/0")!.none).toBe("off");
  });

  it("never leave floor, ceiling and step, whatever is known (property)", () => {
    const drawn = fc.record({
      rate: fc.double({ min: 0, max: 1, noNaN: true }),
      value: fc.integer({ min: 0, max: 5_000_000 }),
      margin: fc.double({ min: -2, max: 3, noNaN: true }),
      clicks: fc.integer({ min: 0, max: 5_000 }),
    });
    const rules = fc.record({
      largestStep: fc.integer({ min: 5, max: 400 }),
      floorBid: fc.integer({ min: 1, max: 1_000 }),
      ceilingBid: fc.integer({ min: 5, max: 5_000 }),
    });
    const method = fc.constantFrom<BidMethod>("contribution", "goal", "low", "push");
    fc.assert(
      fc.property(fc.array(drawn, { minLength: 3, maxLength: 3 }), rules, method, (items, own, how) => {
        const on = testGround(
          items.map((item, i) => ({ id: `A${i + 1}`, cost: item.clicks * 150, ...item })),
          structure,
          { rules: { ...PRESET_RULES, ...own } },
        );
        for (const { bid, proposed } of lines(how, on).values()) {
          if (!proposed) continue;
          const most = 1 + own.largestStep / 100;
          expect(proposed.bid % 10).toBe(0);
          expect(proposed.bid).toBeLessThanOrEqual(bid * most + 5);
          expect(proposed.bid).toBeGreaterThanOrEqual(bid / most - 5);
          // A bid beyond a bound comes back step by step; one within it never leaves it.
          if (bid <= own.ceilingBid * 10) expect(proposed.bid).toBeLessThanOrEqual(own.ceilingBid * 10);
          const floor = Math.min(own.floorBid, own.ceilingBid) * 10;
          if (bid >= floor) expect(proposed.bid).toBeGreaterThanOrEqual(floor);
        }
      }),
    );
  });
});
