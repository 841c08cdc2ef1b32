import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Ad } from "../account/records/ad";
import { AD_EFFECT_RANGE, AdReader } from "./ad-reading";
import { MIDDLING, natureOf } from "./nature";

const ad = (headlines: string[], descriptions: string[] = ["Order online."], key = headlines.join()): Ad => ({
  ...{ type: "ad", key, adGroup: "g", name: "Ad", status: "on", headlines, descriptions },
});
const effect = (one: Ad | null, query = "oak rake", price = 12_900, others: Ad[] = []) =>
  new AdReader(MIDDLING, [...(one ? [one] : []), ...others]).effect(
    one ? [one] : [],
    { no: 0, title: "Thornlea rake with a handle that never ends anywhere", price },
    query,
  );

describe("a text ad in the market", () => {
  it("is clicked by the words it shares with the query and the choice it gives, as worked out by hand", () => {
    // Both words, two of six headlines and one of three descriptions: 0.5 × (1 − 0.7) + 0.3 × ((1/3 + 1/3)/2 − 1).
    expect(effect(ad(["Oak rakes", "Made to last"])).clicks).toBeCloseTo(Math.exp(0.5 * 0.3 + 0.3 * (1 / 3 - 1)), 10);
    expect(effect(ad(["Elm hoes", "Made to last"])).clicks).toBeCloseTo(Math.exp(0.5 * -0.7 + 0.3 * (1 / 3 - 1)), 10);
    expect(effect(ad(["Oak rakes", "Made to last"])).orders).toBe(1);
  });

  it("sells better where the price is true, worse where it is not, and is not blamed for where prices begin", () => {
    const orders = (line: string) => effect(ad(["Oak rakes", line])).orders;
    expect(orders("Now €12.90")).toBeCloseTo(Math.exp(0.1), 10);
    expect(orders("Now €9.90")).toBeCloseTo(Math.exp(-0.35), 10);
    expect(orders("From €9.90")).toBe(1);
    expect([orders("Only 3 left"), orders("Only 45 left")].map((of) => of > 1)).toEqual([true, false]);
  });

  it("is clicked less the more ad groups say the same, and less than a whole ad where the channel makes it of a title", () => {
    const own = ad(["Oak rakes", "Made to last"]);
    const copies = Array.from({ length: 9 }, (_, i) => ad(["Oak rakes", "Made to last"], undefined, `copy ${i}`));
    expect(effect(own, "oak rake", 12_900, copies).clicks / effect(own).clicks).toBeCloseTo(Math.exp(-0.08), 10);
    expect(effect(null, "thornlea rake").clicks).toBeLessThan(
      effect(ad(["Thornlea rake", "Oak"]), "thornlea rake").clicks,
    );
  });

  it("never moves anything by more than its range, in any world (property)", () => {
    const line = fc.constantFrom("Oak rakes", "Save 50 %", "Now €1", "Only 2 left", "Only 90 left", "rake…", "Elm");
    fc.assert(
      fc.property(fc.array(line, { minLength: 2, maxLength: 9 }), fc.string(), fc.string(), (lines, seed, query) => {
        const one = ad(lines.slice(1), lines.slice(0, 1), "k");
        const made = new AdReader(natureOf(seed), [one]).effect([one], { no: 0, title: "", price: 5000 }, query);
        for (const of of [made.clicks, made.orders]) {
          expect(of).toBeGreaterThanOrEqual(AD_EFFECT_RANGE.least);
          expect(of).toBeLessThanOrEqual(AD_EFFECT_RANGE.most);
        }
      }),
    );
  });
});
