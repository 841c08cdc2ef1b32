import { describe, expect, it } from "vitest";
import { makeEdit } from "../account/acts";
import { testCampaign } from "../market/test-shop";
import { editOfMoves } from "../moves/accept";
import { testGround } from "../moves/ground.testing";
import type { PlaceLine } from "../moves/ground";
import { splitBrands } from "./brand-mix";

const line = (target: string, clicks: number, cost: number, revenue: number): PlaceLine => ({
  ...{ place: target, target, clicks, cost, orders: 1, revenue, seenClicks: clicks },
  ...{ impressions: 100 * clicks, campaign: "k", adGroup: "g:k" },
});

function ground(texts: [string, string][], lines: PlaceLine[]) {
  const structure = testCampaign("k", { name: "Pest control", kind: "keyword", dailyBudget: 12_000 }, ["A"], 400, [
    ...texts.map(([text, match]) => ({ type: "keyword", text, match })),
  ]);
  return testGround([{ id: "A", clicks: 30, cost: 9_000 }], structure, {
    places: lines,
    isOwnBrand: (text) => /veldine|ottersby/.test(text),
  });
}

describe("own brands beside generic keywords", () => {
  const mixed: [string, string][] = [
    ["veldine pest control", "phrase"],
    ["ottersby traps", "exact"],
    ["pest control", "broad"],
  ];
  const lines = [line("t:k/0", 18, 4_000, 40_000), line("t:k/2", 40, 12_000, 6_000)];

  it("go into a campaign of their own for their part of the money, and are kept out of the other", () => {
    const one = ground(mixed, lines);
    const [move] = splitBrands(one);
    expect(move!.why).toContain("Own brands brought €40.00 for €4.00, the others €6.00 for €12.00");
    const made = makeEdit(one.account, editOfMoves([move!])!, () => null, "EUR");
    if (!made.ok) throw new Error(made.error.message);
    const after = one.account.with(made.value.diff());
    const own = after.all("campaign").find(({ name }) => name === "Pest control · own brand")!;
    // A quarter of what was spent was theirs.
    expect([own.dailyBudget, after.find("campaign", "k")!.dailyBudget]).toEqual([3_000, 9_000]);
    const campaignOf = (text: string) => {
      const keyword = after.all("keyword").find((found) => found.text === text)!;
      return after.find("adGroup", keyword.adGroup)!.campaign;
    };
    expect([campaignOf("veldine pest control"), campaignOf("ottersby traps"), campaignOf("pest control")]).toEqual([
      ...[own.key, own.key, "k"],
    ]);
    expect(
      after
        .all("negative")
        .map(({ scope, match, value }) => `${scope} ${match} ${value}`)
        .sort(),
    ).toEqual([...["k phrase ottersby", "k phrase veldine"]]);
  });

  it("are left where they stand alone, where nothing generic is beside them, or hardly anybody clicked", () => {
    expect(splitBrands(ground(mixed.slice(2), lines))).toEqual([]);
    expect(splitBrands(ground(mixed.slice(0, 2), lines))).toEqual([]);
    expect(splitBrands(ground(mixed, [line("t:k/0", 5, 900, 0)]))).toEqual([]);
  });
});
