import { describe, expect, it } from "vitest";
import { paidPrices } from "../catalogue/margins";
import { asText, textColumn } from "../kit/columns";
import { ACCOUNT_WAYS, seeWorld, type SeenWorld } from "../market/seen-world";
import type { RowSums } from "../results/window-sums";
import { pooledReturn } from "./evidence";
import { itemEvidence } from "./item-evidence";

/** The evidence of some rows of a world, which may name a row more than once. */
function evidenceOf({ shop, sums, seenClicks }: SeenWorld, rows: number[]) {
  const pick = (values: Float64Array) => Float64Array.from(rows, (row) => values[row]!);
  const text = (name: string) => {
    const column = asText(shop.columns[name]!);
    return rows.map((row) => column.values[column.codes[row]!]!);
  };
  const picked = Object.fromEntries(Object.entries(sums).map(([key, values]) => [key, pick(values)])) as RowSums;
  return itemEvidence(picked, {
    ...{ family: textColumn(text("family")), category: textColumn(text("category")), paid: pick(paidPrices(shop)) },
    soldOut: Uint8Array.from(text("availability"), (value) => (value === "out of stock" ? 1 : 0)),
    ...{ newness: new Float64Array(rows.length), seenClicks: pick(seenClicks) },
  });
}

describe("what is said of items that nobody clicked", () => {
  it.each(ACCOUNT_WAYS)("moves by less than a tenth when there are twice as many of them (%s account)", (way) => {
    const world = seeWorld(300, 20, "support", undefined, way);
    const all = Array.from(world.seenClicks.keys());
    const unclicked = all.filter((row) => world.sums.clicks[row] === 0 && world.sums.impressions[row]! > 0);
    expect(unclicked.length).toBeGreaterThan(30);
    const once = evidenceOf(world, all);
    const twice = evidenceOf(world, [...all, ...unclicked]);
    for (const row of unclicked) {
      expect(Math.abs(Math.log(pooledReturn(twice, row)!.mean / pooledReturn(once, row)!.mean))).toBeLessThan(0.1);
    }
  });

  it("is less sure than what is said of their like with clicks", () => {
    const world = seeWorld(300, 20, "support", undefined, "flat");
    const evidence = evidenceOf(world, Array.from(world.seenClicks.keys()));
    const mean = (of: (clicks: number) => boolean) => {
      const rows = [...evidence.variance.keys()].filter((row) => of(world.sums.clicks[row]!));
      return rows.reduce((sum, row) => sum + evidence.variance[row]!, 0) / rows.length;
    };
    expect(mean((clicks) => clicks === 0)).toBeGreaterThan(mean((clicks) => clicks > 20));
  });
});
