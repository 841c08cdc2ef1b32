import { describe, expect, it } from "vitest";
import type { PlaceLine } from "../moves/ground";
import { heldPlaces } from "./defence";

const line = (place: string, campaign: string, impressions: number, clicks: number): PlaceLine => ({
  ...{ place, campaign, adGroup: "g", target: "t", impressions, clicks, cost: 200 * clicks },
  ...{ orders: clicks / 10, revenue: 500 * clicks, seenClicks: clicks },
});

describe("what we hold of our own", () => {
  it("is our impressions over the views of as many days, over all campaigns, by hand", () => {
    const held = heldPlaces(
      [
        { place: "I1", what: "page", monthlyViews: 300 },
        { place: "I1", what: "page", monthlyViews: 999 },
        { place: "veldine hose", what: "brand", monthlyViews: null },
        { place: "I2", what: "page", monthlyViews: 0 },
      ],
      [
        line("I1", "feed", 100, 10),
        line("I1", "defend", 60, 0),
        line("veldine hose", "feed", 5, 1),
        line("hose", "feed", 900, 90),
      ],
      60,
    );
    // 300 a month are 600 in sixty days.
    expect(held).toEqual([
      {
        ...{ place: "I1", what: "page", monthlyViews: 300, impressions: 160, clicks: 10, cost: 2_000, orders: 1 },
        revenue: 5_000,
        share: 160 / 600,
        campaigns: ["feed", "defend"],
      },
      {
        ...{ place: "veldine hose", what: "brand", monthlyViews: null, impressions: 5, clicks: 1, cost: 200 },
        orders: 0.1,
        revenue: 500,
        share: null,
        campaigns: ["feed"],
      },
      {
        ...{ place: "I2", what: "page", monthlyViews: 0, impressions: 0, clicks: 0, cost: 0, orders: 0, revenue: 0 },
        share: null,
        campaigns: [],
      },
    ]);
  });
});
