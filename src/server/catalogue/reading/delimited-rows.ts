import { Readable } from "node:stream";
import Papa from "papaparse";
import { detectDelimiter } from "@/core/catalogue/detect";
import { LIMITS } from "@/core/catalogue/limits";
import { cleanHeadings } from "@/core/catalogue/mapping";
import { FailureError, giveUp } from "@/core/kit/outcome";
import type { FeedText } from "./feed-text";
import { headerAt, TOP_ROWS } from "./header-at";
import type { FeedRows, RowBatch } from "./feed-rows";

/** Parsed pieces that may wait for the work on earlier ones. */
const MOST_QUEUED = 4;
/** A quoted cell that runs longer than this without an end is an unclosed quote. */
const LONGEST_QUOTE = 8 * 1024 * 1024;

/**
 * Opens the rows of delimited text with a header.
 * @param wanted the delimiter a person chose, or null to find it out
 * @param headerBelow whether the header may stand below lines about the file
 */
export function openDelimited(text: FeedText, sample: string, wanted: string | null, headerBelow: boolean): FeedRows {
  const delimiter = wanted ?? detectDelimiter(sample, headerBelow);
  const preview = headerBelow ? TOP_ROWS : 1;
  const top = Papa.parse<string[]>(sample, { delimiter, preview, skipEmptyLines: "greedy" }).data;
  const at = headerBelow ? Math.max(0, headerAt(top)) : 0;
  const head = top[at] ?? [];
  if (head.length < 2) {
    giveUp(
      "feed-one-column",
      wanted === null
        ? "Only one column was found: no comma, semicolon, tab, bar, caret or tilde parts the first line."
        : "Only one column was found: the chosen delimiter does not part the first line.",
      "A feed needs at least an ID, a title and a price. Check the delimiter in the export.",
    );
  }
  if (head.length > LIMITS.columns) {
    giveUp("feed-too-wide", `The feed has ${head.length} columns; ${LIMITS.columns} can be read.`, "Leave some out.");
  }
  const { headings, repeated } = cleanHeadings(head);
  const batches = () => delimitedBatches(text, delimiter, at + 1);
  return { delimiter, grows: false, headings, repeated, sheets: [], sheet: null, batches };
}

/** Parses text pushed by a stream; the parser waits when a few batches lie ready. */
async function* delimitedBatches(text: FeedText, delimiter: string, skipped: number): AsyncIterable<RowBatch> {
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
  let toSkip = skipped;
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
      const rows = toSkip > 0 ? event.rows.slice(toSkip) : event.rows;
      toSkip = Math.max(0, toSkip - event.rows.length);
      if (rows.length > 0) yield { rows, share: read / text.bytes };
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
