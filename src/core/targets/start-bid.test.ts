import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { CHANNEL_LIMITS } from "../channel/limits";
import { PRESET_RULES } from "../moves/house-rules";
import { startBid, type StartGround } from "./start-bid";

const of = (known: Partial<StartGround>) =>
  startBid({ worth: null, paid: null, home: null, card: null, ...known }, PRESET_RULES);

describe("the first bid of a target", () => {
  it("starts from what was paid there, and goes towards what a click is worth, a step at most", () => {
    // 27 cents a click at a return of 23: worth far more, and the first step is to twice the bid that bought it.
    expect(of({ worth: 4_000, paid: { clicks: 40, cost: 40 * 270 }, card: { low: 90, typical: 160 } })).toMatchObject({
      ...{ bid: 700, from: "paid", paid: 270, limitedBy: "largestStep" },
    });
    expect(of({ worth: 400, paid: { clicks: 40, cost: 40 * 270 } })).toMatchObject({ bid: 400, limitedBy: null });
    // Two clicks say nothing of the price.
    expect(of({ worth: 200, paid: { clicks: 2, cost: 1800 }, card: { low: 90, typical: 160 } })).toMatchObject({
      ...{ bid: 200, from: "typical", paid: null },
    });
  });

  it("is not below the bid of its home for want of anything better: the item would show less than it does now", () => {
    expect(of({ home: 520, card: { low: 40, typical: 80 } })).toMatchObject({ bid: 520, from: "home" });
    expect(of({ home: 60, card: { low: 40, typical: 80 } })).toMatchObject({ bid: 80, from: "typical" });
    expect(of({})).toMatchObject({ bid: 300, from: "blind" });
  });

  it("says where it will hardly show: a click is worth less than what a fifth of the auctions take", () => {
    expect(of({ worth: 30, card: { low: 90, typical: 160 } })).toMatchObject({ bid: 80, isBelowLow: true });
    expect(of({ worth: 95, card: { low: 90, typical: 160 } })).toMatchObject({ bid: 100, isBelowLow: false });
  });

  it("never bids less for being worth more, and always something the channel takes", () => {
    const money = fc.integer({ min: 1, max: 20_000 });
    fc.assert(
      fc.property(
        money,
        money,
        fc.option(money, { nil: null }),
        fc.option(fc.record({ clicks: fc.integer({ min: 1, max: 90 }), cost: money }), { nil: null }),
        fc.option(fc.record({ low: fc.constant(null), typical: money }), { nil: null }),
        (a, b, home, paid, card) => {
          const [less, more] = [Math.min(a, b), Math.max(a, b)].map((worth) => of({ worth, home, paid, card }).bid);
          // Where nothing else is known each starts from its own worth, which rises too.
          expect(less!).toBeLessThanOrEqual(more!);
          expect(less!).toBeGreaterThanOrEqual(CHANNEL_LIMITS.lowestBid);
        },
      ),
    );
  });
});
