import { Readable } from "node:stream";
import Papa from "papaparse";
import { detectDelimiter, detectFormat } from "@/core/catalogue/detect";
import { cleanHeadings } from "@/core/catalogue/mapping";
import { LIMITS, XmlItemReader } from "@/core/catalogue/xml-items";
import { FailureError, giveUp } from "@/core/kit/outcome";
import type { FeedText } from "./feed-text";

/** Rows read together. `headings` of an XML feed can still grow with later batches (the same array). */
export interface RowBatch {
  rows: string[][];
  /** Characters of the feed read so far. */
  read: number;
}

export interface FeedRows {
  format: "delimited" | "xml";
  delimiter: string | null;
  headings: string[];
  /** Headings that stood twice and were told apart by a number. */
  repeated: string[];
  batches(): AsyncIterable<RowBatch>;
}

/** Characters looked at to find out format and delimiter. */
const SAMPLE = 256 * 1024;
/** Rows looked at before an XML feed's columns are taken as known. */
const XML_SAMPLE_ROWS = 200;
/** Parsed pieces that may wait for the work on earlier ones. */
const MOST_QUEUED = 4;
/** A quoted cell that runs longer than this without an end is an unclosed quote. */
const LONGEST_QUOTE = 8 * 1024 * 1024;

/** Opens a feed's rows. @throws FailureError when it is no feed that can be read */
export async function openFeedRows(text: FeedText): Promise<FeedRows> {
  let sample = "";
  for await (const piece of text.read()) {
    sample += piece;
    if (sample.length >= SAMPLE) break;
  }
  sample = sample.replace(/^\uFEFF/, "");
  const format = detectFormat(sample);
  if (!format.ok) throw new FailureError(format.error);
  return format.value === "xml" ? openXml(text) : openDelimited(text, sample);
}

async function openXml(text: FeedText): Promise<FeedRows> {
  // A first look finds the columns most items share, so that a mapping can be proposed.
  const first = new XmlItemReader();
  let rows = 0;
  for await (const piece of text.read()) {
    rows += first.push(piece).length;
    if (rows >= XML_SAMPLE_ROWS) break;
  }
  if (rows < XML_SAMPLE_ROWS) first.end();
  const headings = [...first.columns];
  return {
    format: "xml",
    delimiter: null,
    headings,
    repeated: [],
    async *batches() {
      const reader = new XmlItemReader();
      let read = 0;
      for await (const piece of text.read()) {
        read += piece.length;
        const found = reader.push(piece);
        for (const column of reader.columns.slice(headings.length)) headings.push(column);
        if (found.length > 0) yield { rows: found, read };
      }
      reader.end();
    },
  };
}

function openDelimited(text: FeedText, sample: string): FeedRows {
  const delimiter = detectDelimiter(sample);
  const head = Papa.parse<string[]>(sample, { delimiter, preview: 1, skipEmptyLines: "greedy" }).data[0] ?? [];
  if (head.length < 2) {
    giveUp(
      "feed-one-column",
      "Only one column was found: no comma, semicolon, tab, bar, caret or tilde parts the first line.",
      "A feed needs at least an ID, a title and a price. Check the delimiter in the export.",
    );
  }
  if (head.length > LIMITS.columns) {
    giveUp("feed-too-wide", `The feed has ${head.length} columns; ${LIMITS.columns} can be read.`, "Leave some out.");
  }
  const { headings, repeated } = cleanHeadings(head);
  return { format: "delimited", delimiter, headings, repeated, batches: () => delimitedBatches(text, delimiter) };
}

/** Parses text pushed by a stream; the parser waits when a few batches lie ready. */
async function* delimitedBatches(text: FeedText, delimiter: string): AsyncIterable<RowBatch> {
  let read = 0;
  let readAtLastRow = 0;
  let rowsSeen = 0;
  const counted = async function* () {
    for await (const piece of text.read()) {
      read += piece.length;
      yield read === piece.length ? piece.replace(/^\uFEFF/, "") : piece;
    }
  };
  type Event = { rows: string[][] } | { end: true } | { error: unknown };
  const queue: Event[] = [];
  let wake: (() => void) | null = null;
  let resume: (() => void) | null = null;
  const put = (event: Event) => {
    queue.push(event);
    wake?.();
  };
  const source = Readable.from(counted(), { objectMode: true });
  Papa.parse<string[]>(source as unknown as NodeJS.ReadableStream, {
    delimiter,
    skipEmptyLines: "greedy",
    chunk: (results, parser) => {
      const unclosed = results.errors.find((error) => error.code === "MissingQuotes");
      if (unclosed) return put({ error: unclosedQuote(rowsSeen + (unclosed.row ?? 0) + 1) });
      rowsSeen += results.data.length;
      if (results.data.length > 0) readAtLastRow = read;
      else if (read - readAtLastRow > LONGEST_QUOTE) return put({ error: unclosedQuote(rowsSeen + 1) });
      put({ rows: results.data });
      // Pausing costs the parser some milliseconds, so it only waits when the work falls behind.
      if (queue.length < MOST_QUEUED) return;
      parser.pause();
      resume = () => parser.resume();
    },
    complete: () => put({ end: true }),
    error: (error: unknown) => put({ error }),
  });
  source.on("error", (error) => put({ error }));
  let isHead = true;
  try {
    for (;;) {
      const event = queue.shift();
      if (!event) {
        await new Promise<void>((resolve) => (wake = resolve));
        wake = null;
        continue;
      }
      if ("end" in event) return;
      if ("error" in event) throw event.error;
      const rows = isHead ? event.rows.slice(1) : event.rows;
      if (event.rows.length > 0) isHead = false;
      if (rows.length > 0) yield { rows, read };
      if (queue.length > 0) continue;
      const goOn = resume as (() => void) | null;
      resume = null;
      goOn?.();
    }
  } finally {
    source.destroy();
  }
}

function unclosedQuote(row: number): FailureError {
  return new FailureError({
    code: "feed-quote-open",
    message: `A quote opened in row ${row} is never closed, so the rows after it can't be told apart. Nothing was taken in.`,
    hint: `Look at row ${row} of the file (the header is row 1): close the quote, or double a quote that belongs to the text.`,
  });
}
