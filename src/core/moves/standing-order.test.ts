import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { between, NOTHING_EXPECTED, type Move } from "./move";
import { limitsInWords, standingOrderSchema, stoppedBy, takeMoves, type StandingOrder } from "./standing-order";

const order = (over: Partial<StandingOrder> = {}): StandingOrder => ({
  ...{ name: "Bids", kinds: ["item-bids"], every: 7, most: 100, step: null, spend: null, direction: "both", never: [] },
  guard: { leastReturn: null, mostSpend: null },
  ...over,
});
const move = (key: string, over: Partial<Move> = {}): Move => ({
  ...{ key, proposer: "item-bids", about: key, campaign: "c", what: "", why: "", acts: [], limitedBy: null, rows: [] },
  ...{ amount: { from: 400, to: 500 }, stands: { clicks: 10, orders: 1 }, touches: [key] },
  expected: { ...NOTHING_EXPECTED, cost: 100, contribution: between(50, 1) },
  ...over,
});
const keys = (taken: { moves: Move[] }) => taken.moves.map(({ key }) => key);

describe("a standing order", () => {
  it("takes its kinds alone, in their order, no more than its number", () => {
    const moves = [move("a"), move("b", { proposer: "hours" }), move("c"), move("d")];
    const taken = takeMoves(order({ most: 2 }), moves, "EUR");
    expect(keys(taken)).toEqual(["a", "c"]);
    expect(taken.left).toEqual({ most: 1 });
  });

  it("holds amounts to its step, with so much less expected, and leaves what whole cents can't follow", () => {
    const act = { action: "amounts", of: "bid", amounts: [{ key: "k", mills: 900 }] } as const;
    const far = move("far", {
      what: "Bid",
      amount: { from: 400, to: 900 },
      acts: [{ ...act, amounts: [...act.amounts] }],
    });
    const tiny = move("tiny", { amount: { from: 20, to: 40 } });
    const down = move("down", { amount: { from: 600, to: 300 } });
    const { moves, left } = takeMoves(order({ step: 30 }), [far, tiny, down], "EUR");
    expect(moves.map(({ amount }) => amount!.to)).toEqual([520, 470]);
    expect(moves[0]!.acts).toEqual([{ action: "amounts", of: "bid", amounts: [{ key: "k", mills: 520 }] }]);
    expect(moves[0]!.what).toBe("Bid, held to €0.52");
    expect(moves[0]!.expected.cost).toBeCloseTo((100 * 120) / 500, 9);
    expect(left).toEqual({ step: 1 });
  });

  it("leaves what goes the wrong way, or into campaigns that it never touches, by whatever act", () => {
    const down = move("down", { amount: { from: 400, to: 300 } });
    const pause = move("pause", { amount: null, acts: [{ action: "status", keys: ["kept"], status: "paused" }] });
    const budget = move("budget", { amount: null, touches: ["kept/budget"] });
    const all = [move("near"), down, pause, budget, move("in", { campaign: "kept" }), move("none", { amount: null })];
    const taken = takeMoves(order({ direction: "raise", never: ["kept"] }), all, "EUR");
    expect(keys(taken)).toEqual(["near"]);
    expect(taken.left).toEqual({ direction: 2, never: 3 });
  });

  it("spends no more than it may, and savings make no room", () => {
    const saves = move("saves", { expected: { ...NOTHING_EXPECTED, cost: -1_000 } });
    const big = move("big", { expected: { ...NOTHING_EXPECTED, cost: 250 } });
    const taken = takeMoves(order({ spend: 300 }), [saves, move("one"), big, move("two"), move("three")], "EUR");
    expect(keys(taken)).toEqual(["saves", "one", "two", "three"]);
    expect(taken.left).toEqual({ spend: 1 });
  });

  it("never goes beyond its limits (property)", () => {
    const drawn = fc.record({
      cost: fc.integer({ min: -500, max: 500 }),
      from: fc.integer({ min: 10, max: 1_000 }),
      to: fc.integer({ min: 10, max: 1_000 }),
      kind: fc.constantFrom("item-bids", "hours"),
      campaign: fc.constantFrom("a", "b", "c"),
    });
    const limits = fc.record({
      most: fc.integer({ min: 1, max: 8 }),
      step: fc.option(fc.integer({ min: 1, max: 400 })),
      spend: fc.option(fc.integer({ min: 0, max: 1_000 })),
      direction: fc.constantFrom<StandingOrder["direction"]>("both", "raise", "lower"),
      never: fc.subarray(["a", "b"]),
    });
    fc.assert(
      fc.property(fc.array(drawn), limits, (all, over) => {
        const moves = all.map(({ cost, from, to, kind, campaign }, i) =>
          move(String(i), { proposer: kind, campaign, amount: { from, to }, expected: { ...NOTHING_EXPECTED, cost } }),
        );
        const { moves: taken, left } = takeMoves(order(over), moves, "EUR");
        const ofKind = moves.filter(({ proposer }) => proposer === "item-bids").length;
        expect(taken.length + Object.values(left).reduce((sum, count) => sum + count, 0)).toBe(ofKind);
        expect(taken.length).toBeLessThanOrEqual(over.most);
        const more = taken.reduce((sum, { expected }) => sum + Math.max(0, expected.cost), 0);
        if (over.spend !== null) expect(more).toBeLessThanOrEqual(over.spend);
        for (const { amount, campaign } of taken) {
          expect(over.never).not.toContain(campaign);
          if (over.direction === "raise") expect(amount!.to).toBeGreaterThan(amount!.from);
          const apart = Math.max(amount!.to / amount!.from, amount!.from / amount!.to);
          if (over.step !== null) expect(apart).toBeLessThanOrEqual(1 + over.step / 100 + 1e-6);
        }
      }),
    );
  });

  it("is stopped by spend or return out of bounds, and by nothing that is not known", () => {
    const guarded = order({ guard: { leastReturn: 3, mostSpend: 20_000 } });
    expect(stoppedBy(guarded, { cost: 10_000, sales: 40_000 }, "EUR")).toBeNull();
    expect(stoppedBy(guarded, { cost: 25_000, sales: 90_000 }, "EUR")).toContain("more than €20.00");
    expect(stoppedBy(guarded, { cost: 10_000, sales: 29_000 }, "EUR")).toContain("2.90, below 3.00");
    expect(stoppedBy(guarded, { cost: 0, sales: 0 }, "EUR")).toBeNull();
    expect(stoppedBy(guarded, null, "EUR")).toBeNull();
  });

  it("says its limits, and refuses ones that are none", () => {
    expect(
      limitsInWords(order({ every: 1, most: 1, step: 20, spend: 5_000, direction: "lower", never: ["x"] }), "EUR"),
    ).toBe(
      "every day, at most 1 move, amounts by 20 % at most, €5.00 more a day at most, lowering alone, never in 1 campaign; no guard",
    );
    for (const wrong of [{ kinds: [] }, { every: 0 }, { most: 0 }, { step: 0 }, { name: " " }, { spend: -1 }]) {
      expect(standingOrderSchema.safeParse({ ...order(), ...wrong }).success).toBe(false);
    }
  });
});
