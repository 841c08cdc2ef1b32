import { describe, expect, it } from "vitest";
import { makeEdit } from "../account/acts";
import { testCampaign } from "../market/test-shop";
import { testGround } from "../moves/ground.testing";
import { editOfMoves } from "../moves/accept";
import type { PlaceLine } from "../moves/ground";
import { splitHogs, starvations } from "./starvation";

const line = (target: string, place: string, clicks: number, cost: number): PlaceLine => ({
  ...{ place, target, clicks, cost, orders: clicks / 50, revenue: 1_000 * clicks, seenClicks: clicks },
  ...{ impressions: 100 * clicks, campaign: "k", adGroup: "g:k" },
});

/** A broad keyword at 95 cents beside two exact ones; what each spent of late. */
function ground(lines: PlaceLine[], bids: [number, number] = [430, 420]) {
  const structure = testCampaign("k", { name: "Words", kind: "keyword", dailyBudget: 22_000 }, ["A"], 400, [
    { type: "keyword", text: "hoses", match: "broad", bid: 950 },
    { type: "keyword", text: "flat hoses", match: "exact", bid: bids[0] },
    { type: "keyword", text: "buy hoses", match: "exact", bid: bids[1] },
  ]);
  return testGround([{ id: "A", clicks: 100, cost: 40_000, orders: 2, margin: 0.4 }], structure, { places: lines });
}
const [HOG, FLAT, BUY] = ["t:k/0", "t:k/1", "t:k/2"];
const STARVING = [
  line(HOG!, "hoses", 60, 25_800),
  line(HOG!, "flat hoses", 40, 17_200),
  line(FLAT!, "flat hoses", 1, 400),
];

describe("a target that takes its campaign's money", () => {
  it("is found where others with fair bids get under a tenth of their share, by hand", () => {
    const [found] = starvations(ground(STARVING));
    expect(found!.hog.target.key).toBe(HOG);
    // 43,000 of 43,400; a fair share of three is a third, a tenth of that 1,447.
    expect(found!.share).toBeCloseTo(43_000 / 43_400, 9);
    expect(found!.starved.map(({ target }) => target.key)).toEqual([FLAT, BUY]);
    // 1,600 is more than that; bids below half of the 43 cents a click are not fair.
    const fed = [...STARVING.slice(0, 2), line(FLAT!, "flat hoses", 4, 1_600)];
    expect(starvations(ground(fed))[0]!.starved.map(({ target }) => target.key)).toEqual([BUY]);
    expect(starvations(ground(STARVING, [200, 210]))).toEqual([]);
    // Two thirds are no monopoly, and a handful of clicks says nothing.
    expect(starvations(ground([line(HOG!, "hoses", 60, 24_000), line(FLAT!, "flat hoses", 30, 12_000)]))).toEqual([]);
    expect(starvations(ground([line(HOG!, "hoses", 40, 20_000)]))).toEqual([]);
  });

  it("goes into a campaign of its own with its bid, kept out of the others' terms, for no more money in all", () => {
    const one = ground(STARVING);
    const moves = splitHogs(one);
    expect(moves).toHaveLength(1);
    // What 40 clicks in ten days cost at 43 cents is less at the bid of those that name the term.
    expect(moves[0]!.expected.cost).toBeLessThan(0);
    expect(moves[0]!.expected.contribution!.mean).toBeGreaterThan(0);
    const made = makeEdit(one.account, editOfMoves(moves)!, () => null, "EUR");
    if (!made.ok) throw new Error(made.error.message);
    const after = one.account.with(made.value.diff());
    const [source, own] = after.all("campaign");
    expect(source!.dailyBudget + own!.dailyBudget).toBe(22_000);
    const hog = after.find("keyword", HOG!)!;
    expect([hog.bid, after.find("adGroup", hog.adGroup)!.campaign]).toEqual([950, own!.key]);
    expect(
      after
        .all("negative")
        .map(({ scope, match, value }) => [scope, match, value])
        .sort(),
    ).toEqual([
      [own!.key, "exact", "buy hoses"],
      [own!.key, "exact", "flat hoses"],
    ]);
    expect(after.all("keyword").filter(({ adGroup }) => adGroup === "g:k")).toHaveLength(2);
  });
});
