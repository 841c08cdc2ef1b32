import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { cellText, numberColumn, textColumn, type Columns } from "../kit/columns";
import { mills } from "../kit/money";
import { noSums } from "../kit/metrics";
import { repeatedPlaces } from "../kit/repeats";
import type { DerivedField } from "./derive/derived-field";
import { field, text } from "../parts/part";
import { categoryLevels, detectSeparator, unpartedSign } from "../kit/categories";
import { categoryTree } from "./category-tree";
import { proposeFamilies, titleWithoutVariation } from "./families";
import { changeWords, fieldBits, fieldsInBits, SOLD_OUT } from "./field-changes";
import { FINDING_CODES, findingBit, findingsIn, hasFinding } from "./findings/finding";
import { findFindings, foldId } from "./findings/find";
import { finishColumns } from "./finish";
import { workMargins } from "./margins";
import { NO_TAX } from "./margins";
import { detectDecimal } from "./price-judge";
import { followRenames, hasCheckDigit, mappingSchema, proposeMapping } from "./mapping";
import { readCount } from "./read-count";
import { rowHasher } from "./row-hash";

const table = (columns: Columns["columns"]): Columns => {
  const [first] = Object.values(columns);
  return { length: first!.kind === "text" ? first!.codes.length : first!.values.length, columns };
};

describe("margins", () => {
  it("give break-even return, worked by hand", () => {
    const { margin, breakEven } = workMargins(
      table({
        id: textColumn(["a", "b", "c", "d", "e"]),
        price: numberColumn([10_000, 10_000, 10_000, 10_000, 10_000]),
        salePrice: numberColumn([null, 8000, 12_000, null, null]),
        cost: numberColumn([6000, 6000, 5000, null, 11_000]),
        fee: numberColumn([null, null, 1000, 500, null]),
      }),
      new Map([["c", { cost: 4000, fee: null }]]),
    );
    // a: 4 of 10. b: sells at 8, so 2 of 8. c: the file's cost 4 and the feed's fee 1; its sale price is none. d: no cost.
    expect([...margin.values].map((value) => Math.round(value * 1000) / 1000)).toEqual([0.4, 0.25, 0.5, NaN, -0.1]);
    expect([...breakEven.values]).toEqual([2.5, 4, 2, NaN, Infinity]);
  });

  it("raise the goal of an item that would lose money at it", () => {});
});

describe("families", () => {
  it("take colour, size and measures out of a title", () => {
    expect(titleWithoutVariation("Thornlea Hose 15 m green", "green", "")).toEqual({
      base: "thornlea hose",
      variation: "green 15m",
    });
    expect(titleWithoutVariation("Bed 40 x 60 cm", "", "").variation).toBe("40x60cm");
  });

  it("are proposed where brand and title agree but for the variation, and nowhere else", () => {
    const { family, proposed } = proposeFamilies(
      table({
        title: textColumn([
          "Garden hose 15 m",
          "Garden hose 25 m",
          "Garden hose 15 m",
          "Leaf rake",
          "Leaf rake",
          "Grow light S",
          "Grow light L",
          "Own family XL",
        ]),
        brand: textColumn(["T", "T", "Other", "T", "T", "T", "T", "T"]),
        family: textColumn(["", "", "", "", "", "", "", "F1"]),
      }),
    );
    expect(Array.from({ length: 8 }, (_, row) => cellText(family, row))).toEqual([
      "~ t garden hose",
      "~ t garden hose",
      "",
      // Two rakes under one title are a repeat, not variants.
      "",
      "",
      "~ t grow light",
      "~ t grow light",
      "F1",
    ]);
    expect([...proposed]).toEqual([1, 1, 0, 0, 0, 1, 1, 0]);
  });
});

describe("category paths", () => {
  it("are parted by whatever sign the feed uses", () => {
    expect(categoryLevels(" A > B›C » D ")).toEqual(["A", "B", "C", "D"]);
    expect(categoryLevels("A > B | A > C")).toEqual(["A", "B"]);
    expect(categoryLevels("A | B")).toEqual(["A", "B"]);
    expect(categoryLevels("Hats/Caps > Wool")).toEqual(["Hats/Caps", "Wool"]);
    expect(categoryLevels("A / B", " / ")).toEqual(["A", "B"]);
    expect(categoryLevels("")).toEqual([]);
  });

  it("with weak signs are told from values that happen to hold them", () => {
    expect(detectSeparator(["Garden/Hoses", "Garden/Rakes", "Home/Lamps", "Home/Rugs"])).toBe("/");
    expect(detectSeparator(["Hats/Caps", "Shoes", "Bags", "Belts"])).toBeNull();
    expect(detectSeparator(["A > B/C", "A > D/E"])).toBeNull();
    expect(detectSeparator(["A::B", "A::C"])).toBe("::");
  });

  it("that may have levels nobody told of are asked about, and no others", () => {
    const paths = ["Garden/Hoses", "House/Lamps", "Pets/Food", "Shoes"];
    expect(detectSeparator(paths)).toBeNull();
    expect(unpartedSign(paths)).toEqual({ sign: "/", example: "Garden/Hoses" });
    expect(unpartedSign(["Garden/Hoses", "Shoes", "Belts"])).toBeNull();
    expect(unpartedSign(["Garden > Hoses", "House/Lamps", "Pets/Food"])).toBeNull();
    expect(unpartedSign(["A/B", "A/B", "A/B"])).toBeNull();
  });

  it("make a tree whose every level sums to its items", () => {
    const path = fc.array(fc.constantFrom("a", "b", "c"), { maxLength: 4 });
    fc.assert(
      fc.property(fc.array(path, { maxLength: 30 }), (paths) => {
        const columns = Object.fromEntries(
          [1, 2, 3, 4, 5].map((level) => [
            `category${level}`,
            textColumn(paths.map((steps) => steps[level - 1] ?? "")),
          ]),
        );
        const nodes = categoryTree({ length: paths.length, columns }, (row) => ({ ...noSums(), cost: mills(row + 1) }));
        for (const { path: own, items, deeper, sums } of nodes) {
          const rows = paths.flatMap((steps, row) =>
            own.length === 0
              ? steps.length === 0
                ? [row]
                : []
              : own.every((step, i) => steps[i] === step)
                ? [row]
                : [],
          );
          expect(items).toBe(rows.length);
          expect(sums.cost).toBe(rows.reduce((sum, row) => sum + row + 1, 0));
          if (own.length > 0) expect(deeper).toBe(rows.filter((row) => paths[row]!.length > own.length).length);
        }
        const tops = nodes.filter(({ path: own }) => own.length <= 1);
        expect(tops.reduce((sum, { items }) => sum + items, 0)).toBe(paths.length);
      }),
    );
  });
});

describe("findings", () => {
  it("keep every code apart in one number", () => {
    const codes = fc.subarray([...FINDING_CODES]);
    fc.assert(
      fc.property(codes, (some) => {
        const bits = some.reduce((sum, code) => sum + findingBit(code), 0);
        expect(findingsIn(bits)).toEqual(some);
        for (const code of FINDING_CODES) expect(hasFinding(bits, code)).toBe(some.includes(code));
      }),
    );
  });

  it("see prices out of their category's range, contradictions, and doubled words", () => {
    const many = (value: number) => Array.from({ length: 9 }, () => value);
    const { found, column } = findFindings(
      table({
        id: textColumn(Array.from({ length: 11 }, (_, i) => `i${i}`)),
        title: textColumn([
          ...Array.from({ length: 9 }, (_, i) => `Garden thing ${i}`),
          "Garden garden hose",
          "40 x 40 cm bed",
        ]),
        category: textColumn(Array.from({ length: 11 }, () => "A")),
        price: numberColumn([...many(10_000), 900_000, 150]),
        stock: numberColumn([0, 5, ...many(1)]),
        availability: textColumn(["in stock", "out of stock", ...Array.from({ length: 9 }, () => "in stock")]),
        margin: numberColumn(Array.from({ length: 11 }, () => 0.3)),
      }),
      new Uint8Array(0),
    );
    expect(found).toEqual({
      "price-outlier": { count: 2 },
      "stock-contradicts": { count: 2 },
      "title-doubled": { count: 1 },
    });
    expect(findingsIn(column.values[9]!)).toEqual(["price-outlier", "title-doubled"]);
  });

  it("find repeats as a map would", () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom("", "a", "b", "ab", "ba", "Aa", "BB"), { maxLength: 60 }), (texts) => {
        const slow = new Map<string, number[]>();
        texts.forEach((text, i) => text !== "" && slow.set(text, [...(slow.get(text) ?? []), i]));
        const wanted = [...slow.values()].filter((places) => places.length > 1).map(String);
        expect(
          repeatedPlaces(texts.length, (i) => texts[i]!)
            .map(String)
            .sort(),
        ).toEqual(wanted.sort());
      }),
    );
    expect(["0012", " 12", "12 ", "1 2"].map(foldId)).toEqual(["12", "12", "12", "12"]);
  });
});

describe("finishing", () => {
  const feed = table({
    id: textColumn(["1", "2"]),
    title: textColumn(["Garden hose", "Leaf rake"]),
    brand: textColumn(["THORNLEA", "thornlea"]),
    category: textColumn(["", ""]),
    category1: textColumn(["", ""]),
    price: numberColumn([5000, 6000]),
  });
  const rules = (name: string): DerivedField["rules"] => [
    {
      when: { match: "all" as const, of: [] },
      then: [
        {
          parts: [field(name), text("> X")],
          by: " ",
          steps: [],
        },
      ],
    },
  ];

  it("lets a stand-in count for everything that comes after, and leaves the feed's own in place", () => {
    const brand: DerivedField = {
      ...{ key: "b", name: "Brand", kind: "text", secondName: "", replaces: "brand" as const },
      rules: [
        {
          when: { match: "all" as const, of: [] },
          then: [
            {
              parts: [field("brand")],
              by: " ",
              steps: [{ do: "case" as const, to: "title" as const }],
            },
          ],
        },
      ],
    };
    const category: DerivedField = {
      ...brand,
      key: "c",
      name: "Category",
      replaces: "category" as const,
      rules: rules("brand"),
    };
    const made = finishColumns(feed, {
      derived: [category, brand],
      lists: [],
      costs: new Map(),
      proposedFamilies: false,
      tax: NO_TAX,
    });
    expect(made.aliases).toMatchObject({ brand: "derived:b", category: "derived:c", category2: "derived-category2" });
    expect(cellText(made.columns["derived:c"]!, 1)).toBe("Thornlea > X");
    expect(cellText(made.columns["derived-category1"]!, 0)).toBe("Thornlea");
    // Brought to one spelling, the brand is a finding no more.
    expect(made.findings["brand-spellings"]).toBeUndefined();
    expect(cellText(feed.columns["brand"]!, 0)).toBe("THORNLEA");
  });

  it("says which columns a rule misses", () => {
    const lost: DerivedField = {
      key: "l",
      name: "Lost",
      kind: "text",
      secondName: "",
      replaces: null,
      rules: rules("feed:gone"),
    };
    const made = finishColumns(feed, {
      derived: [lost],
      lists: [],
      costs: new Map(),
      proposedFamilies: false,
      tax: NO_TAX,
    });
    expect(made.notices).toEqual(['The derived field "Lost" reads "gone", which is not there; it counts as empty.']);
  });
});

describe("mapping", () => {
  it("is proposed from values where headings say nothing", () => {
    const rows = Array.from({ length: 5 }, (_, i) => [
      `A${i}`,
      `${i + 1}.50 EUR`,
      "auf Lager",
      `https://s.example/${i}.jpg`,
      "Garden > Hoses",
      "4006381333931",
    ]);
    const headings = ["a", "b", "c", "d", "e", "f"];
    const found = Object.fromEntries(proposeMapping(headings, rows).map(({ field, source }) => [field, source]));
    expect(found).toMatchObject({ price: "b", availability: "c", image: "d", category: "e", gtin: "f", id: null });
  });

  it("follows renamed columns by name and by values, and never by chance", () => {
    const mapping = mappingSchema.parse({ columns: { id: "id", title: "title", price: "price", brand: "maker" } });
    const headings = ["g:title", "price", "id", "label", "note"];
    const samples = [
      ["Hose", "5", "1", "Thornlea", "x"],
      ["Rake", "6", "2", "Ottersby", "y"],
      ["Pot", "7", "3", "New maker", "z"],
    ];
    const had = (field: string, value: string) => field === "brand" && ["Thornlea", "Ottersby"].includes(value);
    const { mapping: next, renamed } = followRenames(mapping, headings, samples, had);
    expect(next.columns).toMatchObject({ title: "g:title", brand: "label" });
    expect(renamed.map(({ to, how }) => [to, how])).toEqual([
      ["g:title", "name"],
      ["label", "values"],
    ]);
    expect(followRenames(mapping, ["id", "title", "price", "x"], samples, () => false).renamed).toEqual([]);
  });

  it("tells the decimal mark where single amounts leave it open", () => {
    expect(detectDecimal(["1.234", "12,50"])).toBe(",");
    expect(detectDecimal(["1,234", "12.50"])).toBe(".");
    expect(detectDecimal(["1.234", "5"])).toBe("auto");
    expect(detectDecimal(["12.50", "9,99", "1.234"])).toBe("auto");
  });

  it("reads counts as shops write them, and knows check digits", () => {
    expect(["12", "> 10", "3 Stk.", "1,200", "10+", "yes", "-4", "2.0", ""].map(readCount)).toEqual([
      ...[12, 10, 3, 1200, 10, null, 0, 2, null],
    ]);
    expect(["4006381333931", "4006381333932", "73513537"].map(hasCheckDigit)).toEqual([true, false, true]);
  });
});

describe("what changed in an item", () => {
  it("is kept in bits and said in words", () => {
    const bits = fieldBits(["price", "stock"]) | SOLD_OUT;
    expect(fieldsInBits(bits)).toEqual(["price", "stock"]);
    expect(changeWords(bits)).toEqual(["sold out", "price", "stock"]);
  });

  it("is told from a hash that does not mind the order of columns or empty ones", () => {
    const cells = fc.array(fc.string({ maxLength: 6 }), { minLength: 4, maxLength: 4 });
    const names = ["id", "b", "c", "d"];
    fc.assert(
      fc.property(cells, fc.shuffledSubarray([0, 1, 2, 3], { minLength: 4, maxLength: 4 }), (row, order) => {
        const hash = rowHasher(names)(row);
        const moved = rowHasher([...order.map((at) => names[at]!), "new"])([...order.map((at) => row[at]!), ""]);
        expect(moved).toBe(hash);
        const other = [...row];
        other[2] += "x";
        expect(rowHasher(names)(other)).not.toBe(hash);
        if (row[1] !== row[2]) expect(rowHasher(names)([row[0]!, row[2]!, row[1]!, row[3]!])).not.toBe(hash);
      }),
    );
  });
});
