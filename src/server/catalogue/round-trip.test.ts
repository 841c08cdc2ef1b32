import { gzipSync } from "node:zlib";
import fc from "fast-check";
import Papa from "papaparse";
import { describe, expect, it } from "vitest";
import { cellText } from "@/core/kit/columns";
import { millsToDecimal } from "@/core/kit/money";
import { importFeed, testWorkspace } from "../testing";
import { loadCatalogue } from "./load";

/** Text as shops write it: quotes, delimiters, line ends, other scripts, pictures, formulas, mark-up. */
const text = fc
  .array(
    fc.constantFrom(
      "Hose",
      '"',
      "'",
      ",",
      ";",
      "\t",
      "|",
      "\n",
      "=1+1",
      "Gießkanne",
      "طلمبة",
      "🌱",
      "<b>x</b>",
      "&amp;",
      " ",
      "o'er",
      "\\",
    ),
    { minLength: 1, maxLength: 6 },
  )
  .map((parts) => parts.join(""));
const title = text.filter((value) => value.trim() !== "");
const item = fc.record({
  title,
  brand: fc.oneof(fc.constant(""), text),
  // Whole cents: with three digits behind the point an amount can be read two ways.
  price: fc.integer({ min: 0, max: 999_999 }).map((cents) => cents * 10),
  note: text,
});
const form = fc.record({
  delimiter: fc.constantFrom(",", ";", "\t", "|"),
  newline: fc.constantFrom("\n" as const, "\r\n" as const),
  allQuoted: fc.boolean(),
  encoding: fc.constantFrom("utf8", "bom", "utf16le"),
  zipped: fc.boolean(),
});

type Item = { title: string; brand: string; price: number; note: string };

const HEADINGS = ["id", "title", "brand", "price", "note"];

function encode(csv: string, encoding: string, zipped: boolean): Uint8Array {
  const bytes =
    encoding === "utf16le"
      ? Buffer.from(`\uFEFF${csv}`, "utf16le")
      : Buffer.from(encoding === "bom" ? `\uFEFF${csv}` : csv, "utf8");
  return zipped ? gzipSync(bytes) : bytes;
}

/** Line ends inside a quoted cell come back as the file has them; white space around a cell goes. */
const tidy = (value: string) => value.replaceAll("\r\n", "\n").trim();

async function readBack(content: Uint8Array | string, count: number) {
  const workspace = await testWorkspace();
  const job = await importFeed(workspace, content);
  expect(job.error).toBeNull();
  expect(job.result).toMatchObject({ rows: count, stored: count, setAside: 0 });
  const { columns, length } = await loadCatalogue(workspace.db, "all");
  const cell = (name: string, row: number) => (columns[name] ? tidy(cellText(columns[name], row)) : "");
  return Array.from({ length }, (_, row) => ({
    id: cell("id", row),
    title: cell("title", row),
    brand: cell("brand", row),
    price: Number(cell("price", row)),
    note: cell("feed:note", row),
  }));
}

const expected = (items: Item[]) =>
  items.map(({ title: name, brand, price, note }, i) => ({
    id: `R${i}`,
    title: tidy(name),
    brand: tidy(brand),
    price,
    note: tidy(note),
  }));

describe("a feed is read back as it was written", () => {
  it("as delimited text in any form", async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(item, { minLength: 3, maxLength: 20 }),
        form,
        async (items, { delimiter, newline, allQuoted, encoding, zipped }) => {
          const rows = items.map((entry, i) => [
            `R${i}`,
            entry.title,
            entry.brand,
            millsToDecimal(entry.price),
            entry.note,
          ]);
          const csv = Papa.unparse([HEADINGS, ...rows], { delimiter, newline, quotes: allQuoted });
          expect(await readBack(encode(csv, encoding, zipped), items.length)).toEqual(expected(items));
        },
      ),
      { numRuns: 25 },
    );
  });

  it("as RSS and Atom", async () => {
    const escape = (value: string) => value.replaceAll("&", "&amp;").replaceAll("<", "&lt;").replaceAll(">", "&gt;");
    await fc.assert(
      fc.asyncProperty(
        fc.array(item, { minLength: 1, maxLength: 12 }),
        fc.boolean(),
        fc.boolean(),
        async (items, isAtom, asCdata) => {
          const value = (content: string) =>
            asCdata && !content.includes("]]>") ? `<![CDATA[${content}]]>` : escape(content);
          const [open, close] = isAtom ? ["<entry>", "</entry>"] : ["<item>", "</item>"];
          const body = items.map(
            (entry, i) =>
              `${open}<g:id>R${i}</g:id><title>${value(entry.title)}</title><g:brand>${value(entry.brand)}</g:brand><g:price>${millsToDecimal(entry.price)}</g:price><g:note>${value(entry.note)}</g:note>${close}`,
          );
          const xml = isAtom
            ? `<?xml version="1.0"?><feed xmlns="http://www.w3.org/2005/Atom" xmlns:g="urn:g">${body.join("")}</feed>`
            : `<rss version="2.0" xmlns:g="urn:g"><channel>${body.join("\n")}</channel></rss>`;
          expect(await readBack(xml, items.length)).toEqual(expected(items));
        },
      ),
      { numRuns: 20 },
    );
  });
});

describe("a feed cut off anywhere", () => {
  it("never leaves half a catalogue: it is refused, or every whole row before the cut is there", async () => {
    const rows = Array.from({ length: 40 }, (_, i) => `C${i},"Hose, model ${i}",${i + 1}.50`);
    const csv = `id,title,price\n${rows.join("\n")}\n`;
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 60, max: csv.length }), async (cut) => {
        const workspace = await testWorkspace();
        const job = await importFeed(workspace, csv.slice(0, cut));
        const { columns, length } = await loadCatalogue(workspace.db, ["id"]);
        if (job.state === "failed") {
          expect(length).toBe(0);
          return;
        }
        // Lines 1 to n lie wholly before the cut; the one that was cut may be read, set aside, or missing.
        const whole = csv.slice(0, cut).split("\n").length - 2;
        expect(length).toBeGreaterThanOrEqual(whole);
        expect(length).toBeLessThanOrEqual(whole + 1);
        for (let row = 0; row < whole; row++) expect(cellText(columns["id"]!, row)).toBe(`C${row}`);
      }),
      { numRuns: 25 },
    );
  });
});
