import { describe, expect, it } from "vitest";
import { Account, type Structure } from "../account/account";
import { assetsKey, type Assets } from "../account/records/assets";
import { textColumn } from "../kit/columns";
import { simulateDay } from "./day";
import { firstState } from "./day-types";
import { planAccount } from "./running-account";
import { leastAssets, testCampaign, testShop } from "./test-shop";
import { buildWorld } from "./world";

const ids = Array.from({ length: 24 }, (_, i) => `I${i}`);
const plain = testShop();
const shop = {
  ...plain,
  columns: { ...plain.columns, image: textColumn(ids.map((_, i) => (i % 4 === 0 ? "" : `/${i}.png`))) },
};
const world = buildWorld(shop, "w");
const group = "g:c";
const withAssets = (change: Partial<Assets> | null): Structure => {
  const structure = testCampaign("c", { kind: "asset" }, ids, 500);
  const key = assetsKey(group);
  if (change === null) delete structure[key];
  else structure[key] = { ...leastAssets(group), ...change };
  return structure;
};
const run = (structure: Structure) => {
  const plan = planAccount(world, Account.fromStructure(structure), shop);
  return simulateDay(world, plan, 20_500, firstState(), { noise: false, seed: "s" }).facts;
};
const sum = (facts: ReturnType<typeof run>, key: "clicks" | "impressions") =>
  facts.reduce((total, fact) => total + fact[key], 0);

describe("an asset group on the market", () => {
  it("waits without its assets, and with too few", () => {
    expect(run(withAssets(null))).toEqual([]);
    expect(run(withAssets({ headlines: [] }))).toEqual([]);
    expect(sum(run(withAssets({})), "impressions")).toBeGreaterThan(0);
  });

  it("shows only items for which an ad can be put together", () => {
    const shown = new Set(
      run(withAssets({ pictures: [{ from: "field", field: "image" }] })).map(({ itemNo }) => itemNo - 1),
    );
    expect(shown.size).toBeGreaterThan(0);
    for (const row of shown) expect(row % 4).not.toBe(0);
  });

  it("is clicked more where there is more to choose from, and seen as often", () => {
    const line = (words: string) => [{ kind: "text" as const, text: words }];
    const least = run(withAssets({}));
    const rich = run(withAssets({ headlines: Array.from({ length: 8 }, (_, i) => line(`Made to last, ${i}`)) }));
    expect(sum(rich, "impressions")).toBeCloseTo(sum(least, "impressions"), 6);
    expect(sum(rich, "clicks")).toBeGreaterThan(1.03 * sum(least, "clicks"));
  });

  it("leaves own-brand terms to others where it says so, and loses no other place by it", () => {
    const ownBrand = new Set(
      world.surfaces.filter(({ queryClass }) => queryClass === "own-brand").map(({ label }) => label),
    );
    const [all, modest] = [run(withAssets({})), run(withAssets({ ownBrand: false }))];
    expect(all.some(({ term }) => ownBrand.has(term))).toBe(true);
    expect(modest.some(({ term }) => ownBrand.has(term))).toBe(false);
    const others = all.filter(({ term }) => !ownBrand.has(term));
    expect(sum(modest, "impressions")).toBeCloseTo(sum(others, "impressions"), 6);
  });
});
