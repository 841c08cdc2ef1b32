/** Rows looked at for the columns of a format without a header. */
export const LOOK_ROWS = 200;

/** A row that can't be taken apart into cells, kept as its text. */
export class BrokenRow {
  constructor(readonly text: string) {}
}

/** Rows read together. */
export interface RowBatch {
  rows: (string[] | BrokenRow)[];
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
  sheets: string[];
  sheet: string | null;
  batches(): AsyncIterable<RowBatch>;
}
