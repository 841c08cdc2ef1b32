import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { numberColumn, textColumn } from "../kit/columns";
import { FailureError } from "../kit/outcome";
import { CatalogueColumnsBuilder } from "./catalogue-columns";
import { detectDelimiter, detectEncoding, detectFormat } from "./detect";
import { drawItem } from "./drawing";
import { FAULT_CODES, FAULTS, faultBits, faultsIn } from "./faults";
import { categoryLevels } from "../kit/categories";
import { readAvailability } from "./availability";
import { foldHeading } from "./fields";
import { findRows, type FindRows } from "./find-rows";
import { cleanHeadings, mappedColumns, mappingFrom, mappingGaps, mappingSchema, proposeMapping } from "./mapping";
import { rowReader } from "./read-row";
import { XmlItemReader } from "./xml-items";

describe("mapping", () => {
  const propose = (headings: string[], rows: string[][]) =>
    Object.fromEntries(proposeMapping(headings, rows).map(({ field, source }) => [field, source]));

  it("tells price from sale price and takes headings with prefixes and other spellings", () => {
    const headings = ["g:sale_price", "SKU", "Product Name", "g:price", "Vendor", "g:product_type", "URL", "Qty"];
    const rows = [
      ["", "1", "Hose 15 m", "12.90 EUR", "Thornlea", "A > B", "https://s.example/1", "4"],
      ["9.90 EUR", "2", "Rake", "11.00 EUR", "Ottersby", "A > C", "https://s.example/2", "0"],
    ];
    expect(propose(headings, rows)).toMatchObject({
      id: "SKU",
      title: "Product Name",
      price: "g:price",
      salePrice: "g:sale_price",
      brand: "Vendor",
      category: "g:product_type",
      link: "URL",
      stock: "Qty",
    });
  });

  it("does not believe a heading whose values deny it", () => {
    const rows = [
      ["1", "Hose", "see shop"],
      ["2", "Rake", "see shop"],
    ];
    const price = proposeMapping(["id", "title", "price"], rows).find(({ field }) => field === "price")!;
    const good = proposeMapping(["id", "title", "price"], [["1", "Hose", "5"]]).find(({ field }) => field === "price")!;
    expect(price.score).toBeLessThan(0.5);
    expect(good.score).toBe(1);
  });

  it("uses each column once and says what is missing or gone", () => {
    const columns = mappedColumns(
      mappingFrom(proposeMapping(["id", "price"], [["1", "2"]]), ["id", "price"], [["1", "2"]]),
    );
    expect(new Set(columns).size).toBe(columns.length);
    const gaps = mappingGaps(mappingSchema.parse({ columns: { id: "id", title: "name", price: null } }), [
      "id",
      "price",
    ]);
    expect(gaps.missing.map(({ key }) => key)).toEqual(["title", "price"]);
    expect(gaps.lost.map(({ field, column }) => [field.key, column])).toEqual([["title", "name"]]);
  });

  it("cleans headings", () => {
    expect(cleanHeadings(["\uFEFFid", " a ", "", "a", "a"])).toEqual({
      headings: ["id", "a", "column 3", "a (2)", "a (3)"],
      repeated: ["a", "a"],
    });
    expect(foldHeading("g:Item Group-ID")).toBe("itemgroupid");
  });
});

describe("values", () => {
  it.each([
    ["in_stock", "in stock"],
    ["http://schema.org/InStock", "in stock"],
    ["Sold out", "out of stock"],
    ["PreOrder", "preorder"],
    ["maybe", null],
  ])("availability %s", (text, meaning) => expect(readAvailability(text)).toBe(meaning));

  it("parts category paths by any usual mark", () => {
    expect(categoryLevels("A > B>C")).toEqual(["A", "B", "C"]);
    expect(categoryLevels("A | B")).toEqual(["A", "B"]);
    expect(categoryLevels("  ")).toEqual([]);
  });

  it("keeps faults in bits", () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.constantFrom(...FAULT_CODES)), (codes) => {
        expect(new Set(faultsIn(faultBits(codes)))).toEqual(new Set(codes));
      }),
    );
    expect(FAULTS.map(({ code }) => code)).toEqual([...FAULT_CODES]);
  });

  it("keeps warnings that do not keep an item out", () => {
    const headings = ["id", "title", "price", "sale", "avail", "link"];
    const read = rowReader(
      headings,
      mappingSchema.parse({
        columns: { id: "id", title: "title", price: "price", salePrice: "sale", availability: "avail", link: "link" },
      }),
      "EUR",
    );
    const result = read(["1", "Hose", "5", "7", "who knows", "shop.example"]);
    expect(result.ok && faultsIn(result.item.warnings)).toEqual([
      "sale-price-above",
      "availability-unknown",
      "category-missing",
      "link-broken",
    ]);
    expect(result.ok && result.item.availability).toBe("not known");
  });

  it("draws variants of a family alike", () => {
    expect(drawItem("Q00010")).toBe(drawItem("Q00011"));
    expect(drawItem("Q00010")).not.toBe(drawItem("Q00020"));
  });
});

describe("detection", () => {
  it("finds delimiters inside quotes and text", () => {
    expect(detectDelimiter('id;title;price\n1;"a;b, c";2,50\n2;d, e;3,50\n3;x;1\n')).toBe(";");
    expect(detectDelimiter("id\ttitle\tprice\n1\ta, b\t2\n2\tc, d\t3\n")).toBe("\t");
  });

  it("names what a file is", () => {
    const failure = detectEncoding(new Uint8Array([0xff, 0xd8, 0xff, 0xe0]));
    expect(failure).toMatchObject({ ok: false, error: { code: "feed-not-text" } });
    expect(detectFormat("  <rss>")).toEqual({ ok: true, value: "xml" });
  });
});

describe("XML items", () => {
  const xml = `<rss xmlns:g="u"><channel><item><g:id>1</g:id><title>A &amp; B</title>
    <g:image>x</g:image><g:image>y</g:image><g:shipping><g:price>2</g:price></g:shipping></item>
    <item><g:id>2</g:id><g:new_column>late</g:new_column></item></channel></rss>`;
  const read = (pieces: string[]) => {
    const reader = new XmlItemReader();
    const rows = pieces.flatMap((piece) => reader.push(piece));
    reader.end();
    return { columns: reader.columns, rows };
  };

  it("reads the same however the text is cut", () => {
    const whole = read([xml]);
    expect(whole.columns).toEqual(["id", "title", "image", "shipping.price", "new_column"]);
    expect(whole.rows).toEqual([
      ["1", "A & B", "x | y", "2"],
      ["2", "", "", "", "late"],
    ]);
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 40 }), (size) => {
        const pieces = xml.match(new RegExp(`[\\s\\S]{1,${size}}`, "g"))!;
        expect(read(pieces)).toEqual(whole);
      }),
    );
  });

  it("gives up on its own entities", () => {
    expect(() => read(['<!DOCTYPE r [<!ENTITY a "b">]><rss><item><id>&a;</id></item></rss>'])).toThrow(FailureError);
  });
});

describe("catalogue columns", () => {
  it("fill columns that appear late with no value before", () => {
    const headings = ["id"];
    const builder = new CatalogueColumnsBuilder(headings, mappingSchema.parse({ columns: { id: "id" } }));
    const item = {
      id: "1",
      title: "T",
      price: 5,
      salePrice: null,
      cost: null,
      fee: null,
      stock: null,
      tax: null,
      availability: "in stock",
      brand: "",
      category: "A > B",
      family: "",
      link: "",
      image: "",
      gtin: "",
      color: "",
      size: "",
      description: "",
      warnings: 0,
    };
    builder.push(1, 0, item, ["1"]);
    headings.push("late");
    builder.push(2, 0, { ...item, id: "2" }, ["2", "here"]);
    const { columns, length } = builder.finish();
    expect(length).toBe(2);
    expect(columns["feed:late"]).toEqual(textColumn(["", "here"]));
    expect(columns["category2"]).toEqual(textColumn(["B", "B"]));
    expect(columns["salePrice"]).toEqual(numberColumn([null, null]));
  });
});

describe("finding rows", () => {
  const table = {
    length: 5,
    columns: {
      id: textColumn(["a1", "a2", "b1", "b2", "c"]),
      title: textColumn(["Red Hose", "Blue hose", "Rake", "red rake", ""]),
      brand: textColumn(["Thornlea", "", "Ottersby", "Thornlea", ""]),
      price: numberColumn([300, 100, null, 200, 100]),
    },
  };
  const find = (query: Partial<FindRows>) => [
    ...findRows(table, { q: "", where: { match: "all", of: [] }, sort: "", ...query }),
  ];

  it("needs every word somewhere", () => {
    expect(find({ q: "red" })).toEqual([0, 3]);
    expect(find({ q: "thornlea RAKE" })).toEqual([3]);
    expect(find({ q: "b1" })).toEqual([2]);
  });

  it("sorts rows without a value last either way, ties by feed order", () => {
    expect(find({ sort: "price" })).toEqual([1, 4, 3, 0, 2]);
    expect(find({ sort: "-price" })).toEqual([0, 3, 1, 4, 2]);
    expect(find({ sort: "title" })).toEqual([1, 2, 0, 3, 4]);
    expect(find({ sort: "-brand" })).toEqual([0, 3, 2, 1, 4]);
  });

  it("holds all conditions at once", () => {
    expect(
      find({
        where: {
          match: "all",
          of: [
            { field: "price", op: "at-most", value: "200" },
            { field: "brand", op: "empty", value: "" },
          ],
        },
      }),
    ).toEqual([1, 4]);
    expect(find({ where: { match: "all", of: [{ field: "nothing", op: "filled", value: "" }] } })).toEqual([]);
  });

  it("agrees with a slow obvious version", () => {
    const rows = fc.array(
      fc.record({ t: fc.constantFrom("ab", "bc", "ca", ""), n: fc.option(fc.integer({ min: 0, max: 5 })) }),
      { maxLength: 30 },
    );
    fc.assert(
      fc.property(
        rows,
        fc.constantFrom("a", "b", ""),
        fc.integer({ min: 0, max: 5 }),
        fc.constantFrom("n", "-n", ""),
        (data, q, least, sort) => {
          const columns = { title: textColumn(data.map(({ t }) => t)), n: numberColumn(data.map(({ n }) => n)) };
          const where = { match: "all" as const, of: [{ field: "n", op: "at-least" as const, value: String(least) }] };
          const slow = [...data.keys()].filter(
            (i) => data[i]!.t.includes(q) && data[i]!.n !== null && data[i]!.n! >= least,
          );
          if (sort !== "") slow.sort((a, b) => (sort === "n" ? 1 : -1) * (data[a]!.n! - data[b]!.n!) || a - b);
          expect([...findRows({ length: data.length, columns }, { q, where, sort })]).toEqual(slow);
        },
      ),
    );
  });
});
