import { describe, expect, it } from "vitest";
import { exclusionKey } from "../account/records/exclusion";
import { exclusionReasonSchema } from "../account/records/basics";
import { testCampaign } from "../market/test-shop";
import { testGround, type TestItem } from "../moves/ground.testing";
import { letInAgain, withoutMargin } from "./margin-and-stock";

const structure = (ids: string[]) => testCampaign("a", { dailyBudget: 100_000 }, ids, 400);
const kept = (item: string, reason: string) => {
  const key = exclusionKey(item, null);
  const record = { type: "exclusion" as const, key, campaign: null, item, reviewOn: null };
  return { [key]: { ...record, reason: exclusionReasonSchema.parse(reason) } };
};

describe("items without a margin", () => {
  const items: TestItem[] = [
    { id: "loss", clicks: 100, cost: 20_000, orders: 4, value: 50_000, margin: -0.1 },
    { id: "even", clicks: 10, cost: 2_000, orders: 0, margin: 0 },
    { id: "paying", clicks: 100, cost: 20_000, orders: 4, margin: 0.4 },
    { id: "unknown", clicks: 100, cost: 20_000, orders: 0, margin: NaN },
    { id: "quiet", clicks: 0, margin: -0.5 },
  ];

  it("are those of which a sale leaves nothing, by what that costs a day; a margin that nobody knows is no reason", () => {
    const moves = withoutMargin(testGround(items, structure(items.map(({ id }) => id))));
    expect(moves.map(({ key }) => key)).toEqual(["no-margin/loss", "no-margin/even"]);
    // (20.00 for clicks + 4 sales × 5.00 lost) ÷ 10 days.
    expect(moves[0]).toMatchObject({
      acts: [{ action: "exclude", items: ["loss"], reason: "no margin", campaign: null }],
      why: "Costs leave -10 % of a sale; €20.00 for 4 orders",
      expected: { clicks: -10, cost: -2_000, contribution: { mean: 4_000, low: 2_000 } },
    });
    expect(moves[1]!.expected.contribution).toEqual({ mean: 200, low: 200, high: 200 });
  });

  it("are nothing to keep out where no group serves them or nobody can buy them", () => {
    expect(withoutMargin(testGround(items, structure(["paying"])))).toEqual([]);
    expect(withoutMargin(testGround(items, structure(["loss"]), { isBuyable: () => false }))).toEqual([]);
  });
});

describe("items to let in again", () => {
  const items: TestItem[] = [
    { id: "back", clicks: 50, cost: 10_000, rate: 0.02, value: 50_000, margin: 0.4 },
    { id: "better", margin: 0.2 },
    { id: "worse", margin: -0.2 },
    { id: "wasteful", margin: 0.4 },
  ];
  const account = {
    ...structure(items.map(({ id }) => id)),
    ...{ ...kept("back", "out of stock"), ...kept("better", "no margin"), ...kept("worse", "no margin") },
    ...{ ...kept("wasteful", "wasteful"), ...kept("gone", "out of stock") },
  };

  it("are those whose reason is gone: in stock again, or with a margin", () => {
    const moves = letInAgain(testGround(items, account));
    expect(moves.map(({ key, why }) => [key, why])).toEqual([
      ["let-in/x:everywhere/back", "It was out of stock and can be bought again"],
      ["let-in/x:everywhere/better", "Nothing was left of a sale; now it is 20 %"],
    ]);
    // 5 clicks a day × 2 % × 50.00 × 40 % = 2.00, less 1.00 of cost.
    expect(moves[0]!.expected).toMatchObject({ clicks: 5, cost: 1_000, contribution: { mean: 1_000 } });
    expect(moves[0]!.acts).toEqual([{ action: "include", items: ["back"], campaign: null }]);
    // Of what had no clicks nothing is known.
    expect(moves[1]!.expected.contribution).toBeNull();
  });

  it("wait while they can't be bought, and are not sold at a loss", () => {
    expect(letInAgain(testGround(items, account, { isBuyable: () => false }))).toEqual([]);
    const sold = [{ ...items[0]!, margin: -0.1 }];
    expect(letInAgain(testGround(sold, { ...structure(["back"]), ...kept("back", "out of stock") }))).toEqual([]);
  });
});
