import { gzipSync } from "node:zlib";
import { eq } from "drizzle-orm";
import { beforeAll, describe, expect, it } from "vitest";
import { cellText } from "@/core/kit/columns";
import type { Database } from "@/db/client";
import { items, setAside, type RefreshCounts } from "@/db/schema";
import { importFeed, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { diagnose } from "../across/catalogue/diagnose";
import { rowsSetAside } from "./feeds";
import { loadCatalogue } from "./load";

const GOOD =
  "id,title,price,brand,category\nA1,Hose,12.90,Thornlea,Garden > Hoses\nA2,Rake,8.50,Ottersby,Garden > Tools\nA3,Pot,3.00,,Garden > Pots\n";

type Workspace = { db: Database; info: WorkspaceInfo };

async function titles({ db }: Workspace): Promise<string[]> {
  const catalogue = await loadCatalogue(db, ["title"]);
  const column = catalogue.columns["title"];
  return Array.from({ length: catalogue.length }, (_, row) => (column ? cellText(column, row) : ""));
}

function utf16(text: string, littleEndian: boolean): Uint8Array {
  const le = Buffer.from(`\uFEFF${text}`, "utf16le");
  return littleEndian ? le : le.swap16();
}

describe("a feed in any form gives the same catalogue", () => {
  const rss = `<?xml version="1.0"?><rss version="2.0" xmlns:g="http://shop.example/ns/1.0"><channel><title>Shop</title>
    <item><g:id>A1</g:id><title>Hose</title><g:price>12.90 EUR</g:price><g:brand>Thornlea</g:brand></item>
    <item><g:id>A2</g:id><title><![CDATA[Rake]]></title><g:price>8.50 EUR</g:price><g:shipping><g:price>2.00 EUR</g:price></g:shipping></item>
    <item><g:id>A3</g:id><title>Pot</title><g:price>3.00 EUR</g:price></item></channel></rss>`;
  const atom = `<feed xmlns="http://www.w3.org/2005/Atom" xmlns:x="urn:shop"><title>Shop</title>
    <entry><x:id>A1</x:id><title>Hose</title><link href="https://s.example/1"/><x:price>12.90</x:price></entry>
    <entry><x:id>A2</x:id><title>Rake</title><x:price>8.50</x:price></entry>
    <entry><x:id>A3</x:id><title>Pot</title><x:price>3</x:price></entry></feed>`;
  it.each([
    ["comma", GOOD],
    ["semicolon", GOOD.replaceAll(",", ";")],
    ["tab", GOOD.replaceAll(",", "\t")],
    ["bar", GOOD.replaceAll(",", "|").replaceAll(" > ", " / ")],
    ["byte-order mark", `\uFEFF${GOOD}`],
    ["CRLF", GOOD.replaceAll("\n", "\r\n")],
    ["gzip", gzipSync(GOOD)],
    ["UTF-16 LE", utf16(GOOD, true)],
    ["UTF-16 BE", utf16(GOOD, false)],
    ["quoted", 'id,title,price\n"A1","Hose",12.90\nA2,"Rake",8.50\nA3,Pot,3'],
    ["RSS", rss],
    ["RSS, gzip", gzipSync(rss)],
    ["Atom", atom],
  ])("%s", async (_, content) => {
    const workspace = await testWorkspace();
    const job = await importFeed(workspace, content);
    expect(job.error).toBeNull();
    expect(job.result).toMatchObject({ rows: 3, stored: 3, new: 3, setAside: 0 });
    expect(await titles(workspace)).toEqual(["Hose", "Rake", "Pot"]);
    const { columns } = await loadCatalogue(workspace.db, ["price"]);
    expect([...(columns["price"] as { values: Float64Array }).values]).toEqual([12_900, 8_500, 3_000]);
  });

  it("reads Latin-1 and says so", async () => {
    const workspace = await testWorkspace();
    await importFeed(workspace, Buffer.from("id,title,price\n1,Gießkanne für Töpfe,9.90\n2,Rake,3\n", "latin1"));
    expect(await titles(workspace)).toEqual(["Gießkanne für Töpfe", "Rake"]);
    const { rows } = await workspace.db.$client.execute("SELECT notices FROM revisions");
    expect(String(rows[0]![0])).toContain("Latin-1");
  });
});

describe("a bad feed is refused in a sentence, and the catalogue stays as it was", () => {
  let workspace: Workspace;
  beforeAll(async () => {
    workspace = await testWorkspace();
    await importFeed(workspace, GOOD);
  });
  const many = (n: number, make: (i: number) => string) => Array.from({ length: n }, (_, i) => make(i)).join("");
  const entities = `<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;">]><rss><channel><item><id>&b;</id></item></channel></rss>`;
  it.each<[string, string | Uint8Array, string, RegExp]>([
    ["empty", "", "feed-empty", /empty/],
    ["white space", " \n\n ", "feed-empty", /white space/],
    ["picture", Buffer.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10, 0, 0]), "feed-not-text", /PNG picture/],
    ["binary", Buffer.from(many(99, (i) => String.fromCharCode(i % 7))), "feed-not-text", /binary/],
    ["web page", "<!DOCTYPE html><html><body>Log in</body></html>", "feed-is-page", /web page/],
    ["JSON without the fields", '[{"id":1}]', "mapping-incomplete", /Title, Price/],
    ["JSON without records", "[1, 2, 3]", "feed-json-no-items", /no list of records/],
    ["JSON cut off", '[{"id":"A1","title":"Hose","price":5},{"id":"A2","tit', "feed-json-broken", /breaks off/],
    ["JSON too deep", `[${'{"a":'.repeat(60)}1${"}".repeat(60)}]`, "feed-deep", /deeper/],
    [
      "ZIP of something else",
      Buffer.from("504b0506000000000000000000000000000000000000", "hex"),
      "feed-not-text",
      /binary/,
    ],
    ["Parquet cut off", Buffer.from("PAR1 and no more"), "feed-parquet-broken", /damaged/],
    ["one column", "id\nA1\nA2\n", "feed-one-column", /Only one column/],
    ["header only", "id,title,price,brand,category\n", "feed-nothing-usable", /no rows/],
    ["no title column", "id,price\n1,2\n3,4\n", "mapping-incomplete", /Title/],
    [
      "all in another currency",
      "id,title,price,brand,category\n1,Hose,5 USD,,\n2,Rake,6 USD,,\n",
      "feed-nothing-usable",
      /None of the 2 rows/,
    ],
    ["XML cut off", `<rss><channel><item><id>1</id><title>Ho`, "feed-xml-broken", /breaks off/],
    ["entity bomb", entities, "feed-xml-entities", /entities/],
    ["XML without items", "<rss><channel><title>x</title></channel></rss>", "feed-xml-no-items", /no <item>/],
    ["XML too deep", `<rss><item>${"<a>".repeat(60)}`, "feed-xml-deep", /deeper/],
    ["gzip bomb", gzipSync(Buffer.alloc(60 * 1024 * 1024, 65)), "feed-gzip-bomb", /blows up/],
    ["gzip cut off", gzipSync(GOOD.repeat(50)).subarray(0, 60), "feed-gzip-broken", /cut off/],
    ["600 columns", `${many(600, (i) => `c${i},`)}z\n${"1,".repeat(600)}2\n`, "feed-too-wide", /601 columns/],
    ["columns gone", "id,title,price\nA1,Hose,12.90\n", "feed-shape-changed", /Brand, Category/],
    ["most of it gone", "id,title,price,brand,category\nA1,Hose,12.90,,\n", "feed-loses-too-much", /67 %/],
  ])("%s", async (_, content, code, sentence) => {
    const job = await importFeed(workspace, content);
    expect(job.state).toBe("failed");
    expect(job.error?.code).toBe(code);
    expect(job.error?.message).toMatch(sentence);
    expect(await titles(workspace)).toEqual(["Hose", "Rake", "Pot"]);
    const [row] = await workspace.db.select().from(items).where(eq(items.itemId, "A2"));
    expect(row).toMatchObject({ fromRev: 1, toRev: null });
    const { rows } = await workspace.db.$client.execute("SELECT count(*) FROM items");
    expect(Number(rows[0]![0])).toBe(3);
  });

  it("takes the loss when told to", async () => {
    const own = await testWorkspace();
    await importFeed(own, GOOD);
    const job = await importFeed(own, "id,title,price\nA1,Hose,12.90\n", { acceptLoss: true });
    expect(job.result).toMatchObject({ stored: 1, gone: 2 });
    expect(await titles(own)).toEqual(["Hose"]);
  });

  it("reads no second feed beside the first", async () => {
    const job = await importFeed(workspace, GOOD, { feed: "other" });
    expect(job.error?.code).toBe("feed-second");
  });
});

describe("bad rows are set aside, the good ones stay", () => {
  it("keeps each with its reason, and counts agree everywhere", async () => {
    const workspace = await testWorkspace();
    const long = "x".repeat(5_000_000);
    const feed = [
      "id,title,price,note",
      "1,Hose,12.90,",
      "1,Hose again,12.90,",
      ",No ID,5,",
      "3,,5,",
      "4,No price,,",
      "5,Words,ask us,",
      "6,Negative,-5,",
      "7,Absurd,99999999999,",
      "8,Dollars,5 USD,",
      "9,Nowhere,5 QQQ,",
      "10,Shifted,5,a,b",
      `11,Long,5,${long}`,
      '12,"=HYPERLINK(""http://x"")",5,+1',
      "13,Last,5,",
      "14,Short,5",
    ].join("\n");
    const job = await importFeed(workspace, feed);
    expect(job.error).toBeNull();
    expect(job.result).toMatchObject({ rows: 15, stored: 4, new: 4, changed: 0, unchanged: 0, gone: 0, setAside: 11 });
    expect(await titles(workspace)).toEqual(["Hose", '=HYPERLINK("http://x")', "Last", "Short"]);
    const aside = await rowsSetAside(workspace.db, 0, 100);
    expect(aside.total).toBe(11);
    expect(aside.rows.map(({ row, reasons }) => `${row}: ${reasons.join("; ")}`)).toEqual([
      "3: Item ID used twice",
      "4: No item ID",
      "5: No title",
      "6: No price",
      "7: Price not readable",
      "8: Price below zero",
      "9: Price beyond belief",
      "10: Another currency",
      "11: Currency not known",
      "12: More cells than headings",
      "13: A cell over the limit",
    ]);
    const faults = await diagnose(workspace.db);
    const grave = faults.filter((fault) => fault.isAside).reduce((sum, fault) => sum + fault.count, 0);
    const [{ count }] = (await workspace.db.$client.execute("SELECT count(*) AS count FROM set_aside"))
      .rows as unknown as [{ count: number }];
    expect([grave, Number(count)]).toEqual([11, 11]);
  });

  it("tells headings apart that stand twice, and uses 200 columns", async () => {
    const workspace = await testWorkspace();
    const extra = Array.from({ length: 200 }, (_, i) => `f${i}`);
    const feed = `id,title,price,price,${extra.join(",")}\n1,Hose,5,6,${extra.join(",")}\n2,Rake,7,8,${extra.join(",")}\n`;
    const job = await importFeed(workspace, feed);
    expect(job.result).toMatchObject({ stored: 2 });
    const { names, columns } = await loadCatalogue(workspace.db, ["feed:price (2)", "feed:f199"]);
    expect(names.filter((name) => name.startsWith("feed:"))).toHaveLength(201);
    expect(cellText(columns["feed:price (2)"]!, 1)).toBe("8");
  });
});

describe("a refresh", () => {
  it("counts new, changed, unchanged, gone and back, keeps item numbers, and writes only what differs", async () => {
    const workspace = await testWorkspace();
    const feed = (rows: [string, string, string][]) =>
      `id,title,price\n${rows.map((row) => row.join(",")).join("\n")}\n`;
    await importFeed(
      workspace,
      feed([
        ["a", "A", "1"],
        ["b", "B", "2"],
        ["c", "C", "3"],
        ["d", "D", "4"],
      ]),
    );
    const second = await importFeed(
      workspace,
      feed([
        ["b", "B", "2"],
        ["c", "C", "9"],
        ["d", "D", "4"],
        ["e", "E", "5"],
      ]),
    );
    expect(second.result as RefreshCounts).toMatchObject({ new: 1, changed: 1, unchanged: 2, gone: 1 });
    const third = await importFeed(
      workspace,
      feed([
        ["a", "A", "1"],
        ["b", "B", "2"],
        ["c", "C", "9"],
        ["d", "D", "4"],
        ["e", "E", "5"],
      ]),
    );
    expect(third.result as RefreshCounts).toMatchObject({ new: 1, changed: 0, unchanged: 4, gone: 0 });
    const versions = await workspace.db.select().from(items);
    expect(versions).toHaveLength(7);
    const numbers = new Set(versions.filter((version) => version.itemId === "a").map((version) => version.itemNo));
    expect([...numbers]).toEqual([1]);
    expect(
      versions
        .filter((version) => version.toRev === null)
        .map((version) => version.itemId)
        .sort(),
    ).toEqual(["a", "b", "c", "d", "e"]);
    const { columns } = await loadCatalogue(workspace.db, ["id", "price"]);
    expect([...(columns["price"] as { values: Float64Array }).values]).toEqual([1000, 2000, 9000, 4000, 5000]);
  });

  it("leaves the same catalogue as reading the last feed alone", async () => {
    const row = (i: number, price: number) =>
      `R${i},Item ${i % 7},${price}.00,${i % 3 ? "Maker" : ""},A > B${i % 4},${i % 5}`;
    const feed = (rows: string[]) => `id,title,price,brand,category,shade\n${rows.join("\n")}\n`;
    const before = feed(Array.from({ length: 60 }, (_, i) => row(i, 5)));
    const after = feed([
      ...Array.from({ length: 55 }, (_, i) => row(59 - i, i % 6 ? 5 : 7)),
      row(59, 5),
      "R5,Again,1,,,",
      row(77, 1),
    ]);
    const [refreshed, fresh] = [await testWorkspace(), await testWorkspace()];
    await importFeed(refreshed, before);
    const job = await importFeed(refreshed, after);
    expect(job.result).toMatchObject({ unchanged: 45, changed: 10, new: 1, gone: 5, setAside: 2 });
    await importFeed(fresh, after);
    const dump = async ({ db }: Workspace) => {
      const { columns, length } = await loadCatalogue(db, "all");
      const names = Object.keys(columns)
        .filter((name) => name !== "itemNo")
        .sort();
      return Array.from({ length }, (_, at) => names.map((name) => `${name}=${cellText(columns[name]!, at)}`));
    };
    expect(await dump(refreshed)).toEqual(await dump(fresh));
  });

  it("can be stopped by a person, who finds everything as before", async () => {
    const workspace = await testWorkspace();
    await importFeed(workspace, GOOD);
    await workspace.db.$client.execute(
      "CREATE TRIGGER ask AFTER INSERT ON items WHEN (SELECT count(*) FROM items) > 3 BEGIN UPDATE jobs SET cancel_asked = 1 WHERE state = 'running'; END",
    );
    const rows = Array.from({ length: 30_000 }, (_, i) => `N${i},Item ${i},5.00,Brand,Cat`).join("\n");
    const job = await importFeed(workspace, `${GOOD}${rows}\n`);
    expect(job.state).toBe("cancelled");
    expect(await titles(workspace)).toEqual(["Hose", "Rake", "Pot"]);
    expect(await workspace.db.select().from(setAside)).toEqual([]);
    const { rows: count } = await workspace.db.$client.execute("SELECT count(*) FROM items");
    expect(Number(count[0]![0])).toBe(3);
  });
});
