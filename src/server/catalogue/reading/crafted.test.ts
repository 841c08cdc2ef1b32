import { importFeed, testWorkspace } from "../../testing";
import { listFeeds, rowsSetAside } from "../feeds";
import { randomUUID } from "node:crypto";
import { mkdirSync, writeFileSync } from "node:fs";
import path from "node:path";
import { crc32, deflateRawSync, gzipSync } from "node:zlib";
import { describe, expect, it } from "vitest";
import { dataDir } from "../../settings";
import { lookInto } from "./look";
import { NO_CHOICE } from "./open-feed";

function stored(content: Buffer): string {
  const folder = path.join(dataDir(), "crafted");
  mkdirSync(folder, { recursive: true });
  const file = path.join(folder, randomUUID());
  writeFileSync(file, content);
  return file;
}

/** A part of a text, so many times over: unfolds to any size while it is compressed. */
interface Repeated {
  head: string;
  part: string;
  times: number;
  tail: string;
}

function unfolded({ head, part, times, tail }: Repeated): Buffer {
  return Buffer.concat([Buffer.from(head), Buffer.from(part.repeat(times)), Buffer.from(tail)]);
}

/** A ZIP archive by hand (APPNOTE 6.3.10): local headers, a directory, its end. */
function zip(entries: Record<string, Buffer>): Buffer {
  const locals: Buffer[] = [];
  const directory: Buffer[] = [];
  let at = 0;
  for (const [name, content] of Object.entries(entries)) {
    const packed = deflateRawSync(content, { level: 1 });
    const common = Buffer.alloc(26);
    common.writeUInt16LE(20, 0);
    common.writeUInt16LE(8, 4);
    common.writeUInt32LE(crc32(content), 10);
    common.writeUInt32LE(packed.length, 14);
    common.writeUInt32LE(content.length, 18);
    common.writeUInt16LE(name.length, 22);
    const local = Buffer.concat([Buffer.from("PK\x03\x04"), common, Buffer.from(name), packed]);
    const rest = Buffer.alloc(14);
    rest.writeUInt32LE(at, 10);
    directory.push(Buffer.concat([Buffer.from("PK\x01\x02\x14\0"), common, rest, Buffer.from(name)]));
    locals.push(local);
    at += local.length;
  }
  const central = Buffer.concat(directory);
  const end = Buffer.alloc(22);
  end.write("PK\x05\x06", 0, "latin1");
  end.writeUInt16LE(locals.length, 8);
  end.writeUInt16LE(locals.length, 10);
  end.writeUInt32LE(central.length, 12);
  end.writeUInt32LE(at, 16);
  return Buffer.concat([...locals, central, end]);
}

const SHEETS = {
  "[Content_Types].xml": `<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="xml" ContentType="application/xml"/><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/></Types>`,
  "_rels/.rels": `<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
  "xl/_rels/workbook.xml.rels": `<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="r2" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/sharedStrings" Target="sharedStrings.xml"/></Relationships>`,
  "xl/workbook.xml": `<?xml version="1.0"?><workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="S" sheetId="1" r:id="r1"/></sheets></workbook>`,
};

const MAIN = `xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"`;

function workbook(sheet: Buffer, strings: Buffer = Buffer.from(`<sst ${MAIN}><si><t>id</t></si></sst>`)): Buffer {
  const parts = Object.entries(SHEETS).map(([name, text]): [string, Buffer] => [name, Buffer.from(text)]);
  return zip({ ...Object.fromEntries(parts), "xl/sharedStrings.xml": strings, "xl/worksheets/sheet1.xml": sheet });
}

/** The letters of a column, from 0 on. */
function letters(at: number): string {
  const last = String.fromCharCode(65 + (at % 26));
  return at < 26 ? last : letters(Math.floor(at / 26) - 1) + last;
}

function rowOf(row: number, texts: string[]): string {
  const cells = texts.map((text, at) => `<c r="${letters(at)}${row}" t="inlineStr"><is><t>${text}</t></is></c>`);
  return `<row r="${row}">${cells.join("")}</row>`;
}

function sheetOf(rows: string[][]): Buffer {
  const body = rows.map((texts, i) => rowOf(i + 1, texts)).join("");
  return Buffer.from(`<worksheet ${MAIN}><sheetData>${body}</sheetData></worksheet>`);
}

const WIDE = Array.from({ length: 16_384 }, (_, i) => `h${i}`);

const FILES: [name: string, make: () => Buffer][] = [
  ["a workbook of 16,384 columns", () => workbook(sheetOf(Array.from({ length: 150 }, () => WIDE)))],
  [
    "a workbook whose shared strings unfold to hundreds of megabytes",
    () =>
      workbook(
        sheetOf([
          ["id", "title"],
          ["A1", "Rake"],
        ]),
        unfolded({
          head: `<sst ${MAIN}>`,
          part: `<si><t>${"y".repeat(200)}</t></si>`,
          times: 700_000,
          tail: "</sst>",
        }),
      ),
  ],
  [
    "a JSON record of millions of members",
    () => gzipSync(Buffer.from(`[{${Array.from({ length: 1_000_000 }, (_, i) => `"k${i}":1`).join()}}]`), { level: 1 }),
  ],
  ["a JSON number of 50 MB", () => gzipSync(unfolded({ head: '[{"id":', part: "1", times: 5e7, tail: "}]" }))],
  [
    "an XML attribute of 300 MB",
    () =>
      gzipSync(unfolded({ head: '<rss><channel><item a="', part: "z", times: 3e8, tail: '"/></channel></rss>' }), {
        level: 1,
      }),
  ],
  [
    "an XML comment of 100 MB",
    () =>
      gzipSync(unfolded({ head: "<rss><channel><!--", part: "z", times: 1e8, tail: "--></channel></rss>" }), {
        level: 1,
      }),
  ],
];

describe("a crafted file", () => {
  it("by hand made as an archive is read when it is honest", async () => {
    const sheet = sheetOf([
      ["id", "title"],
      ["A1", "Rake"],
    ]);
    const look = await lookInto(stored(workbook(sheet)), NO_CHOICE);
    expect([look.headings, look.samples]).toEqual([["id", "title"], [["A1", "Rake"]]]);
  });

  it("whose rows bear one number twice, or none, is read row by row, and that is said", async () => {
    const rows = [
      ["id", "title", "price"],
      ["A1", "Rake", "5"],
      ["A2", "Hoe", "6"],
      ["A3", "Pot", "x"],
      ["A4", "Can", "7"],
    ];
    const numbers = ["1", "2", "2", "nine", "4"];
    const body = rows.map((texts, i) => rowOf(i + 1, texts).replace(/ r="\d+"/, ` r="${numbers[i]}"`)).join("");
    const sheet = Buffer.from(`<worksheet ${MAIN}><sheetData>${body}</sheetData></worksheet>`);
    const workspace = await testWorkspace();
    const job = await importFeed(workspace, workbook(sheet));
    expect([job.error, job.result]).toEqual([null, expect.objectContaining({ rows: 4, stored: 3, setAside: 1 })]);
    expect((await rowsSetAside(workspace.db, 0, 10)).rows.map(({ row }) => row)).toEqual([4]);
    expect((await listFeeds(workspace.db))[0]!.notices.join()).toContain("3 rows of the sheet bear a number");
  });

  it.each(FILES)("%s ends in time with a sentence, and this process goes on", async (_, make) => {
    const file = stored(make());
    // What this process itself worked, not the clock: other programs of a machine take the clock's time as they like.
    const worked = process.cpuUsage();
    let turns = 0;
    const beat = setInterval(() => turns++, 10);
    const before = process.memoryUsage().rss;
    const failure: unknown = await lookInto(file, NO_CHOICE).then(
      ({ headings }) => ({ failure: { message: `read, with ${headings.length} columns` } }),
      (error: unknown) => error,
    );
    clearInterval(beat);
    const { user, system } = process.cpuUsage(worked);
    expect((failure as { failure: { message: string } }).failure.message).toMatch(
      /^(This |The |A |An |Record 1 |Something at line 1 |read, )/,
    );
    expect(process.memoryUsage().rss - before).toBeLessThan(200e6);
    expect(turns).toBeGreaterThan(0);
    expect((user + system) / 1000).toBeLessThan(1_500);
    // The next file is looked into as if nothing had been.
    const next = await lookInto(stored(Buffer.from("id,title\nA1,Rake\n")), NO_CHOICE);
    expect(next.samples).toEqual([["A1", "Rake"]]);
  });
});
