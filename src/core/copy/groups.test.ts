import { describe, expect, it } from "vitest";
import { numberColumn, textColumn, type Columns } from "../kit/columns";
import { field, text } from "../parts/part";
import { keywordDesignSchema, type KeywordDesign } from "./copy-plan";
import { apartNegatives, makeKeywords } from "./keywords";
import { groupsOf } from "./testing";
import { TitleWords } from "./title-keywords";
import { CopyValues } from "./values";

/** Three hoses of two brands, one of them sold out, and a single rake. */
const SHOP: Columns = {
  length: 5,
  columns: {
    title: textColumn([
      "Sunhatch Spiral Hose 15 m",
      "Sunhatch Flat Hose 20 m",
      "Pelldew Spiral Hose 50 m",
      "Pelldew Flat Hose",
      "Oak Rake",
    ]),
    brand: textColumn(["Sunhatch", "Sunhatch", "Pelldew", "Pelldew", "Thornlea"]),
    category: textColumn(["Water > Hoses", "Water > Hoses", "Water > Hoses", "Water > Hoses", "Tools > Rakes"]),
    price: numberColumn([20_000, 30_000, 50_000, 5_000, 12_900]),
    salePrice: numberColumn([15_000, null, 30_000, 1_000, null]),
    stock: numberColumn([4, 6, 10, 0, 2]),
  },
};
const units = groupsOf([4, 1], [3]);
const values = new CopyValues(units, SHOP, { currency: "EUR", language: "en", wideCountTwice: true });
const of = (name: string) => [0, 1].map((unit) => values.valueOf(unit, name));

describe("values of a group", () => {
  it("count what can be bought alone, by hand", () => {
    expect(of("copy:items")).toEqual(["3", "1"]);
    expect(of("copy:lowest-price")).toEqual(["€15.00", "€12.90"]);
    // 5 of 20 and 20 of 50 are off: 25 % and 40 %; a single item has no largest.
    expect(of("copy:largest-off")).toEqual(["€20.00", ""]);
    expect(of("copy:largest-share-off")).toEqual(["40", ""]);
    expect(of("copy:stock")).toEqual(["20", "2"]);
  });

  it("say of several items only what all of them share", () => {
    expect([of("copy:kind"), of("brand"), of("copy:price"), of("title")]).toEqual([
      ["Hoses", "Rakes"],
      ["", "Thornlea"],
      ["", "€12.90"],
      ["", "Oak Rake"],
    ]);
    expect(of("copy:brands")).toEqual(["Sunhatch, Pelldew", ""]);
    expect(of("copy:styles")[1]).toBe("");
  });

  it("leave open what is not known: no stock where one has none told", () => {
    const shop = { ...SHOP, columns: { ...SHOP.columns, stock: numberColumn([4, null, 10, 0, 2]) } };
    const open = new CopyValues(units, shop, { currency: "EUR", language: "en", wideCountTwice: true });
    expect([open.valueOf(0, "copy:stock"), open.valueOf(1, "copy:stock")]).toEqual(["", "2"]);
  });
});

const design = (change: Partial<KeywordDesign> = {}): KeywordDesign =>
  keywordDesignSchema.parse({
    ...{ patterns: [[field("brand"), text(" "), field("copy:kind")], [field("copy:kind")]], fromTitles: false },
    ...{ titleWords: { least: 2, most: 3 }, buyWords: ["buy"], never: [], most: 10, keeper: "sales", apart: true },
    matches: [
      { match: "exact", step: 0 },
      { match: "phrase", step: -0.2 },
    ],
    ...change,
  });
const made = (
  change: Partial<KeywordDesign> = {},
  searches: (text: string) => number | null = () => null,
  claim = [1, 2],
) => makeKeywords(design(change), units, values, SHOP, { language: "en", searches, claim });
const texts = (result: ReturnType<typeof made>) => result.keywords.map((list) => list.map((one) => one.text));

describe("keywords", () => {
  it("come of patterns, each also as buyers say it; a pattern with a gap gives none", () => {
    const result = made();
    expect(texts(result)).toEqual([
      ["hoses", "buy hoses"],
      ["thornlea rakes", "buy thornlea rakes", "rakes", "buy rakes"],
    ]);
    expect(result.dropped.gap).toBe(1);
  });

  it("come of titles shortened to what people search for, words of the category kept", () => {
    const words = new TitleWords(
      SHOP.columns["title"] as never,
      (SHOP.columns["category"] as { codes: Uint32Array }).codes,
    );
    // Numbers go first, then what no other title has or all have; "m" stands in three of four.
    expect(words.shortened(0, new Set(["hose"]), { least: 2, most: 4 })).toEqual([
      "sunhatch spiral hose m",
      "sunhatch spiral hose",
      "sunhatch hose",
    ]);
    const heard = new Set(["spiral hose", "sunhatch hose"]);
    const result = made({ patterns: [], fromTitles: true, buyWords: [] }, (one) => (heard.has(one) ? 90 : 0));
    expect(texts(result)[0]).toEqual(["sunhatch hose"]);
    expect(result.keywords[0]![0]!.searches).toBe(90);
  });

  it("leave out what nobody searches for, what is not to be used, and more than asked for", () => {
    expect(texts(made({}, (one) => (one === "hoses" ? 500 : 0)))).toEqual([["hoses"], []]);
    const never = made({ never: ["thornlea"] });
    expect([texts(never)[1], never.dropped.never]).toEqual([["rakes", "buy rakes"], 2]);
    expect(made({ most: 1 }).dropped.most).toBe(4);
  });

  it("belong to one ad group, the one with the larger claim, the first among alike", () => {
    const pattern = { patterns: [[text("garden things")]], buyWords: [] };
    expect(texts(made(pattern))).toEqual([[], ["garden things"]]);
    expect(texts(made(pattern, () => null, [3, 3]))).toEqual([["garden things"], []]);
    expect(made(pattern).dropped.taken).toBe(1);
  });

  it("keep an ad group out of what another has exactly and its own wider ones would take", () => {
    const keyword = (one: string) => ({ text: one, origin: "pattern" as const, searches: null });
    const lists = [[keyword("hose")], [keyword("spiral hose"), keyword("rake")]];
    expect(apartNegatives(lists, design())).toEqual([["spiral hose"], []]);
    expect(apartNegatives(lists, design({ matches: [{ match: "exact", step: 0 }] }))).toEqual([[], []]);
  });
});
