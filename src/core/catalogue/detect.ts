import Papa from "papaparse";
import { fail, ok, type Outcome } from "../kit/outcome";
import { headerAt, TOP_ROWS } from "./header-at";

/** Encodings that can be chosen; UTF-8, UTF-16, Windows-1252 and Windows-1250 are found out by themselves. */
export const ENCODINGS = [
  "utf-8",
  "utf-16le",
  "utf-16be",
  "windows-1252",
  "iso-8859-2",
  "iso-8859-15",
  "windows-1250",
  "windows-1251",
  "shift_jis",
  "gb18030",
] as const;

export type Encoding = (typeof ENCODINGS)[number];
export type FeedFormat = "delimited" | "xml" | "json" | "json-lines" | "xlsx" | "parquet";

const SIGNATURES: [bytes: number[], what: string][] = [
  [[0x89, 0x50, 0x4e, 0x47], "a PNG picture"],
  [[0xff, 0xd8, 0xff], "a JPEG picture"],
  [[0x47, 0x49, 0x46, 0x38], "a GIF picture"],
  [[0x52, 0x49, 0x46, 0x46], "a RIFF media file (such as a WebP picture)"],
  [[0x25, 0x50, 0x44, 0x46], "a PDF document"],
  [[0xd0, 0xcf, 0x11, 0xe0], "an old office document"],
];

const READABLE =
  "Save the feed as CSV, TSV, RSS or Atom XML, JSON, JSON Lines, XLSX or Parquet, gzipped if you like, and upload that.";

function startsWith(bytes: Uint8Array, signature: number[]): boolean {
  return signature.every((byte, i) => bytes[i] === byte);
}

/** Whether bytes begin a gzip member. */
export function isGzip(bytes: Uint8Array): boolean {
  return bytes[0] === 0x1f && bytes[1] === 0x8b;
}

/** Whether a file, from its first bytes, is a ZIP archive (as workbooks are), a Parquet file, or else taken as text. */
export function detectKind(head: Uint8Array): "zip" | "parquet" | "text" {
  if (startsWith(head, [0x50, 0x4b, 0x03, 0x04])) return "zip";
  return startsWith(head, [0x50, 0x41, 0x52, 0x31]) ? "parquet" : "text";
}

/**
 * The text encoding of a feed from its first bytes: by byte-order mark, by the zero bytes of UTF-16, else UTF-8.
 * Whether UTF-8 holds to the end is for the reader to find out; see `windows-1252` there.
 * @returns a failure when the bytes are another kind of file.
 */
export function detectEncoding(head: Uint8Array): Outcome<Encoding> {
  if (head.length === 0) return fail("feed-empty", "The file is empty.", "Export the feed again and upload it.");
  for (const [signature, what] of SIGNATURES) {
    if (startsWith(head, signature)) return fail("feed-not-text", `This is ${what}, not a text feed.`, READABLE);
  }
  if (head[0] === 0xff && head[1] === 0xfe) return ok("utf-16le");
  if (head[0] === 0xfe && head[1] === 0xff) return ok("utf-16be");
  const zeros = [0, 0];
  const probe = Math.min(head.length, 4096);
  for (let i = 0; i < probe; i++) if (head[i] === 0) zeros[i % 2] = zeros[i % 2]! + 1;
  const [even = 0, odd = 0] = zeros;
  if (odd > probe * 0.2 && even < probe * 0.05) return ok("utf-16le");
  if (even > probe * 0.2 && odd < probe * 0.05) return ok("utf-16be");
  if (even + odd > 0) return fail("feed-not-text", "This file holds binary data, not a text feed.", READABLE);
  return ok("utf-8");
}

/** Whether the text is XML, JSON, JSON Lines or delimited. */
export function detectFormat(sample: string): Outcome<FeedFormat> {
  const text = sample.trimStart();
  if (text === "") return fail("feed-empty", "The file holds nothing but white space.", "Export the feed again.");
  if (text.startsWith("<")) {
    if (/^<!doctype html|^<html/i.test(text)) {
      return fail(
        "feed-is-page",
        "This is a web page, not a feed.",
        "Perhaps the download asked for a login. Fetch the feed's own address and upload that file.",
      );
    }
    return ok("xml");
  }
  if (text.startsWith("{")) return ok(isJsonLine(text) ? "json-lines" : "json");
  return ok(text.startsWith("[") ? "json" : "delimited");
}

/** Whether the first line is a whole JSON record with another one under it. */
function isJsonLine(text: string): boolean {
  const [first = "", ...rest] = text.split(/\r?\n/, 50);
  if (!rest.some((line) => line.trimStart().startsWith("{"))) return false;
  try {
    JSON.parse(first);
    return true;
  } catch {
    return false;
  }
}

export const DELIMITERS = [",", ";", "\t", "|", "^", "~"] as const;

/** The delimiter that a first line such as `sep=;` states for spreadsheet programs, or null. */
export function statedDelimiter(sample: string): string | null {
  const found = /^\uFEFF?"?sep=(.)"?\s*\n/i.exec(sample)?.[1];
  return found && (DELIMITERS as readonly string[]).includes(found) ? found : null;
}

/**
 * The delimiter of a sample: the one that parts the most lines into as many cells as the header has, and into the most
 * cells among equals. Quoted cells are respected; the header may stand below lines about the file.
 */
export function detectDelimiter(sample: string): string {
  let best = ",";
  let bestScore = 0;
  for (const delimiter of DELIMITERS) {
    const { data } = Papa.parse<string[]>(sample, { delimiter, preview: TOP_ROWS, skipEmptyLines: "greedy" });
    // The last line of a sample is usually cut.
    const rows = data.length > 2 ? data.slice(0, -1) : data;
    const at = headerAt(rows);
    const below = rows.slice(Math.max(0, at));
    const width = below[0]?.length ?? 0;
    if (at < 0 || width < 2) continue;
    const alike = below.filter((row) => row.length === width).length / rows.length;
    const score = alike * alike * Math.log2(width + 1);
    if (score > bestScore) [best, bestScore] = [delimiter, score];
  }
  return best;
}
