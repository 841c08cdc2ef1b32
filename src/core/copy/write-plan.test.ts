import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { CHANNEL_LIMITS } from "../channel/limits";
import { numberColumn, textColumn, type Columns } from "../kit/columns";
import { textLength } from "../kit/text-length";
import { field, text } from "../parts/part";
import { awkwardIn } from "./awkward";
import { copyPlanSchema, type CopyPlan } from "./copy-plan";
import { FaultFinder, hasOddSigns, isShouting, namesOtherPrice } from "./faults";
import { JOINING } from "./languages";
import { groupsOf, singleItems } from "./testing";
import { usualPlan } from "./usual-plan";
import { CopyValues } from "./values";
import { lacking } from "./write-ad";
import { AD_STATES, approval, CopyWriter, writePlan, type Approved } from "./write-plan";

const usual = usualPlan({
  ...{ key: "u", name: "Usual", language: "en", has: () => true, totalBudget: 1000, startingBid: 100, goal: null },
});
const settings = { currency: "EUR", language: "en" as const, wideCountTwice: true };

function writerOf(plan: CopyPlan, shop: Columns, units = singleItems(shop.length), approved: Approved = new Set()) {
  const values = new CopyValues(units, shop, settings);
  return new CopyWriter(
    plan,
    units,
    values,
    plan.ads.map(() => null),
    approved,
  );
}

/** Titles as messy feeds have them. */
const MESSY = [
  ...[
    "x".repeat(2000),
    "🌱🌱🌱 Seed kit 👩‍🌾",
    "مجرفة الحديقة",
    "!!! ??? ---",
    "",
    "園芸用スコップ 特大",
    "<b>Rake</b> &amp; hoe",
  ],
  ...[
    "SUPER MEGA SALE RAKE",
    "Rake rake for and with",
    "Only €3 today",
    "e\u0301lan ".repeat(40),
    "Rechen für den Garten mit dem Stiel",
  ],
];
const shopOf = (titles: readonly string[]): Columns => ({
  length: titles.length,
  columns: {
    title: textColumn(titles),
    brand: textColumn(titles.map((_, i) => (i % 3 === 0 ? "" : `Maker${i % 2}`))),
    category: textColumn(titles.map((_, i) => (i % 4 === 3 ? "" : `Tools > Kind ${i % 2}`))),
    price: numberColumn(titles.map((_, i) => (i % 5 === 4 ? null : 10_000 + i * 990))),
    salePrice: numberColumn(titles.map((_, i) => (i % 2 ? 9_000 : null))),
    stock: numberColumn(titles.map((_, i) => (i % 3 ? i : null))),
    description: textColumn(titles.map((title) => `About ${title}`)),
  },
});

describe("a plan that is written", () => {
  it("sends only lines that fit, read well and are let pass, however messy the feed (property)", () => {
    const title = fc.oneof(fc.constantFrom(...MESSY), fc.string({ unit: "grapheme", maxLength: 60 }));
    fc.assert(
      fc.property(fc.array(title, { minLength: 1, maxLength: 12 }), (titles) => {
        const writer = writerOf(usual, shopOf(titles));
        const finder = new FaultFinder(usual);
        for (let unit = 0; unit < titles.length; unit++) {
          const { lines, state } = writer.adOf(unit, 1);
          expect(state === "whole" || state === "shorter").toBe(lines.length > 0);
          if (lines.length > 0) expect(lacking(lines)).toEqual([]);
          for (const { list, text: line } of lines) {
            expect(textLength(line, true)).toBeLessThanOrEqual(CHANNEL_LIMITS.textAd[list].length);
            expect([awkwardIn(line, JOINING.en), finder.inText(line).causes]).toEqual([null, []]);
            expect(line).not.toMatch(/<|  |^\s|\s$/);
          }
          expect(new Set(lines.map((line) => `${line.list} ${line.text}`)).size).toBe(lines.length);
        }
      }),
      { numRuns: 60 },
    );
  });

  it("counts what single looks say (slow obvious version)", () => {
    const shop = shopOf([...MESSY, ...MESSY.toReversed()]);
    const writer = writerOf(usual, shop);
    const written = writePlan(usual, writer);
    const looks = Array.from({ length: shop.length }, (_, unit) => writer.adOf(unit, 1));
    expect(Array.from(written.state, (state) => AD_STATES[state])).toEqual(looks.map(({ state }) => state));
    expect(Array.from(written.sent)).toEqual(looks.map(({ lines }) => lines.length));
    const held = looks.flatMap((look) => look.held.map(({ cause, text: line }) => `${cause} ${line}`));
    expect(new Set(written.held.map(({ cause, text: line }) => `${cause} ${line}`))).toEqual(new Set(held));
    for (const { tried, rungs, ranOn, cut, gap, long, awkward } of written.lines)
      expect(rungs.reduce((sum, count) => sum + count, 0) + ranOn + cut + gap + long + awkward).toBe(tried);
  });

  it("takes the first design of a place that is meant and comes out whole; each place is an ad", () => {
    const line = (list: "headlines" | "descriptions", name: string) => ({ list, rungs: [[field(name)]] });
    const ad = (key: string, place: number, ...fields: string[]) => ({
      ...{ key, name: key, place },
      lines: [
        ...fields.map((name) => line("headlines", name)),
        { list: "descriptions", rungs: [[text("Order online.")]] },
      ],
    });
    const plan = copyPlanSchema.parse({
      ...usual,
      ads: [
        ad("dear", 1, "title", "brand"),
        ad("plain", 1, "title", "copy:price"),
        ad("other", 2, "copy:price", "brand"),
      ],
    });
    const shop = shopOf(["Oak Rake", "Elm Rake", "Ash Rake"]);
    const units = singleItems(3);
    const meets = [Uint8Array.of(0, 1, 1), null, null];
    const writer = new CopyWriter(plan, units, new CopyValues(units, shop, settings), meets, new Set());
    const chosen = (place: number) => [0, 1, 2].map((unit) => plan.ads[writer.adOf(unit, place).design]?.key);
    // The first has no brand and is not meant by the first design.
    expect(chosen(1)).toEqual(["plain", "dear", "dear"]);
    expect([0, 1, 2].map((unit) => writer.adOf(unit, 2).state)).toEqual(["none", "whole", "whole"]);
  });

  it("holds back the same ad on too many ad groups until somebody lets it pass", () => {
    const shop = shopOf(["Oak Rake", "Oak Rake", "Oak Rake"].map((name) => name));
    const alike = { ...shop, columns: { title: shop.columns["title"]!, price: numberColumn([5000, 5000, 5000]) } };
    const plan = copyPlanSchema.parse({ ...usual, sameOnMost: 2 });
    const written = writePlan(plan, writerOf(plan, alike));
    expect(written.held.map(({ cause, units }) => [cause, units.length])).toEqual([["same", 3]]);
    expect(Array.from(written.sent)).toEqual([0, 0, 0]);
    const passed = new Set([approval("same", written.held[0]!.text)]);
    expect(Array.from(writePlan(plan, writerOf(plan, alike, undefined, passed)).sent).every((count) => count > 0)).toBe(
      true,
    );
  });

  it("writes nothing for what can't be bought", () => {
    const units = groupsOf([2, 1], [0, 1]);
    const writer = writerOf(usual, shopOf(["Oak Rake", "Elm Rake", "Ash Rake"]), units);
    expect([writer.adOf(0, 1).why, writer.adOf(1, 1).state]).toEqual(["sold out", "whole"]);
  });
});

describe("what is held back", () => {
  it("is shouting, odd signs, and amounts that are not the item's, by hand", () => {
    expect(["SUPER MEGA rake", "STAINLESS rake", "USB lamp", "Oak Rake", "PVC hose"].map(isShouting)).toEqual([
      true,
      true,
      false,
      false,
      false,
    ]);
    expect(["Rake ★", "Now!!!", "Rake 🌱", "50 % off – now", "Ø 12 mm"].map(hasOddSigns)).toEqual([
      true,
      true,
      true,
      false,
      false,
    ]);
    expect(namesOtherPrice([12_900], [12_900, 15_000])).toBe(false);
    expect(namesOtherPrice([12_000], [12_900])).toBe(false);
    expect(namesOtherPrice([9_900], [12_900, 15_000, 2_100])).toBe(true);
    expect(namesOtherPrice([Number.NaN], [12_900])).toBe(true);
  });
});
