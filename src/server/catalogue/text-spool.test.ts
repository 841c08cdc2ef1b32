import { mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { expect, test } from "vitest";
import { CatalogueColumnsBuilder, OWN_TEXTS } from "@/core/catalogue/catalogue-columns";
import { mappingSchema } from "@/core/catalogue/mapping";
import type { ReadItem } from "@/core/catalogue/read-row";
import { cellText } from "@/core/kit/columns";
import { decodeColumn } from "@/core/kit/column-bytes";
import { randomFrom } from "@/core/kit/random";
import { testWorkspace } from "../testing";
import { loadBytes, storeColumns } from "./revisions";
import { TextSpool } from "./text-spool";

const folder = mkdtempSync(path.join(tmpdir(), "spool-"));
const spool = (name: string) => new TextSpool(path.join(folder, name));

/** Texts with letters of one to four bytes, some empty, and some longer than the pieces that files are read by. */
function texts(count: number): string[] {
  const random = randomFrom("spool");
  return Array.from({ length: count }, (_, i) => {
    if (i === 7) return "Gießkanne 🪴 ".repeat(120_000);
    if (random() < 0.2) return "";
    return `${[..."käfer🐞x"].slice(0, Math.floor(random() * 8)).join("")}${i}`.repeat(Math.floor(random() * 400));
  });
}

test("texts come back from a file as they went in, however they lie across its pieces", () => {
  const made = texts(3_000);
  const sink = spool("plain");
  for (const text of made) sink.push(text);
  const sunk = sink.finish();
  for (const column of [
    sunk.column(),
    sunk.column(),
    decodeColumn(Buffer.concat(Array.from(sunk.pieces(), (piece) => Buffer.from(piece)))),
  ]) {
    expect(made.every((text, row) => cellText(column, row) === text)).toBe(true);
  }
  // The pieces share one buffer, so a reader that keeps one must have copied it.
  expect([...sunk.pieces()].length).toBeGreaterThan(3);
});

function item(i: number): ReadItem {
  const blank = {
    salePrice: null,
    cost: null,
    fee: null,
    stock: i,
    tax: null,
    gtin: "",
    color: "",
    size: "",
    warnings: 0,
  };
  const own = {
    id: `K${i}`,
    title: `Spade ${i % 5}`,
    link: "",
    image: `i/${i}`,
    description: i % 3 ? "" : `About ${i}`,
  };
  return {
    ...blank,
    ...own,
    price: 1000,
    availability: "in stock",
    brand: "B",
    category: "Tools > Spades",
    family: "",
  };
}

test("a catalogue whose texts move to files on the way equals one kept in memory, and is stored and told apart alike", async () => {
  const mapping = mappingSchema.parse({ columns: { id: "id" } });
  const whole = new CatalogueColumnsBuilder(["id", "tint"], mapping);
  const moved = new CatalogueColumnsBuilder(["id", "tint"], mapping, spool, 4);
  for (let i = 0; i < 11; i++) for (const builder of [whole, moved]) builder.push(i, i * 7, item(i), [`K${i}`, "red"]);
  const a = whole.finish();
  const b = moved.finish();
  expect(Object.keys(b.sunk).sort()).toEqual([...OWN_TEXTS].sort());
  expect(Object.keys(b.columns).sort()).toEqual(Object.keys(a.columns).sort());
  for (const [name, column] of Object.entries(a.columns)) {
    const same = b.columns[name]!;
    for (let row = 0; row < 11; row++) expect(cellText(same, row)).toBe(cellText(column, row));
  }
  const { db } = await testWorkspace();
  const stored = await storeColumns(db, 1, b.columns, {}, {}, b.sunk);
  expect(new Set(Object.values(stored))).toEqual(new Set([1]));
  const title = decodeColumn((await loadBytes(db, 1, "title"))!);
  expect(Array.from({ length: 11 }, (_, row) => cellText(title, row))).toEqual(
    Array.from({ length: 11 }, (_, i) => item(i).title),
  );
  // The same texts again are served by the earlier revision; one other title is not.
  expect(await storeColumns(db, 2, b.columns, stored, {}, b.sunk)).toEqual(stored);
  const other = new CatalogueColumnsBuilder(["id", "tint"], mapping, (name) => spool(`${name}2`), 4);
  for (let i = 0; i < 11; i++)
    other.push(i, i * 7, { ...item(i), title: i === 10 ? "Fork" : item(i).title }, [`K${i}`, "red"]);
  const changed = other.finish();
  expect(await storeColumns(db, 3, changed.columns, stored, {}, changed.sunk)).toEqual({ ...stored, title: 3 });
});
