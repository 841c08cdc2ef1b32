import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { testCampaign } from "../market/test-shop";
import { testGround } from "../moves/ground.testing";
import type { PurseDay } from "../moves/ground";
import { expectedOfBid } from "./expected";
import { worthsOf } from "./worths";

// Two items that cost 5 a day each, 25 clicks at 0.20, under a bid of 0.30.
const ITEMS = ["A1", "A2"].map((id) => ({ id, clicks: 250, cost: 50_000, orders: 5 }));
const day = (budget: number, dryAt: number | null): PurseDay[] =>
  Array.from({ length: 7 }, () => ({ campaign: "a", budget, cost: 10_000, dryAt }));
const change = (budget: number, dryAt: number | null, bid: number) => {
  const ground = testGround(ITEMS, testCampaign("a", { dailyBudget: budget }, ["A1", "A2"], 300), {
    purses: day(budget, dryAt),
  });
  return expectedOfBid(ground, worthsOf(ground), "a", [0, 1], 300, bid);
};

describe("what another bid is expected to change", () => {
  it("never spends beyond a campaign's own budget, however its days end (property)", () => {
    fc.assert(
      fc.property(fc.integer({ min: 50, max: 3_000 }), fc.integer({ min: 4, max: 23 }), (bid, dryAt) => {
        // It ran dry with 10 a day spent of 10.
        expect(10_000 + change(10_000, dryAt, bid).cost).toBeLessThanOrEqual(10_000 + 1e-6);
      }),
    );
  });

  it("of a campaign that ran dry at noon: a lower bid buys more clicks for the same money, a higher one fewer", () => {
    const lower = change(10_000, 12, 240);
    expect(lower.clicks).toBeGreaterThan(1);
    expect(lower.cost).toBeCloseTo(0, 0);
    expect(lower.contribution!.mean).toBeGreaterThan(0);
    expect(change(10_000, 12, 450).clicks).toBeLessThan(-1);
  });

  it("of a campaign with money to spare follows the bid, and is nothing for the same one", () => {
    expect(change(90_000, null, 450).cost).toBeGreaterThan(500);
    expect(change(90_000, null, 450).clicks).toBeGreaterThan(1);
    expect(change(90_000, null, 200).cost).toBeLessThan(-500);
    const same = change(90_000, null, 300);
    expect([same.clicks, same.cost, same.contribution!.mean]).toEqual([0, 0, 0]);
  });
});
