/** Rows looked at for the columns of a format without a header. */
export const LOOK_ROWS = 200;

/** A row that can't be taken apart into cells, kept as its text. */
export class BrokenRow {
  constructor(readonly text: string) {}
}

/** Rows read together. */
export interface RowBatch {
  rows: (string[] | BrokenRow)[];
  /** Where each stands in the file: its row, counted from 1 with header and blank rows, or its place among the records. */
  numbers: number[];
  /** Share of the feed read so far, 0 to 1. */
  share: number;
}

/** The rows of a feed. `headings` can still grow with later batches (the same array) where the format has no header. */
export interface FeedRows {
  headings: string[];
  /** Headings that stood twice and were told apart by a number. */
  repeated: string[];
  /** Whether columns can appear on the way, as in formats without a header. */
  grows: boolean;
  delimiter: string | null;
  /** What the file holds rows of in several places: sheets of a workbook, elements of XML, lists of JSON; and the one read. */
  parts: string[];
  part: string | null;
  /** The row of the file that the header stands in, counted from 1; null in formats without one. */
  headerRow: number | null;
  /** Rows with nothing in them; known once all batches are read. */
  blank: number;
  /** Rows whose number in the file another one has, and which were numbered on; known once all batches are read. */
  twice?: number;
  batches(): AsyncIterable<RowBatch>;
}

/** Whether nothing stands in a row. */
export function isBlankRow(cells: string[]): boolean {
  return cells.every((cell) => cell.trim() === "");
}

/** Numbers rows one after another. */
export class RowNumbers {
  private last = 0;

  /** The numbers of the next rows. */
  next(count: number): number[] {
    return Array.from({ length: count }, () => ++this.last);
  }
}
