import { readFileSync } from "node:fs";
import path from "node:path";
import { gzipSync } from "node:zlib";
import ExcelJS from "exceljs";
import { parquetWriteBuffer } from "hyparquet-writer";
import { describe, expect, it } from "vitest";
import { cellText } from "@/core/kit/columns";
import { importFeed, testWorkspace } from "../testing";
import { diagnose } from "../across/catalogue/diagnose";
import { rowsSetAside } from "./feeds";
import { loadCatalogue } from "./load";

/** Small nasty feeds, each with its outcome worked out by hand. */
const feed = (name: string) => readFileSync(path.join(import.meta.dirname, "corpus", name));

async function read(content: string | Uint8Array, more: object = {}) {
  const workspace = await testWorkspace();
  const job = await importFeed(workspace, content, more);
  expect(job.error).toBeNull();
  const { columns, length } = await loadCatalogue(workspace.db, "all");
  const column = (name: string) =>
    Array.from({ length }, (_, row) => (columns[name] ? cellText(columns[name], row) : ""));
  const aside = await rowsSetAside(workspace.db, 0, 100);
  const faults = Object.fromEntries((await diagnose(workspace.db)).map(({ code, count }) => [code, count]));
  return { job, column, aside, faults, workspace };
}

describe("the corpus", () => {
  it("a German shop: Latin-1, semicolons, decimal commas, slashes, units, its own words", async () => {
    const { column, aside } = await read(feed("german-latin1.csv"));
    expect(column("id")).toEqual(["0815", "0816", "0817"]);
    expect(column("title")[0]).toBe('Gießkanne "Rosa" 5 l');
    // 1.250 stands beside 12,50, so its point groups thousands.
    expect(column("price")).toEqual(["1234560", "12500", "1250000"]);
    expect(column("stock")).toEqual(["10", "3", "12"]);
    expect(column("availability")).toEqual(["in stock", "out of stock", "in stock"]);
    expect([column("category1")[0], column("category2")[0], column("category3")[0]]).toEqual([
      "Garten",
      "Bewässerung",
      "Kannen",
    ]);
    expect(aside.total).toBe(0);
  });

  it("three currencies, in a column of their own", async () => {
    const { column, aside, job } = await read(feed("three-currencies.tsv"));
    expect(job.result).toMatchObject({ rows: 3, stored: 1, setAside: 2 });
    expect(column("price")).toEqual(["12900"]);
    expect(aside.rows.map(({ reasons }) => reasons)).toEqual([["Another currency"], ["Another currency"]]);
  });

  it("IDs that differ by case, spaces and leading zeros; brands in four spellings", async () => {
    const { column, aside, faults } = await read(feed("alike-ids.csv"));
    expect(column("id")).toEqual(["ab-1", "AB-1", "007", "7", "ab -1"]);
    // "7 " is "7" once trimmed, so it repeats.
    expect(aside.rows.map(({ row, reasons }) => [row, reasons[0]])).toEqual([[7, "Item ID used twice"]]);
    expect(faults["id-alike"]).toBe(5);
    expect(faults["brand-spellings"]).toBe(4);
  });

  it("HTML, scripts, right-to-left, emoji, capitals and formulas in titles", async () => {
    const { column, faults, workspace } = await read(feed("markup-and-scripts.csv"));
    expect(column("title")).toEqual([
      "<b>Bold</b> hose &amp; reel",
      "<script>alert('x')</script> Rake for leaves",
      "غرسة ورد أحمر للحديقة",
      "🌻 Sunflower seeds 🌻 packet",
      "LOUD GARDEN HOSE FIFTEEN METRES",
      "=CMD('calc')",
    ]);
    expect(faults["title-markup"]).toBe(2);
    expect(faults["title-shouting"]).toBe(1);
    const { action } = (await diagnose(workspace.db)).find(({ code }) => code === "title-markup")!;
    expect(action).toMatchObject({ kind: "derived", field: { replaces: "title" } });
  });

  it("nested JSON with long numbers, lists, and the records beside other lists", async () => {
    const { column } = await read(feed("nested.json"));
    expect(column("id")).toEqual(["12345678901234567890", "2", "3"]);
    expect(column("price")).toEqual(["12900", "8000", "3500"]);
    expect(column("image")).toEqual(["https://s.example/a.jpg", "", ""]);
    expect(column("feed:tags")).toEqual(["green | long", "", ""]);
    expect(column("feed:extra.deep.er")).toEqual(["", "", "yes"]);
  });

  it("JSON Lines with a broken line, an empty one, a late column and a long ID", async () => {
    const { column, aside, job } = await read(feed("broken-line.jsonl"));
    expect(job.result).toMatchObject({ rows: 4, stored: 3, setAside: 1 });
    expect(column("id")).toEqual(["1", "3", "9007199254740993123"]);
    expect(column("feed:late")).toEqual(["", "x", ""]);
    expect(aside.rows[0]).toMatchObject({ reasons: ["Row not readable"] });
    expect(aside.rows[0]!.cells[0]).toContain('"Rake" "price"');
  });

  it("schema.org products, variants inheriting from their group", async () => {
    const { column } = await read(feed("schema-org.json"));
    expect(column("id")).toEqual(["Q1", "Q2", "Q3"]);
    expect(column("price")).toEqual(["24500", "19000", "29000"]);
    expect(column("brand")).toEqual(["Thornlea", "Ottersby", "Ottersby"]);
    expect(column("family")).toEqual(["", "F7", "F7"]);
    expect(column("availability")).toEqual(["in stock", "out of stock", "in stock"]);
    expect(column("category2")).toEqual(["Cans", "", ""]);
    expect(column("feed:Finish")).toEqual(["matt", "", ""]);
    expect(column("size")).toEqual(["", "15 m", "25 m"]);
  });

  it("the same item twice with different prices: the first stays, the second is shown", async () => {
    const { column, aside } = await read(feed("same-item-twice.csv"));
    expect(column("price")).toEqual(["5000", "6000"]);
    expect(aside.rows.map(({ row, cells }) => [row, cells[2]])).toEqual([[4, "4.00"]]);
  });

  it("RSS under a namespace of its own, with columns that appear late and repeat", async () => {
    const { column } = await read(feed("rss-grows.xml"));
    expect(column("brand")).toEqual(["", "Thornlea"]);
    expect(column("image")).toEqual(["", "a.jpg"]);
  });

  it("categories parted by a sign that no feed should use, told by hand", async () => {
    const text = feed("tilde-categories.csv").toString().replaceAll("~", "::");
    const { column } = await read(text);
    expect(column("category2")).toEqual(["Watering", "Tools"]);
  });

  it("line breaks, tabs and quotes inside quoted cells", async () => {
    const { column } = await read(feed("multiline-quotes.csv"));
    expect(column("title")).toEqual(["A title\nover two lines", 'Tab\tinside, and "quotes"']);
    expect(column("price")).toEqual(["5500", "6000"]);
  });

  it("300 categories with one item each", async () => {
    const rows = Array.from({ length: 300 }, (_, i) => `I${i},Garden thing ${i},5,Shelf > Only ${i}`);
    const { faults } = await read(`id,title,price,category\n${rows.join("\n")}\n`);
    expect(faults["category-single"]).toBe(300);
  });
});

describe("binary formats", () => {
  const rows = [
    { id: "1", title: "Hose", price: 12.9, day: new Date("2026-10-01T00:00:00Z"), stock: 4 },
    { id: "2", title: "Rake", price: 8, day: null, stock: 0 },
    { id: "3", title: "", price: 3, day: null, stock: 2 },
  ];

  async function workbook(titleRows = 0): Promise<Uint8Array> {
    const book = new ExcelJS.Workbook();
    book.addWorksheet("Read me").addRow(["Nothing here"]);
    const sheet = book.addWorksheet("Items");
    for (let i = 0; i < titleRows; i++) sheet.addRow(["Price list of Quillmoor"]);
    sheet.addRow(["id", "title", "price", "day", "stock", "sum"]);
    for (const { id, title, price, day, stock } of rows) {
      sheet.addRow([id, title, price, day, stock, { formula: "C2*2", result: price * 2 }]);
    }
    sheet.getCell("B2").value ??= "Hose";
    return new Uint8Array(await book.xlsx.writeBuffer());
  }

  it.each([
    ["at the top", 0, false],
    ["below two title rows", 2, false],
    ["packed with gzip", 0, true],
  ])("XLSX: the sheet with a header %s, dates as days, results of formulas", async (_, titleRows, isPacked) => {
    const content = await workbook(titleRows);
    const { column, aside, job } = await read(isPacked ? gzipSync(content) : content);
    expect(job.result).toMatchObject({ rows: 3, stored: 2, setAside: 1 });
    expect(column("price")).toEqual(["12900", "8000"]);
    expect(column("feed:day")).toEqual(["2026-10-01", ""]);
    expect(column("feed:sum")).toEqual(["25.8", "16"]);
    expect(column("stock")).toEqual(["4", "0"]);
    expect(aside.rows[0]!.reasons).toEqual(["No title"]);
  });

  it("XLSX without a sheet that holds items, or with a sheet that is not there, says so", async () => {
    const book = new ExcelJS.Workbook();
    book.addWorksheet("Empty");
    const empty = new Uint8Array(await book.xlsx.writeBuffer());
    const none = await importFeed(await testWorkspace(), empty);
    expect(none.error).toMatchObject({ code: "feed-sheet-empty" });
    const reading = { encoding: null, delimiter: null, part: "Prices", headerRow: null };
    const wrong = await importFeed(await testWorkspace(), await workbook(), { reading });
    expect(wrong.error?.message).toContain('no sheet "Prices". It has: Read me, Items');
    const broken = await importFeed(await testWorkspace(), (await workbook()).subarray(0, 900));
    expect(broken.error).toMatchObject({ code: "feed-sheet-broken" });
  });

  it("Parquet: columns, nested lists, gaps", async () => {
    const content = new Uint8Array(
      parquetWriteBuffer({
        columnData: [
          { name: "id", data: rows.map(({ id }) => id), type: "STRING" },
          { name: "title", data: rows.map(({ title }) => title), type: "STRING" },
          { name: "price", data: rows.map(({ price }) => price), type: "DOUBLE" },
          { name: "late", data: [null, null, "x"], type: "STRING" },
          { name: "pictures", data: [["a.jpg", "b.jpg"], [], null], type: "JSON" },
        ],
      }),
    );
    const { column, job } = await read(content);
    expect(job.result).toMatchObject({ rows: 3, stored: 2, setAside: 1 });
    expect(column("price")).toEqual(["12900", "8000"]);
    expect(column("feed:late")).toEqual(["", ""]);
    expect(column("image")).toEqual(["a.jpg", ""]);
  });
});

describe("what a person chooses instead", () => {
  it("encoding and delimiter override what was found out", async () => {
    const text = "id|title|price\n1|Hähne, klein|5\n2|Rechen, groß|6\n";
    const cyrillic = Buffer.from([
      ...Buffer.from("id,title,price\n1,"),
      0xd0,
      0xee,
      0xe7,
      0xe0,
      ...Buffer.from(",5\n"),
    ]);
    const { column } = await read(text, {
      reading: { encoding: "utf-8", delimiter: "|", part: null, headerRow: null },
    });
    expect(column("title")).toEqual(["Hähne, klein", "Rechen, groß"]);
    const roses = await read(cyrillic, {
      reading: { encoding: "windows-1251", delimiter: null, part: null, headerRow: null },
    });
    expect(roses.column("title")).toEqual(["Роза"]);
  });

  it("constants, joined columns and taught availability words", async () => {
    const mapping = {
      columns: {
        id: "id",
        title: { join: ["brand", "name"], by: " " },
        price: "price",
        brand: { constant: "Quillmoor" },
        availability: "state",
      },
      availability: { sendswhenready: "backorder" },
    };
    const { column, faults } = await read(
      "id,name,brand,price,state\n1,Garden hose,Thornlea,5,sends when ready\n2,Leaf rake,,6,never heard\n",
      { mapping },
    );
    expect(column("title")).toEqual(["Thornlea Garden hose", "Leaf rake"]);
    expect(column("brand")).toEqual(["Quillmoor", "Quillmoor"]);
    expect(column("availability")).toEqual(["backorder", "not known"]);
    expect(faults["availability-unknown"]).toBe(1);
    // Columns that are mapped are not extras; all others are.
    expect(column("feed:brand")).toEqual(["", ""]);
  });
});
