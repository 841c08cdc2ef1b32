import ExcelJS from "exceljs";
import { describe, expect, it } from "vitest";
import { cellText } from "@/core/kit/columns";
import type { RefreshCounts } from "@/db/schema";
import { importFeed, testWorkspace } from "../testing";
import { listFeeds, rowsSetAside } from "./feeds";
import { loadCatalogue } from "./load";

/** Reads a feed: each item's texts under some names, how many rows were set aside, and for what. */
async function read(content: string | Uint8Array, names: string[], more: object = {}) {
  const workspace = await testWorkspace();
  const job = await importFeed(workspace, content, more);
  const { columns, length } = await loadCatalogue(workspace.db, "all");
  const items = Array.from({ length }, (_, row) =>
    names.map((name) => (columns[name] ? cellText(columns[name], row) : "")).join(" | "),
  );
  const { rows } = await rowsSetAside(workspace.db, 0, 1000);
  const aside = rows.map(({ row, reasons }) => `${row}: ${reasons.join(", ")}`);
  const [feed] = await listFeeds(workspace.db);
  return { error: job.error, counts: job.result as RefreshCounts, items, aside, notices: feed?.notices ?? [] };
}

const json = (value: unknown) => JSON.stringify(value);
const xml = (...items: string[]) => `<feed>${items.map((item) => `<item>${item}</item>`).join("")}</feed>`;

/** Feeds with what they hold, counted and worked out by hand: the items by ID and price in mills, and the rows set aside. */
const SHAPES: [name: string, content: string, items: string[], aside: string[]][] = [
  ["amounts that begin with their mark", "id,title,price\n1,Rake,.90\n2,Hoe,12.50\n", ["1 | 900", "2 | 12500"], []],
  ["a comma first", "id;title;price\n1;Rake;,99 €\n2;Hoe;12,50 €\n", ["1 | 990", "2 | 12500"], []],
  [
    "book-keepers' brackets and dashes",
    'id,title,price\n1,Rake,"(12.90)"\n2,Hoe,–12.90\n3,Pot,12.90\n4,Can,12.90-\n',
    ["3 | 12900"],
    ["2: Price below zero", "3: Price below zero", "5: Price not readable"],
  ],
  [
    "thousands that nothing tells from cents",
    "id;title;price\n1;Mower;1.299 €\n2;Rake;8 €\n",
    ["2 | 8000"],
    ["2: Price can be read two ways"],
  ],
  ["thousands beside cents", "id;title;price\n1;Mower;1.299 €\n2;Rake;8,50 €\n", ["1 | 1299000", "2 | 8500"], []],
  [
    "digits that no number groups so",
    "id,title,price\n1,Rake,12 90\n2,Hoe,1 290\n",
    ["2 | 1290000"],
    ["2: Price not readable"],
  ],
  [
    "smallest units with an exponent",
    json([
      { id: "1", title: "Rake", price: { amount: 1290, exponent: 2, currency: "EUR" } },
      { id: "2", title: "Hoe", price: { amount: 5, exponent: 2, currency: "EUR" } },
      { id: "3", title: "Pot", price: { amount: 700, exponent: 2, currency: "CZK" } },
    ]),
    ["1 | 12900", "2 | 50"],
    ["3: Another currency"],
  ],
  ["a column in cents", "id,title,price_cents\n1,Rake,1290\n2,Hoe,99\n", ["1 | 12900", "2 | 990"], []],
  [
    "a column of currencies in any language",
    "id,title,price,waluta\n1,Rake,300,CZK\n2,Hoe,12.90,EUR\n3,Pot,4,eur\n",
    ["2 | 12900", "3 | 4000"],
    ["2: Another currency"],
  ],
  [
    "a second price in another currency",
    xml(
      "<id>1</id><title>Rake</title><price>12.90 EUR</price><price>11.50 CHF</price>",
      "<id>2</id><title>Hoe</title><price>5 EUR</price><price>6 EUR</price>",
      "<id>3</id><title>Pot</title><price>7 EUR</price><price>7 EUR</price>",
    ),
    ["1 | 12900", "3 | 7000"],
    ["2: Several prices that differ"],
  ],
  ["amounts below a cent", "id,title,price\n1,Screw,0.0004\n2,Nut,0.004\n", ["2 | 4"], ["2: Price not readable"]],
  [
    "digits of other scripts, powers of ten",
    "id,title,price\n1,Rake,１２．９０\n2,Hoe,1.5e1\n3,Pot,٩٫٥\n",
    ["1 | 12900", "2 | 15000", "3 | 9500"],
    [],
  ],
  [
    "numbers of JSON with three digits behind the point",
    json([
      { id: "1", title: "Rake", price: 1.299 },
      { id: "2", title: "Hoe", price: 12.5 },
    ]),
    ["1 | 1299", "2 | 12500"],
    [],
  ],
  [
    "net and gross side by side",
    xml("<id>1</id><title>Rake</title><price><net>10.00</net><gross>11.90</gross></price>"),
    ["1 | 11900"],
    [],
  ],
  ["titles that show nothing", "id,title,price\n1,\u200b\u2060,5\n2,Hoe,6\n", ["2 | 6000"], ["2: No title"]],
  [
    "Japanese headings",
    "商品番号,商品名,価格,在庫\nA1,庭ほうき,1200,在庫あり\nA2,じょうろ,980,在庫切れ\n",
    ["A1 | 1200000", "A2 | 980000"],
    [],
  ],
  ["Greek headings", "κωδικός;τίτλος;τιμή\nA1;Τσουγκράνα;12,90\nA2;Ποτιστήρι;9,80\n", ["A1 | 12900", "A2 | 9800"], []],
  [
    "Hungarian headings",
    "cikkszám;megnevezés;ár\nA1;Gereblye;12,90\nA2;Locsoló;9,80\n",
    ["A1 | 12900", "A2 | 9800"],
    [],
  ],
  ["Polish headings", "indeks;nazwa;cena brutto\nA1;Grabie;12,90\nA2;Konewka;9,80\n", ["A1 | 12900", "A2 | 9800"], []],
  [
    "objects by their ID",
    json({ A1: { title: "Rake", price: 5 }, A2: { title: "Hoe", price: 6 } }),
    ["A1 | 5000", "A2 | 6000"],
    [],
  ],
  [
    "objects by their ID below a name",
    json({ made: "today", products: { A1: { title: "Rake", price: 5 }, A2: { title: "Hoe", price: 6 } } }),
    ["A1 | 5000", "A2 | 6000"],
    [],
  ],
  [
    "columns beside rows",
    json({
      columns: ["id", "title", "price"],
      rows: [
        ["1", "Rake", 5],
        ["2", "Hoe", 6],
      ],
    }),
    ["1 | 5000", "2 | 6000"],
    [],
  ],
  [
    "a list of lists",
    json([
      ["id", "title", "price"],
      ["1", "Rake", 5],
      ["2", "Hoe", null],
    ]),
    ["1 | 5000"],
    ["2: No price"],
  ],
  [
    "one late inch mark",
    `id,title,price\n${Array.from({ length: 40 }, (_, i) => `I${i},Hose,5`).join("\n")}\nX1,"Hose 1/2,7\nX2,Pot,8\n`,
    [...Array.from({ length: 40 }, (_, i) => `I${i} | 5000`), "X2 | 8000"],
    ["42: Row not readable"],
  ],
  [
    "two late inch marks",
    'id,title,price\n1,Can,4\n2,"Hose 1/2,7\n3,Pot,8\n4,"Tap 3/4,9\n5,Rake,3\n',
    ["1 | 4000", "3 | 8000", "5 | 3000"],
    ["3: Row not readable", "5: Row not readable"],
  ],
];

describe("feeds of every shape", () => {
  it.each(SHAPES)("%s", async (_, content, items, aside) => {
    const got = await read(content, ["id", "price"]);
    expect([got.error, got.items, got.aside]).toEqual([null, items, aside]);
    expect(got.counts).toMatchObject({
      rows: items.length + aside.length,
      stored: items.length,
      setAside: aside.length,
    });
  });

  it("a feed of nothing but open amounts is refused with what to do, and read once the mark is said", async () => {
    const content = "id;title;price\n1;Mower;1.299 €\n2;Shed;2.499 €\n";
    const refused = await read(content, ["id", "price"]);
    expect(refused.error).toMatchObject({
      code: "feed-nothing-usable",
      hint: expect.stringContaining("Choose the decimal mark"),
    });
    const mapping = { columns: { id: "id", title: "title", price: "price" }, decimal: "," };
    expect((await read(content, ["id", "price"], { mapping })).items).toEqual(["1 | 1299000", "2 | 2499000"]);
  });

  it("variants within a product are items of their own, with the product as their family", async () => {
    const product = (id: string, variants: object[]) => ({ id, title: "Hose", brand: "Thornlea", variants });
    const content = json({
      products: [
        product("P1", [
          { sku: "P1-a", price: "12.90", size: "15 m" },
          { sku: "P1-b", price: "18.90", size: "25 m", title: "Long hose" },
        ]),
        product("P2", [{ sku: "P2-a", price: "8.00", size: "" }]),
      ],
    });
    const { items } = await read(content, ["id", "price", "title", "brand", "family", "size"]);
    expect(items).toEqual([
      "P1-a | 12900 | Hose | Thornlea | P1 | 15 m",
      "P1-b | 18900 | Long hose | Thornlea | P1 | 25 m",
      "P2-a | 8000 | Hose | Thornlea | P2 | ",
    ]);
  });

  it("variants within an element of XML too, as far as it can be told what belongs together", async () => {
    const variant = (sku: string, price: string, size: string) =>
      `<variant><sku>${sku}</sku><price>${price}</price>${size && `<size>${size}</size>`}</variant>`;
    const product = (id: string, ...variants: string[]) =>
      `<id>${id}</id><title>Hose</title><brand>Thornlea</brand><variants>${variants.join("")}</variants>`;
    const content = xml(
      product("P1", variant("P1-a", "12.90", "15 m"), variant("P1-b", "18.90", "25 m")),
      product("P2", variant("P2-a", "8.00", "")),
      product("P3", variant("P3-a", "8.00", "5 m"), variant("P3-b", "9.00", "")),
      `${product("P4", variant("P4-a", "8.00", "5 m"), "<variant><sku>P4-b</sku><size>9 m</size></variant>")}<price>7</price>`,
    );
    const { items, aside, error } = await read(content, ["id", "price", "brand", "family", "size"]);
    expect(error).toBeNull();
    expect(items).toEqual([
      "P1-a | 12900 | Thornlea | P1 | 15 m",
      "P1-b | 18900 | Thornlea | P1 | 25 m",
      "P2-a | 8000 | Thornlea | P2 | ",
      // Which of the two is of 5 m can't be told, and is not guessed.
      "P3-a | 8000 | Thornlea | P3 | ",
      "P3-b | 9000 | Thornlea | P3 | ",
    ]);
    // Nor is what P4-b costs: its product's price is not that of P4-a either.
    expect(aside).toEqual(["6: No price", "7: No price"]);
  });

  it.each([
    ["category level 1,category level 2,category level 3"],
    ["category,subcategory,sub-subcategory"],
    ["Hauptkategorie,Kategorie,Unterkategorie"],
    ["category_3,category_1,category_2"],
  ])("levels in columns %s make one path", async (headings) => {
    const levels = headings.startsWith("category_3") ? "Rakes,Garden,Tools" : "Garden,Tools,Rakes";
    const { items } = await read(`id,title,price,${headings}\n1,Rake,5,${levels}\n2,Hoe,6,${levels}\n`, [
      "category1",
      "category2",
      "category3",
    ]);
    expect(items).toEqual(["Garden | Tools | Rakes", "Garden | Tools | Rakes"]);
  });

  it("the first picture is the first by number, wherever it stands", async () => {
    const content =
      "id,title,price,image 3,image 1,image 2\n1,Rake,5,https://s.example/3.jpg,https://s.example/1.jpg,https://s.example/2.jpg\n";
    expect((await read(content, ["image"])).items).toEqual(["https://s.example/1.jpg"]);
  });

  it("words for sold out are read in many languages, unknown ones are not taken for in stock, pieces on hand speak", async () => {
    const soldOut =
      "nicht vorrätig,épuisé,agotado,esaurito,niet op voorraad,niedostępny,esgotado,vyprodáno,slutsåld,udsolgt,utsolgt,loppunut,elfogyott,epuizat,нет в наличии,изчерпан,εξαντλήθηκε,tükendi,在庫切れ,缺货,품절,Out Of Stock,https://schema.org/SoldOut,rupture de stock,rasprodano,vypredané,0,-3,0 in stock,derzeit nicht lieferbar,brak,нема в наявності,не е в наличност".split(
        ",",
      );
    const lines = [...soldOut, "sends when ready"].map((word, i) => `${i},Rake,5,${word}`);
    const { items } = await read(`id,title,price,availability\n${lines.join("\n")}\n`, ["availability"]);
    expect(items.slice(0, -1).map((state, i) => `${soldOut[i]}: ${state}`)).toEqual(
      soldOut.map((word) => `${word}: out of stock`),
    );
    expect(items.at(-1)).toBe("not known");
    const stocked = await read(
      "id,title,price,availability,stock\n1,A,5,sends when ready,3\n2,B,5,,-1\n3,C,5,who knows,0\n",
      ["availability"],
    );
    expect(stocked.items).toEqual(["in stock", "out of stock", "out of stock"]);
  });

  it("a sale price of nothing is none, and said", async () => {
    const got = await read("id,title,price,sale price\n1,A,5,0\n2,B,5,4\n", ["id", "salePrice"]);
    expect(got.items).toEqual(["1 | ", "2 | 4000"]);
  });
});

describe("workbooks", () => {
  async function book(fill: (sheet: ExcelJS.Worksheet) => void): Promise<Uint8Array> {
    const made = new ExcelJS.Workbook();
    const sheet = made.addWorksheet("Items");
    sheet.addRow(["id", "title", "price"]);
    fill(sheet);
    return new Uint8Array(await made.xlsx.writeBuffer());
  }

  it("show IDs with the noughts that their format has, and numbers as numbers", async () => {
    const content = await book((sheet) => {
      sheet.addRow([42, "Rake", 1.299]);
      sheet.addRow([123456, "Hoe", 12.5]);
      sheet.getColumn(1).numFmt = "00000";
    });
    expect((await read(content, ["id", "price"])).items).toEqual(["00042 | 1299", "123456 | 12500"]);
  });
});
