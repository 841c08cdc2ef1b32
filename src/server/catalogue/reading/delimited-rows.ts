import { Readable } from "node:stream";
import Papa from "papaparse";
import { detectDelimiter, statedDelimiter } from "@/core/catalogue/detect";
import { headerAt, TOP_ROWS } from "@/core/catalogue/header-at";
import { LIMITS } from "@/core/catalogue/limits";
import { cleanHeadings } from "@/core/catalogue/mapping";
import { FailureError, giveUp } from "@/core/kit/outcome";
import type { FeedText } from "./feed-text";
import { BrokenRow, isBlankRow, type FeedRows, type RowBatch } from "./feed-rows";
import { countLineEnds, oneLineEnd, withOneLineEnd } from "./line-ends";

/** Parsed pieces that may wait for the work on earlier ones. */
const MOST_QUEUED = 4;
/** A quoted cell that runs longer than this without an end is an unclosed quote. */
const LONGEST_QUOTE = 8 * 1024 * 1024;

/**
 * Opens the rows of delimited text with a header, which may stand below lines about the file.
 * @param wanted the delimiter a person chose, or null to find it out
 * @param headerRow the row of the file that a person says is the header, or null to find it out
 */
export function openDelimited(
  text: FeedText,
  sample: string,
  wanted: string | null,
  headerRow: number | null,
): FeedRows {
  const lines = oneLineEnd(sample);
  const delimiter = wanted ?? statedDelimiter(lines) ?? detectDelimiter(lines);
  const top = Papa.parse<string[]>(lines, { delimiter, newline: "\n", preview: headerRow ?? 2 * TOP_ROWS }).data;
  const filled = top.map((_, at) => at).filter((at) => !isBlankRow(top[at]!) && !isDirective(top[at]!));
  const shown = filled.slice(0, TOP_ROWS).map((at) => top[at]!);
  const at = headerRow === null ? (filled[Math.max(0, headerAt(shown))] ?? 0) : headerRow - 1;
  const head = top[at] ?? [];
  if (head.length < 2) {
    giveUp(
      "feed-one-column",
      wanted === null
        ? "Only one column was found: no comma, semicolon, tab, bar, caret or tilde parts the first line."
        : "Only one column was found: the chosen delimiter does not part the first line.",
      "A feed needs at least an ID, a title and a price. Check the delimiter in the export, or say in which row the header stands.",
    );
  }
  if (head.length > LIMITS.columns) {
    giveUp("feed-too-wide", `The feed has ${head.length} columns; ${LIMITS.columns} can be read.`, "Leave some out.");
  }
  const { headings, repeated } = cleanHeadings(head);
  const feed: FeedRows = {
    ...{ delimiter, grows: false, headings, repeated, parts: [], part: null, headerRow: at + 1, blank: 0 },
    batches: () => delimitedBatches(text, delimiter, feed),
  };
  return feed;
}

/** The line by which a spreadsheet program is told the delimiter. */
function isDirective(cells: string[]): boolean {
  return /^sep=/i.test(cells[0] ?? "");
}

/** Takes the records apart into the rows under the header, and counts on the way so that no line gets lost unseen. */
class RecordCounter {
  /** Records met, the header and blank ones among them. */
  private records = 0;
  private blank = 0;
  private endsInCells = 0;
  private endsWithBlank = false;
  /** By how many rows the numbers run ahead of the records: the lines that wrong quotes made one. */
  private ahead = 0;

  constructor(private readonly headerRow: number) {}

  /** @param glued places in `data` whose quotes are set wrongly, so that a cell can hold the rows after it */
  take(data: string[][], glued: Set<number>): { rows: RowBatch["rows"]; numbers: number[] } {
    const rows: RowBatch["rows"] = [];
    const numbers: number[] = [];
    data.forEach((cells, at) => {
      this.records++;
      const inCells = cells.reduce((sum, cell) => sum + (cell.includes("\n") ? countLineEnds(cell) : 0), 0);
      this.endsInCells += inCells;
      this.endsWithBlank = cells.length === 1 && cells[0] === "";
      if (this.records <= this.headerRow) return;
      if (isBlankRow(cells)) {
        this.blank++;
        return;
      }
      if (glued.has(at) && inCells > 0) {
        const lines = cells.join(" ").split("\n");
        lines.forEach((line, i) => {
          rows.push(new BrokenRow(line));
          numbers.push(this.records + this.ahead + i);
        });
        this.ahead += lines.length - 1;
        return;
      }
      rows.push(cells);
      numbers.push(this.records + this.ahead);
    });
    return { rows, numbers };
  }

  /** @returns the number of blank rows. @throws FailureError when lines of the file are in no record */
  close(lineEnds: number, endsInLine: boolean): number {
    // What stands behind the last line end is a record only where it holds something.
    const trailing = this.endsWithBlank && !endsInLine ? 1 : 0;
    const lines = lineEnds + (endsInLine ? 1 : 0);
    const found = this.records + this.endsInCells - trailing;
    if (found !== lines) {
      giveUp(
        "feed-lines-lost",
        `Of the ${lines} lines of the file ${found} could be told apart. Nothing was taken in.`,
        "Open the file in a spreadsheet program and save it anew as CSV.",
      );
    }
    return this.blank - trailing;
  }
}

/** Parses text pushed by a stream; the parser waits when a few batches lie ready. */
async function* delimitedBatches(text: FeedText, delimiter: string, feed: FeedRows): AsyncIterable<RowBatch> {
  let read = 0;
  let readAtLastRow = 0;
  let rowsSeen = 0;
  let lineEnds = 0;
  let lastPiece = "";
  const counted = async function* () {
    for await (const piece of withOneLineEnd(text.read())) {
      const isFirst = read === 0;
      read += piece.length;
      if (piece === "") continue;
      lineEnds += countLineEnds(piece);
      lastPiece = piece;
      yield isFirst ? piece.replace(/^\uFEFF/, "") : piece;
    }
  };
  type Event = { rows: string[][]; glued: Set<number> } | { end: true } | { error: unknown };
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
    newline: "\n",
    chunk: (results, parser) => {
      const unclosed = results.errors.find((error) => error.code === "MissingQuotes");
      if (unclosed) return put({ error: unclosedQuote(rowsSeen + (unclosed.row ?? 0) + 1) });
      rowsSeen += results.data.length;
      if (results.data.length > 0) readAtLastRow = read;
      else if (read - readAtLastRow > LONGEST_QUOTE) return put({ error: unclosedQuote(rowsSeen + 1) });
      const wrong = results.errors.filter((error) => error.code === "InvalidQuotes").map(({ row }) => row ?? -1);
      put({ rows: results.data, glued: new Set(wrong) });
      // Pausing costs the parser some milliseconds, so it only waits when the work falls behind.
      if (queue.length < MOST_QUEUED) return;
      parser.pause();
      resume = () => parser.resume();
    },
    complete: () => put({ end: true }),
    error: (error: unknown) => put({ error }),
  });
  source.on("error", (error) => put({ error }));
  const counter = new RecordCounter(feed.headerRow ?? 1);
  try {
    for (;;) {
      const event = queue.shift();
      if (!event) {
        await new Promise<void>((resolve) => (wake = resolve));
        wake = null;
        continue;
      }
      if ("end" in event) {
        feed.blank = counter.close(lineEnds, lastPiece !== "" && !lastPiece.endsWith("\n"));
        return;
      }
      if ("error" in event) throw event.error;
      const taken = counter.take(event.rows, event.glued);
      if (taken.rows.length > 0) yield { ...taken, share: read / text.bytes };
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
