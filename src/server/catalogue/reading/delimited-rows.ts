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

  /** The line of the file at which the next record begins, from 0, and the number of its row. */
  next(): { line: number; row: number } {
    return { line: this.records + this.endsInCells, row: this.records + this.ahead + 1 };
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

/** Lines with a quote that never closes which are set aside one by one; a file with more of them is refused. */
const MOST_OPEN = 50;

/** A record whose quote never closes: its line, counted among those that are read, and the number of its row. */
class OpenQuote extends Error {
  constructor(
    readonly line: number,
    readonly row: number,
  ) {
    super("a quote is never closed");
  }
}

/** Lines that are kept out of the parser, by their place in the file, with their texts and the numbers of their rows. */
class LinesAside {
  private readonly all: { line: number; row: number; text: string }[] = [];

  get count(): number {
    return this.all.length;
  }

  /** Keeps a line out, by its place and row among those that are not kept out yet. */
  add({ line, row }: OpenQuote): void {
    this.all.push({ line: this.placeOf("line", line), row: this.placeOf("row", row), text: "" });
    this.all.sort((a, b) => a.line - b.line);
  }

  /** A place among all lines, or rows, from one among those that are not kept out. */
  placeOf(what: "line" | "row", place: number): number {
    let all = place;
    for (const one of this.all) if (one[what] <= all) all++;
    return all;
  }

  /** The text without the lines that are kept out. */
  async *without(pieces: AsyncIterable<string>): AsyncIterable<string> {
    let line = 0;
    for (const one of this.all) one.text = "";
    for await (const piece of pieces) {
      const last = line + countLineEnds(piece);
      if (!this.all.some((one) => one.line >= line && one.line <= last)) {
        line = last;
        yield piece;
        continue;
      }
      let kept = "";
      for (const part of piece.match(/[^\n]*\n|[^\n]+$/g) ?? []) {
        const aside = this.all.find((one) => one.line === line);
        if (aside) aside.text += part.replace(/\n$/, "");
        else kept += part;
        if (part.endsWith("\n")) line++;
      }
      yield kept;
    }
  }

  /** What was kept out, as rows. */
  rows(): Pick<RowBatch, "rows" | "numbers"> {
    return { rows: this.all.map(({ text }) => new BrokenRow(text)), numbers: this.all.map(({ row }) => row) };
  }
}

/**
 * The rows of delimited text. A line whose quote never closes, as one late inch mark does it, would swallow all after it: it
 * is set aside by itself, and the file is gone through once more without it. Rows that were given already are not again.
 */
async function* delimitedBatches(text: FeedText, delimiter: string, feed: FeedRows): AsyncIterable<RowBatch> {
  const aside = new LinesAside();
  let given = 0;
  for (;;) {
    try {
      let passed = 0;
      for await (const { rows, numbers, share } of parsedBatches(text, delimiter, feed, aside)) {
        const known = Math.min(rows.length, Math.max(0, given - passed));
        passed += rows.length;
        if (known === rows.length) continue;
        given = passed;
        yield {
          rows: rows.slice(known),
          numbers: numbers.slice(known).map((number) => aside.placeOf("row", number)),
          share,
        };
      }
      if (aside.count > 0) yield { ...aside.rows(), share: 1 };
      return;
    } catch (error) {
      if (!(error instanceof OpenQuote)) throw error;
      if (aside.count >= MOST_OPEN) throw unclosedQuote(aside.placeOf("row", error.row));
      aside.add(error);
    }
  }
}

/** Parses text pushed by a stream; the parser waits when a few batches lie ready. @throws OpenQuote */
async function* parsedBatches(
  text: FeedText,
  delimiter: string,
  feed: FeedRows,
  aside: LinesAside,
): AsyncIterable<RowBatch> {
  let read = 0;
  let readAtLastRow = 0;
  let lineEnds = 0;
  let lastPiece = "";
  const counted = async function* () {
    for await (const piece of aside.without(withOneLineEnd(text.read()))) {
      const isFirst = read === 0;
      read += piece.length;
      if (piece === "") continue;
      lineEnds += countLineEnds(piece);
      lastPiece = piece;
      yield isFirst ? piece.replace(/^\uFEFF/, "") : piece;
    }
  };
  type Event = { rows: string[][]; glued: Set<number> } | { end: true } | { open: true } | { error: unknown };
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
      const rows = unclosed ? results.data.slice(0, unclosed.row ?? 0) : results.data;
      if (rows.length > 0) readAtLastRow = read;
      const wrong = results.errors.filter((error) => error.code === "InvalidQuotes").map(({ row }) => row ?? -1);
      put({ rows, glued: new Set(wrong) });
      if (unclosed || read - readAtLastRow > LONGEST_QUOTE) return put({ open: true });
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
      if ("open" in event) {
        const { line, row } = counter.next();
        throw new OpenQuote(line, row);
      }
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
    message: `In more than ${MOST_OPEN} rows a quote is never closed, again in row ${row}, so the rows after it can't be told apart. Nothing was taken in.`,
    hint: `Look at row ${row} of the file (the header is row 1): close the quote, or double a quote that belongs to the text.`,
  });
}
