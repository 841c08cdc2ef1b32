import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { atBid, costAt, landscapeOfCard, landscapeOfClicks, wonAt } from "./landscape";

describe("the landscape of a rate card", () => {
  const landscape = landscapeOfCard({ low: 100, typical: 200, high: 400 });

  it("wins a fifth of auctions at low, half at typical, four fifths at high", () => {
    expect(wonAt(landscape, 100)).toBeCloseTo(0.2, 4);
    expect(wonAt(landscape, 200)).toBeCloseTo(0.5, 4);
    expect(wonAt(landscape, 400)).toBeCloseTo(0.8, 4);
    expect(wonAt(landscape, 0)).toBe(0);
  });

  it("costs what had to be beaten: the mean of what lies below the bid, summed up in small steps", () => {
    const [middle, spread] = [Math.log(200), landscape.spread];
    for (const bid of [80, 200, 700]) {
      let [sum, weight] = [0, 0];
      for (let rival = 0.5; rival < bid; rival += 1) {
        const density = Math.exp(-(((Math.log(rival) - middle) / spread) ** 2) / 2) / rival;
        sum += rival * density;
        weight += density;
      }
      expect(costAt(landscape, bid) / (sum / weight)).toBeCloseTo(1, 2);
    }
  });
});

describe("the landscape that clicks tell", () => {
  it("is the one under which the bid pays what was paid, and wins a tenth to nearly all of auctions", () => {
    fc.assert(
      fc.property(fc.integer({ min: 50, max: 5000 }), fc.double({ min: 0.05, max: 1, noNaN: true }), (bid, share) => {
        const landscape = landscapeOfClicks(bid, share * bid);
        const won = wonAt(landscape, bid);
        expect(won).toBeGreaterThan(0.0999);
        expect(won).toBeLessThan(0.9987);
        const paid = costAt(landscape, bid) / bid;
        // Where it can't be, it comes as near as it may.
        if (won < 0.1001) expect(share).toBeGreaterThanOrEqual(paid - 1e-6);
        else if (won > 0.998) expect(share).toBeLessThanOrEqual(paid + 1e-6);
        else expect(paid).toBeCloseTo(share, 4);
      }),
    );
  });

  it("gives no fewer clicks for a higher bid, none dearer than it, and what was seen at the present one", () => {
    const amount = fc.integer({ min: 20, max: 3000 });
    fc.assert(
      fc.property(amount, amount, amount, fc.double({ min: 0.2, max: 0.95, noNaN: true }), (bid, a, b, share) => {
        const seen = { bid, clicks: 10, cpc: share * bid };
        const landscape = landscapeOfClicks(bid, seen.cpc);
        const [low, high] = [atBid(landscape, seen, Math.min(a, b)), atBid(landscape, seen, Math.max(a, b))];
        expect(high.clicks).toBeGreaterThanOrEqual(low.clicks);
        expect(low.cpc).toBeLessThanOrEqual(Math.min(a, b));
        const same = atBid(landscape, seen, bid);
        expect(same.clicks).toBeCloseTo(10, 9);
        expect(same.cpc).toBeCloseTo(seen.cpc, 6);
      }),
    );
  });
});
