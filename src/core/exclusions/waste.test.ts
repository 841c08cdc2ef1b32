import { describe, expect, it } from "vitest";
import { testCampaign } from "../market/test-shop";
import type { PlaceLine } from "../moves/ground";
import { testGround } from "../moves/ground.testing";
import { namedPlaces } from "../targets/place-moves";
import { targetBids } from "../targets/target-bids";
import { wastedPlaces } from "./waste";

const structure = testCampaign("a", { dailyBudget: 100_000, serveOrder: 6 }, ["1"], 400);
const line = (place: string, clicks: number, orders: number): PlaceLine => ({
  ...{ campaign: "a", adGroup: "g:a", target: "p:a/1", place, impressions: 30 * clicks, clicks, seenClicks: clicks },
  ...{ cost: 400 * clicks, orders, revenue: 50_000 * orders },
});
const ground = (places: PlaceLine[], more = {}) =>
  testGround([{ id: "1", clicks: 500, cost: 200_000, orders: 10 }], structure, { places, ...more });

describe("places that only cost", () => {
  // An order leaves 50.00 × 40 % = 20.00; a click costs 0.40, so 250 clicks had to bring 5 orders to pay.
  it("are those that so few orders would hardly come from if they paid", () => {
    const [move, ...others] = wastedPlaces(ground([line("rake pictures", 250, 0), line("oak rake", 250, 6)]));
    expect(others).toEqual([]);
    expect(move).toMatchObject({
      // e^−5 = 0.67 %.
      why: "€100.00 for 0 orders; if it paid, so few would have a chance of 0.7 %",
      acts: [{ action: "keep-out", scope: null, values: [{ what: "term", value: "rake pictures" }] }],
      expected: { clicks: -25, cost: -10_000, contribution: { mean: 10_000, high: 10_000 } },
    });
  });

  it("are harder to name the more are looked at, and neither what is kept out nor one's own pages", () => {
    // 0.67 % is under 10 % ÷ 1, and above 10 % ÷ 21.
    const fine = Array.from({ length: 20 }, (_, i) => line(`rake ${i}`, 250, 6));
    expect(wastedPlaces(ground([line("rake pictures", 250, 0), ...fine]))).toEqual([]);
    expect(wastedPlaces(ground([line("1", 250, 0)], { isListing: () => true }))).toEqual([]);
    expect(wastedPlaces(ground([line("X9-PAGE", 250, 0)], { isListing: () => null }))).toEqual([]);
  });
});

describe("bids of targets", () => {
  it("are told by the target's own bid, whatever the homes of its items bid before a pause", () => {
    const keyword = { type: "keyword", text: "oak rake", match: "exact" };
    const aimed = testCampaign("k", { kind: "keyword", dailyBudget: 100_000 }, ["1"], 900, [keyword]);
    const of = (more: object) => {
      const lines = [{ ...line("oak rake", 250, 5), campaign: "k", adGroup: "g:k", target: "t:k/0" }];
      return targetBids(
        testGround(
          [{ id: "1", clicks: 500, cost: 200_000, orders: 10 }],
          { ...structure, ...aimed },
          { places: lines, ...more },
        ),
      );
    };
    expect(of({})).toMatchObject([{ key: "target-bid/t:k/0", amount: { from: 900, to: 450 } }]);
    expect(of({ seenBid: () => 200 })).toEqual(of({}));
  });
});

describe("places that are worth more", () => {
  it("are aimed at by name, in the serve order of the items' home, no further from its bid than one step", () => {
    // 250 clicks of an item with 2 orders a hundred: five expected, fifteen seen.
    const [move, ...others] = namedPlaces(ground([line("oak rake", 250, 15), line("spade", 250, 5)]));
    expect(others).toEqual([]);
    expect(move).toMatchObject({ about: "oak rake", stands: { clicks: 250, orders: 15 } });
    const [act] = move!.acts;
    expect(act).toMatchObject({ action: "name-place", what: "term", serveOrder: 6, dailyBudget: 100_000 });
    const [shown] = (act as { items: { id: string; bid: number }[] }).items;
    // 0.24 by itself × more than the 1.2 from which places are named, × no more than what was seen there.
    expect(shown!.id).toBe("1");
    expect(shown!.bid).toBeGreaterThan(240 * 1.2);
    expect(shown!.bid).toBeLessThan(240 * 3);
    expect(namedPlaces(ground([line("1", 250, 15)], { isListing: () => true }))).toEqual([]);
  });
});
