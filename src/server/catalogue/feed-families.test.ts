import { gzipSync } from "node:zlib";
import ExcelJS from "exceljs";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { cellText } from "@/core/kit/columns";
import type { RefreshCounts } from "@/db/schema";
import { importFeed, testWorkspace } from "../testing";
import { listFeeds, rowsSetAside } from "./feeds";
import { loadCatalogue } from "./load";

/** Reads a feed; what became of it, and the texts of its columns. */
async function read(content: string | Uint8Array, more: object = {}) {
  const workspace = await testWorkspace();
  const job = await importFeed(workspace, content, more);
  const { columns, length } = await loadCatalogue(workspace.db, "all");
  const column = (name: string) =>
    Array.from({ length }, (_, row) => (columns[name] ? cellText(columns[name], row) : ""));
  const aside = await rowsSetAside(workspace.db, 0, 1000);
  const [feed] = await listFeeds(workspace.db);
  return { job, counts: job.result as RefreshCounts, column, aside, notices: feed?.notices ?? [] };
}

const HEAD = "id,title,price";
const rows = (n: number, end: string) =>
  Array.from({ length: n }, (_, i) => `A${i},Rake ${i},${i + 1}.50${end}`).join("");

describe("line ends", () => {
  // What each file holds is counted here, not by any reader: the rows that were written.
  it.each<[string, string, number]>([
    ["the first in CRLF, the others in LF", `${HEAD}\r\n${rows(300, "\n")}`, 300],
    ["the first in LF, the others in CRLF", `${HEAD}\n${rows(300, "\r\n")}`, 300],
    ["CR alone", `${HEAD}\r${rows(300, "\r")}`, 300],
    ["all three in turn", `${HEAD}\r\n${rows(2, "\n")}B1,Hoe,2\rB2,Hoe,3\r\nB3,Hoe,4`, 5],
    ["empty lines between and behind", `${HEAD}\n\n${rows(3, "\n\n")}\n \n`, 3],
  ])("%s: every row comes in", async (_, content, written) => {
    const { counts, column } = await read(content);
    expect([counts.rows, counts.stored, counts.setAside]).toEqual([written, written, 0]);
    expect(new Set(column("id")).size).toBe(written);
  });

  it("mixed at random, with quotes over lines and broken ones: no row gets lost", async () => {
    const end = fc.constantFrom("\n", "\r\n", "\r");
    const title = fc.constantFrom("Rake", '"Rake, long"', '"Over\ntwo lines"', '"Over\r\ntwo"', '5" pipe', "");
    const line = fc.record({ title, end, blank: fc.boolean() });
    await fc.assert(
      fc.asyncProperty(fc.array(line, { minLength: 1, maxLength: 12 }), end, async (lines, first) => {
        const body = lines.map((one, i) => `A${i},${one.title},${i + 1}.50${one.end}${one.blank ? one.end : ""}`);
        const { counts } = await read(`${HEAD},note${first}${body.join("")}Z,Pot,3.00,x`);
        expect(counts.rows).toBe(lines.length + 1);
        expect(counts.stored + counts.setAside).toBe(counts.rows);
      }),
      { numRuns: 25 },
    );
  });

  it("a quote inside a quoted text swallows no neighbour: both lines are set aside with their place", async () => {
    const content = `${HEAD}\nA1,Hose,1.50\nA2,"Hose 5" long,12.90\nA3,"Rake",8.50\nA4,Pot,3.00\n`;
    const { counts, column, aside } = await read(content);
    expect(column("id")).toEqual(["A1", "A4"]);
    expect(counts).toMatchObject({ rows: 4, stored: 2, setAside: 2 });
    expect(aside.rows.map(({ row, reasons }) => [row, reasons[0]])).toEqual([
      [3, "Row not readable"],
      [4, "Row not readable"],
    ]);
  });

  it("a row set aside is told by its row in the file, empty ones and lines about the file counted", async () => {
    const { aside } = await read(`Price list\n\n${HEAD}\nA1,Rake,1.50\n\nA2,Hoe,ask\n`);
    expect(aside.rows.map(({ row }) => row)).toEqual([6]);
  });
});

describe("headers", () => {
  it("stand below title lines, or below the line that names the delimiter", async () => {
    const table = "id;title;price;brand\nA1;Rake;12,50;Oak\nA2;Hoe;9,00;Oak\n";
    for (const top of ["", "sep=;\n", "Export of Quillmoor\nAs of 2026-11-01;all shops\n\n", '"sep=;"\r\n']) {
      const { column, counts } = await read(top + table);
      expect([counts.rows, counts.stored], top).toEqual([2, 2]);
      expect(column("price"), top).toEqual(["12500", "9000"]);
    }
  });

  it("stand where a person says", async () => {
    const content = "code,what,amount,maker\nid,title,price,brand\nA1,Rake,12.50,Oak\n";
    const { column } = await read(content, { reading: { headerRow: 2 } });
    expect([column("id"), column("brand")]).toEqual([["A1"], ["Oak"]]);
  });

  it("have abbreviations, and cost is never taken for a price", async () => {
    const german =
      "Art.-Nr.;Bezeichnung;EK-Preis;Grundpreis;VK-Preis\n1;Rechen;4,10;8,20 €/kg;12,50\n2;Hacke;3,00;1,00 €/kg;9,00\n";
    const { column } = await read(german);
    expect([column("id"), column("price"), column("cost")]).toEqual([
      ["1", "2"],
      ["12500", "9000"],
      ["4100", "3000"],
    ]);
    const wholesale = await read("sku,name,wholesale price\n1,Rake,4.10 EUR\n2,Hoe,3.00 EUR\n3,Pot,1.00 EUR\n");
    expect(wholesale.job.error).toMatchObject({ code: "mapping-incomplete" });
    expect(wholesale.job.error?.message).toContain("Price");
  });

  it("that only make one guess are not followed without a look", async () => {
    const { job } = await read("sku,name,what it goes for\n1,Rake,4.10 EUR\n2,Hoe,3.00 EUR\n3,Pot,1.00 EUR\n");
    expect(job.error).toMatchObject({ code: "mapping-unsure" });
    expect(job.error?.message).toContain('Price may be "what it goes for"');
  });
});

describe("amounts", () => {
  it("with decimal commas: a point groups thousands, however far down the commas stand", async () => {
    const whole = Array.from({ length: 250 }, (_, i) => `A${i};Rake;${i + 1}`).join("\n");
    const { column, counts, notices } = await read(`id;title;price\n${whole}\nB1;Shed;1.299\nB2;Pot;4,90\n`);
    expect(column("price").slice(-2)).toEqual(["1299000", "4900"]);
    expect([counts.rows, counts.stored]).toEqual([252, 252]);
    expect(notices.join(" ")).toContain("points in them group thousands");
  });

  it("that can be read two ways where nothing tells are set aside and said", async () => {
    const { column, notices, aside } = await read("id,title,price\nA1,Shed,1.299\nA2,Pot,4\n");
    expect(column("price")).toEqual(["4000"]);
    expect(aside.rows[0]?.reasons).toEqual(["Price can be read two ways"]);
    expect(notices.join(" ")).toContain("1 price such as 1.299 can be read two ways");
  });

  it("with words beside them are read; those that can't be are told with how many", async () => {
    const { column, counts, notices } = await read(
      `id;title;price;sale price\n1;A;12,-;\n2;B;ab 12,90 €;\n3;C;12,90 € inkl. MwSt.;9,90 € inkl. MwSt.\n4;D;12.90€/Stk;tba\n5;E;Netz 7,50 €;\n6;F;Netz 9,99 €;\n`,
    );
    expect(column("price")).toEqual(["12000", "12900", "12900", "12900"]);
    expect(column("salePrice")).toEqual(["", "", "9900", ""]);
    expect([counts.rows, counts.stored, counts.setAside]).toEqual([6, 4, 2]);
    expect(notices.join(" ")).toContain("“Netz 7,50 €” and 1 alike; “tba”");
  });

  it("a sale price that can't be read is a fault; nothing on hand is sold out where nothing else is said", async () => {
    const { column } = await read("id,title,price,sale_price,stock\n1,A,5,oops,0\n2,B,5,4,3\n3,C,5,-,\n");
    expect(column("availability")).toEqual(["out of stock", "in stock", "in stock"]);
    expect(column("salePrice")).toEqual(["", "4000", ""]);
  });
});

describe("XML and JSON of shops", () => {
  it("any element that repeats, records made of attributes, fields named by an attribute, characters with names", async () => {
    const xml = `<?xml version="1.0"?><catalog date="2026-11-01"><shop><categories><category id="1" name="x">Tools</category></categories>
      <offers><offer id="A1" available="true"><name>Caf&eacute; chair&nbsp;2</name><price currency="EUR">12.90</price>
      <param name="Color">red</param><param name="Size">L</param><picture>https://s.example/1.jpg</picture></offer>
      <offer id="A2" available="false"><name>Rake</name><price currency="EUR">8.50</price><param name="Color">green</param></offer>
      </offers></shop></catalog>`;
    const { column, counts } = await read(xml);
    expect([counts.rows, counts.stored]).toEqual([2, 2]);
    expect(column("id")).toEqual(["A1", "A2"]);
    expect(column("title")).toEqual(["Café chair\u00a02", "Rake"]);
    expect(column("color")).toEqual(["red", "green"]);
    expect(column("availability")).toEqual(["in stock", "out of stock"]);
    const flat = `<shop><p id="A1" title="Rake" price="12.90"/><p id="A2" title="Hoe" price="3"/></shop>`;
    expect((await read(flat)).column("title")).toEqual(["Rake", "Hoe"]);
  });

  it("variants inside a product are the items, with what the product says of all, or by themselves where a person chooses them", async () => {
    const one = (id: string) =>
      `<product><id>${id}</id><name>Hose ${id}</name><price>5</price><brand>Oak</brand><variants><variant><id>${id}a</id><title>Hose a</title><price>5</price></variant><variant><id>${id}b</id><title>Hose b</title><price>6</price></variant></variants></product>`;
    const xml = `<shop>${one("1")}${one("2")}</shop>`;
    const { column } = await read(xml);
    expect(column("id")).toEqual(["1a", "1b", "2a", "2b"]);
    expect([column("price"), column("brand"), column("family")]).toEqual([
      ["5000", "6000", "5000", "6000"],
      ["Oak", "Oak", "Oak", "Oak"],
      ["1", "1", "2", "2"],
    ]);
    const variants = await read(xml, { reading: { part: "shop/product/variants/variant" } });
    expect(variants.column("id")).toEqual(["1a", "1b", "2a", "2b"]);
  });

  it("several offers of different prices, and what is no record, are set aside", async () => {
    const json = JSON.stringify([
      {
        id: "1",
        title: "Rake",
        offers: [
          { price: 12.9, availability: "in stock" },
          { price: 15, availability: "out of stock" },
        ],
      },
      "half",
      { id: "2", title: "Hoe", offers: [{ price: 3 }] },
    ]);
    const { column, counts, aside } = await read(json);
    expect(column("price")).toEqual(["3000"]);
    expect([counts.rows, counts.stored, counts.setAside]).toEqual([3, 1, 2]);
    expect(aside.rows.map(({ row, reasons }) => [row, reasons[0]])).toEqual([
      [1, "Several prices that differ"],
      [2, "Row not readable"],
    ]);
  });

  it("the list that a person chooses", async () => {
    const json = JSON.stringify({
      stores: [
        { id: 1, title: "a", price: 1 },
        { id: 2, title: "b", price: 1 },
        { id: 3, title: "c", price: 1 },
      ],
      items: [{ id: "A", title: "Rake", price: 5 }],
    });
    expect((await read(json, { reading: { part: "items" } })).column("id")).toEqual(["A"]);
  });
});

describe("bytes", () => {
  it("Windows-1250 and Windows-1252 are told apart by their letters", async () => {
    const encode = (text: string, map: Record<string, number>) =>
      Uint8Array.from([...text].map((char) => map[char] ?? char.charCodeAt(0)));
    const polish = "Łopata żółta, grządka i śruba";
    const map = { Ł: 0xa3, ł: 0xb3, ż: 0xbf, ó: 0xf3, ą: 0xb9, ś: 0x9c };
    const { column, notices } = await read(encode(`id,title,price\n1,"${polish}",5\n2,Grabie mała,6\n`, map));
    expect(column("title")[0]).toBe(polish);
    expect(notices.join(" ")).toContain("Windows-1250");
    const czech = await read(
      encode("id,title,price\n1,Hřebík do stěny,5\n", { ř: 0xf8, í: 0xed, ě: 0xec, š: 0x9a, č: 0xe8, ž: 0x9e }),
    );
    expect(czech.column("title")).toEqual(["Hřebík do stěny"]);
    const west = "Gießkanne, crème brûlée, mañana, Æble på dåse, è più";
    const latin = await read(Buffer.from(`id,title,price\n1,"${west}",5\n`, "latin1"));
    expect(latin.column("title")).toEqual([west]);
  });

  it("gzip in gzip is unpacked, and a third skin is not", async () => {
    const table = `${HEAD}\n${rows(3, "\n")}`;
    expect((await read(gzipSync(gzipSync(table)))).counts.stored).toBe(3);
    expect((await read(gzipSync(gzipSync(gzipSync(gzipSync(table)))))).job.error?.code).toBe("feed-gzip-deep");
  });

  it("of several sheets the one with items is read, with its own row numbers", async () => {
    const book = new ExcelJS.Workbook();
    const info = book.addWorksheet("Info");
    for (const row of [
      ["what", "value"],
      ["shop", "Quillmoor"],
      ["day", "2026-11-01"],
    ])
      info.addRow(row);
    const items = book.addWorksheet("Items");
    for (const row of [["Price list"], [], ["id", "title", "price"], ["1", "Rake", 12.9], [], ["2", "Hoe", "ask"]])
      items.addRow(row);
    const { column, aside, counts } = await read(new Uint8Array(await book.xlsx.writeBuffer()));
    expect(column("id")).toEqual(["1"]);
    expect([counts.rows, aside.rows[0]?.row]).toEqual([2, 6]);
  });
});
