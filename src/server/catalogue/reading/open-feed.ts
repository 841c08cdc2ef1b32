import { open, rm, stat } from "node:fs/promises";
import { z } from "zod";
import { detectFormat, detectKind, ENCODINGS, isGzip, type FeedFormat } from "@/core/catalogue/detect";
import { FailureError, giveUp } from "@/core/kit/outcome";
import { openDelimited } from "./delimited-rows";
import type { FeedRows } from "./feed-rows";
import { gunzipToFile, openFeedText, type FeedText } from "./feed-text";
import { openJson, openJsonLines } from "./json-rows";
import { openParquet } from "./parquet-rows";
import { openSheet } from "./sheet-rows";
import { openXml } from "./xml-rows";

/** What a person chose instead of what is found out from the file. */
export const readingSchema = z.object({
  encoding: z.enum(ENCODINGS).nullable().default(null),
  delimiter: z.string().length(1).nullable().default(null),
  /** The sheet of a workbook, the element of XML or the list of JSON that holds the rows, by name. */
  part: z.string().max(200).nullable().default(null),
  /** The row of the file that the header stands in, counted from 1. */
  headerRow: z.int().min(1).max(1000).nullable().default(null),
});

export type ReadingChoice = z.infer<typeof readingSchema>;

export const NO_CHOICE: ReadingChoice = {
  encoding: null,
  delimiter: null,
  part: null,
  headerRow: null,
};

export interface OpenFeed extends FeedRows {
  format: FeedFormat;
  encoding: string | null;
  compressed: boolean;
}

/** How often a file may be compressed over and over. */
const MOST_LAYERS = 2;

/** Where the inside of a compressed file is put. */
const innerFile = (file: string) => `${file}.inner`;

/** Removes a feed file and what was unpacked from it. */
export async function removeFeedFile(file: string): Promise<void> {
  for (let layer = 0, name = file; layer <= MOST_LAYERS + 1; layer++, name = innerFile(name)) {
    await rm(name, { force: true });
  }
}

async function filledSize(file: string): Promise<number> {
  const { size } = await stat(file);
  if (size === 0) giveUp("feed-empty", "The file is empty.", "Export the feed again and upload it.");
  return size;
}

/** Characters looked at to find out format and delimiter. */
const SAMPLE = 256 * 1024;

/**
 * Looks at a feed file, finds out what it is, and opens its rows.
 * @throws FailureError when it is empty, no feed that can be read, broken, or too large
 */
export async function openFeed(file: string, choice: ReadingChoice = NO_CHOICE): Promise<OpenFeed> {
  let source = file;
  let size = await filledSize(source);
  let head = await readHead(source, size);
  const compressed = isGzip(head);
  for (let layer = 0; isGzip(head); layer++) {
    ({ head } = await gunzipToFile(source, size, innerFile(source), "look"));
    // Text is unpacked while it is read. Workbooks and Parquet files are read from their end, so they must lie open on
    // the disk, and so must what was compressed twice.
    if (!isGzip(head) && detectKind(head) === "text") break;
    if (layer >= MOST_LAYERS) {
      giveUp("feed-gzip-deep", `The file is compressed more than ${MOST_LAYERS} times over.`, "Compress it once.");
    }
    await gunzipToFile(source, size, innerFile(source), "all");
    source = innerFile(source);
    size = await filledSize(source);
  }
  const kind = detectKind(head);
  if (kind === "parquet") {
    return withFormat(await openParquet(source), { format: "parquet", encoding: null, compressed });
  }
  if (kind === "zip") {
    const sheet = await openSheet(source, choice.part, choice.headerRow);
    return withFormat(sheet, { format: "xlsx", encoding: null, compressed });
  }
  const text = await openFeedText(source, choice.encoding);
  const { format, rows } = await openText(text, choice);
  return withFormat(rows, { format, encoding: text.encoding, compressed });
}

/** The rows with what the file is: the same object, since what is known only once all is read is put down there. */
function withFormat(rows: FeedRows, about: Omit<OpenFeed, keyof FeedRows>): OpenFeed {
  return Object.assign(rows, about);
}

async function openText(text: FeedText, choice: ReadingChoice): Promise<{ format: FeedFormat; rows: FeedRows }> {
  let sample = "";
  for await (const piece of text.read()) {
    sample += piece;
    if (sample.length >= SAMPLE) break;
  }
  sample = sample.replace(/^\uFEFF/, "");
  const format = choice.delimiter ? ({ ok: true, value: "delimited" } as const) : detectFormat(sample);
  if (!format.ok) throw new FailureError(format.error);
  switch (format.value) {
    case "xml":
      return { format: "xml", rows: await openXml(text, sample, choice.part) };
    case "json":
      return { format: "json", rows: await openJson(text, sample, choice.part) };
    case "json-lines":
      return { format: "json-lines", rows: await openJsonLines(text) };
    default:
      return { format: "delimited", rows: openDelimited(text, sample, choice.delimiter, choice.headerRow) };
  }
}

async function readHead(file: string, size: number): Promise<Buffer> {
  const handle = await open(file);
  try {
    const head = Buffer.alloc(Math.min(size, 65_536));
    await handle.read(head, 0, head.length, 0);
    return head;
  } finally {
    await handle.close();
  }
}
