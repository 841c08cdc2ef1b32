import type { TextColumn } from "../kit/columns";

/**
 * A place outside the memory for the texts of a column that hardly ever repeat, so that a feed of a million items can be
 * read in little memory. Texts go in row by row; the whole column comes back as often as asked and is not kept.
 */
export interface TextSink {
  push(text: string): void;
  finish(): SunkTexts;
}

export interface SunkTexts {
  /** The column anew. It must be let go of before the next one is taken. */
  column(): TextColumn;
  /** The column encoded as `encodeColumn` would give texts of their own, in pieces; each is good until the next is asked for. */
  pieces(): Iterable<Uint8Array>;
}

/** Rows from which texts of their own go to sinks: below it a catalogue fits, and strings are faster. */
export const SINK_FROM_ROWS = 200_000;
