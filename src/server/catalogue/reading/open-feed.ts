import { open, stat } from "node:fs/promises";
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
  /** The sheet of a workbook, by name. */
  sheet: z.string().max(200).nullable().default(null),
  /** Whether the header may stand below lines about the file, as in reports. */
  headerBelow: z.boolean().default(false),
});

export type ReadingChoice = z.infer<typeof readingSchema>;

export const NO_CHOICE: ReadingChoice = {
  encoding: null,
  delimiter: null,
  sheet: null,
  headerBelow: false,
};

export interface OpenFeed extends FeedRows {
  format: FeedFormat;
  encoding: string | null;
  compressed: boolean;
}

/** Characters looked at to find out format and delimiter. */
const SAMPLE = 256 * 1024;

/**
 * Looks at a feed file, finds out what it is, and opens its rows.
 * @throws FailureError when it is empty, no feed that can be read, broken, or too large
 */
export async function openFeed(file: string, choice: ReadingChoice = NO_CHOICE): Promise<OpenFeed> {
  const { size } = await stat(file);
  if (size === 0) giveUp("feed-empty", "The file is empty.", "Export the feed again and upload it.");
  let head = await readHead(file, size);
  let source = file;
  const compressed = isGzip(head);
  if (compressed) {
    const inner = await gunzipToFile(file, size, `${file}.inner`, "look");
    head = inner.head;
    // Workbooks and Parquet files are read from their end, so they must lie open on the disk.
    if (detectKind(head) !== "text") {
      await gunzipToFile(file, size, `${file}.inner`, "all");
      source = `${file}.inner`;
    }
  }
  const kind = detectKind(head);
  if (kind === "parquet") {
    return { format: "parquet", encoding: null, compressed, ...(await openParquet(source)) };
  }
  if (kind === "zip") {
    return { format: "xlsx", encoding: null, compressed, ...(await openSheet(source, choice.sheet)) };
  }
  const text = await openFeedText(file, choice.encoding);
  const { format, rows } = await openText(text, choice);
  return { format, encoding: text.encoding, compressed, ...rows };
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
      return { format: "xml", rows: await openXml(text) };
    case "json":
      return { format: "json", rows: await openJson(text, sample) };
    case "json-lines":
      return { format: "json-lines", rows: await openJsonLines(text) };
    default:
      return { format: "delimited", rows: openDelimited(text, sample, choice.delimiter, choice.headerBelow) };
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
