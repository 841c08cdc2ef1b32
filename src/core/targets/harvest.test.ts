import { describe, expect, it } from "vitest";
import { testCampaign } from "../market/test-shop";
import { testGround } from "../moves/ground.testing";
import type { Ground, PlaceLine } from "../moves/ground";
import { PRESET_RULES } from "../moves/house-rules";
import { judgePlaces } from "./harvest";
import { ledgerKey, type LedgerEntry, type LedgerState } from "./ledger";

const line = (place: string, clicks: number, cost: number, orders: number, revenue: number): PlaceLine => ({
  ...{ place, clicks, cost, orders, revenue, seenClicks: clicks, impressions: 100 * clicks },
  ...{ campaign: "f", adGroup: "g:f", target: "p:f/A" },
});
const entry = (state: LedgerState): LedgerEntry => ({ state, since: null, where: [], reason: "", who: "" });

/** One item, 40 % left after costs, an order of 50 in every fifty clicks. */
function judge(places: PlaceLine[], more: Partial<Ground> = {}, ledger: [string, LedgerState][] = []) {
  const clicks = places.reduce((sum, one) => sum + one.clicks, 0);
  const ground = testGround(
    [{ id: "A", clicks, cost: 200 * clicks, orders: clicks / 50, margin: 0.4 }],
    testCampaign("f", { name: "Feed" }, ["A"], 300),
    { places, ...more },
  );
  const entries = new Map(ledger.map(([text, state]) => [ledgerKey("term", text), entry(state)]));
  return new Map(judgePlaces(ground, entries).map((one) => [one.place, one]));
}

describe("terms and pages", () => {
  it("are harvested with enough orders within what they may cost, by hand", () => {
    const found = judge([
      // 40 clicks at 20 cents for 3 orders of 50: ACOS 8 / 150.
      line("good", 40, 8_000, 3, 150_000),
      line("once", 20, 4_000, 1, 50_000),
      // 60 of 100 in sales is more than the 40 that are left of them.
      line("dear", 30, 60_000, 2, 100_000),
      line("quiet", 5, 1_000, 0, 0),
    ]);
    expect([...found].map(([place, { verdict }]) => [place, verdict])).toEqual([
      ...[
        ["good", "harvest"],
        ["once", "single"],
        ["dear", "open"],
        ["quiet", "open"],
      ],
    ]);
    expect(found.get("good")).toMatchObject({ what: "term", acos: 8_000 / 150_000, ceiling: 0.4 });
    expect(found.get("quiet")).toMatchObject({ acos: null });
    // Sales a click: 50,000 / 50 = 1,000 mills, of which 40 % × the house's share of new orders; a month is thirty of its ten days.
    const { aMonth, factor } = found.get("good")!;
    expect(factor).toBeGreaterThan(1);
    const left = ((1_000 * 0.4 * PRESET_RULES.newShare) / 100) * factor;
    expect(aMonth).toBeCloseTo((40 * left - 8_000) * 3, 6);
  });

  it("are judged with more orders where the house rule asks for them", () => {
    const rules = { ...PRESET_RULES, harvestOrders: 4 };
    expect(judge([line("good", 40, 8_000, 3, 150_000)], { rules }).get("good")!.verdict).toBe("single");
  });

  it("only cost where so few orders would be a rare accident; a page of one's own never does", () => {
    const costly = [line("gloves pictures", 900, 200_000, 0, 0), line("A", 900, 200_000, 0, 0)];
    const found = judge(costly);
    expect([found.get("gloves pictures")!.verdict, found.get("A")!.verdict]).toEqual(["waste", "open"]);
  });

  it("are proposed once: not what is used, waits, is kept out, decided against or used elsewhere, but again what was retired", () => {
    const sold = [line("good", 40, 8_000, 3, 150_000)];
    const verdicts = (["in use", "waiting", "paused", "blocked", "dismissed", "elsewhere", "retired"] as const).map(
      (state) => judge(sold, {}, [["good", state]]).get("good")!.verdict,
    );
    expect(verdicts).toEqual([...Array<string>(6).fill("open"), "harvest"]);
  });

  it("of which nobody knows whether they are a term or a page are left to who knows", () => {
    const found = judge([line("X7K20PQ4", 40, 8_000, 3, 150_000)], { isListing: () => null });
    expect(found.get("X7K20PQ4")).toMatchObject({ what: null, verdict: "open" });
  });
});
