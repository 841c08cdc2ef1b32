import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { AdLine } from "../account/records/ad-lines";
import { numberColumn, textColumn, type Columns } from "../kit/columns";
import { textLength } from "../kit/text-length";
import { fillParts } from "../parts/fill";
import { field, text } from "../parts/part";
import { awkwardIn, hasDoubledWord, hasTwoSigns, isDangling } from "./awkward";
import { JOINING, otherLanguage, type Language } from "./languages";
import { climb, compileLine, cutAtWord, OUTCOMES, type Ladder } from "./line";
import { singleItems } from "./testing";
import { CopyValues } from "./values";

const SHOP: Columns = {
  length: 4,
  columns: {
    title: textColumn([
      "Oak Rake",
      "Steel Spade with a handle that is far too long for anybody",
      "",
      "Rose &amp; <b>Thorn</b> gloves",
    ]),
    brand: textColumn(["Thornlea", "Thornlea", "", "Rose"]),
    category: textColumn(["Tools > Rakes", "Tools > Spades", "", "Wear > Gloves"]),
    price: numberColumn([12_900, 20_000, 5_000, 9_990]),
    salePrice: numberColumn([null, 15_000, null, null]),
    stock: numberColumn([3, 45, null, 0]),
  },
};
const values = (language: Language = "en", shop = SHOP) =>
  new CopyValues(singleItems(shop.length), shop, { currency: "EUR", language, wideCountTwice: true });

const ladder = (rungs: AdLine[], change: Partial<Ladder> = {}, of = values()): Ladder => ({
  ...{ list: "headlines", at: 0, always: false, runsOn: false, cut: false, length: 20, wideCountTwice: true },
  ...{ joining: JOINING[of.settings.language], rungs: rungs.map((rung) => compileLine(rung, of)) },
  ...change,
});
const said = (rungs: AdLine[], unit: number, change: Partial<Ladder> = {}, of = values()) => {
  const { outcome, lines } = climb(ladder(rungs, change, of), unit);
  return [outcome, ...lines.map((line) => line.text)];
};

describe("a fit ladder", () => {
  const rungs: AdLine[] = [[field("title")], [field("brand"), text(" "), field("copy:kind")], [field("copy:kind")]];

  it("stands on the first rung that is complete and fits", () => {
    expect([0, 1, 3].map((unit) => said(rungs, unit))).toEqual([
      [0, "Oak Rake"],
      [1, "Thornlea Spades"],
      [0, "Rose & Thorn gloves"],
    ]);
    // Nothing is known of the third: no line, and the first field that was wanting is named.
    expect(climb(ladder(rungs), 2)).toMatchObject({ outcome: OUTCOMES.gap, lines: [], gap: "title" });
  });

  it("runs on into the next line at a word, else is cut at one, never ending in the air", () => {
    const title: AdLine[] = [[field("title")]];
    expect(said(title, 1, { runsOn: true, length: 40 })).toEqual([
      OUTCOMES.ranOn,
      "Steel Spade with a handle that is far",
      "too long for anybody",
    ]);
    expect(said(title, 1, { cut: true, length: 18 })).toEqual([OUTCOMES.cut, "Steel Spade"]);
    expect(climb(ladder(title), 1)).toMatchObject({ outcome: OUTCOMES.long, over: 38, rung: 0 });
  });

  it("says what is left and what is off only where it is true, in the form of its language", () => {
    const left: AdLine[] = [[text("Only "), field("copy:stock", { do: "within", from: 1, to: 5 }), text(" left")]];
    expect([0, 1, 2, 3].map((unit) => said(left, unit)[1])).toEqual(["Only 3 left", undefined, undefined, undefined]);
    const off: AdLine[] = [[field("copy:share-off"), text("% off, now "), field("copy:price")], [field("copy:price")]];
    expect([0, 1].map((unit) => said(off, unit)[1])).toEqual(["€12.90", "25% off, now €15.00"]);
    // By hand, as German and French write amounts.
    expect(said([[text("Ab "), field("copy:price")]], 1, {}, values("de"))[1]).toBe("Ab 15,00 €");
    expect(said([[text("Dès "), field("copy:price")]], 1, {}, values("fr"))[1]).toBe("Dès 15,00 €");
  });

  it("passes over what would read badly", () => {
    expect(said([[field("brand"), text(" "), field("title")], [field("brand")]], 3)).toEqual([1, "Rose"]);
    expect(climb(ladder([[field("copy:price"), text(" €")]]), 0)).toMatchObject({
      outcome: OUTCOMES.awkward,
      awkward: "two-prices",
    });
  });

  it("is the first that fits, by a slow obvious version (property)", () => {
    const parts = fc.oneof(
      fc.constantFrom("title", "brand", "copy:kind", "copy:price", "gone").map((name) => field(name)),
      fc.constantFrom(" ", " – ", "Now ", "for", " and", "the ", "€").map((words) => text(words)),
    );
    const lines = fc.array(fc.array(parts, { minLength: 1, maxLength: 5 }), { minLength: 1, maxLength: 4 });
    const own = values();
    fc.assert(
      fc.property(lines, fc.integer({ min: 4, max: 60 }), fc.integer({ min: 0, max: 3 }), (rungs, length, unit) => {
        const written = rungs.map((rung) => fillParts(rung, (name) => own.valueOf(unit, name)));
        const fits = (i: number) => {
          const { text: line, empty } = written[i]!;
          const plain = line.replace(/\s+/g, " ");
          const isWhole = empty.length === 0 && plain !== "" && textLength(plain, true) <= length;
          return isWhole && awkwardIn(plain, JOINING.en) === null;
        };
        const first = rungs.findIndex((_, i) => fits(i));
        const { outcome, lines: made } = climb(ladder(rungs, { length }), unit);
        if (first < 0) expect([outcome >= OUTCOMES.gap, made]).toEqual([true, []]);
        else expect([outcome, made[0]!.text]).toEqual([first, written[first]!.text.replace(/\s+/g, " ")]);
      }),
    );
  });

  it("leaves nothing too long or in the air, however it is cut (property)", () => {
    const words = fc.array(fc.constantFrom("and", "Oak", "with", "Rechen", "für", "園芸", "👩‍🌾", "of", "x&", "(new"), {
      minLength: 1,
      maxLength: 14,
    });
    fc.assert(
      fc.property(words, fc.integer({ min: 1, max: 40 }), (list, length) => {
        const whole = list.join(" ");
        const cut = cutAtWord(whole, { length, joining: JOINING.en, wideCountTwice: true });
        expect(textLength(cut, true)).toBeLessThanOrEqual(length);
        expect(whole.startsWith(cut)).toBe(true);
        if (cut !== "") expect(isDangling(cut, JOINING.en)).toBe(false);
      }),
    );
  });
});

describe("reading badly", () => {
  it("is a word twice, a joining word at the end, two signs at one price", () => {
    expect(["the the rake", "Oak oak rake", "2 2 rakes", "oaken oak", "rake, rake"].map(hasDoubledWord)).toEqual([
      true,
      true,
      false,
      false,
      false,
    ]);
    const ends = ["Rakes and", "Rakes with.", "Rakes & ", "Rakes", "and", "50 %", "Rakes (new)"];
    expect(ends.map((line) => isDangling(line, JOINING.en))).toEqual([true, true, true, false, false, false, false]);
    expect(isDangling("Rechen für", JOINING.de)).toBe(true);
    expect(["€12 €", "EUR 12 €", "€12, €15", "12 € or 15 €", "no price"].map(hasTwoSigns)).toEqual([
      true,
      true,
      false,
      false,
      false,
    ]);
  });

  it("is another language where its small words say so", () => {
    expect(otherLanguage("der rechen für den garten".split(" "), "en")).toBe("de");
    expect(otherLanguage("the rake for the garden".split(" "), "en")).toBeNull();
    expect(otherLanguage("the rake for the garden".split(" "), "de")).toBe("en");
    expect(otherLanguage(["rechen"], "en")).toBeNull();
  });
});
