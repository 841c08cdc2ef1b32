import type { AdLine } from "../account/records/ad-lines";
import { CHANNEL_LIMITS } from "../channel/limits";

/** The value of a field for the item that is shown, as it reads in an ad; "" where it has none. */
export type ValueOf = (field: string) => string;

/** An ad line as it reads for one item. */
export interface FilledLine {
  text: string;
  /** Fields without a value, which leave a gap. */
  empty: string[];
}

/** Writes an ad line for an item. Spaces at a gap close up. */
export function fillLine(line: AdLine, valueOf: ValueOf): FilledLine {
  const empty: string[] = [];
  const parts = line.map((part) => {
    if (part.kind === "text") return part.text;
    const value = valueOf(part.field);
    if (value === "") empty.push(part.field);
    return value;
  });
  return { text: parts.join("").replace(/\s+/g, " ").trim(), empty };
}

/** Lines have a length each, in characters as people count them. */
export type LineList = "headlines" | "descriptions";

/** How a line stands for an item. */
export type LineState = "fits" | "gap" | "long";

/** Characters as people count them: what is written with several code points counts once. */
export function lengthOf(text: string): number {
  return [...text].length;
}

/** Whether a line can be shown as it reads: all its fields have values, something is said, and it is no longer than the channel takes. */
export function stateOf({ text, empty }: FilledLine, list: LineList): LineState {
  if (empty.length > 0 || text === "") return "gap";
  return lengthOf(text) > CHANNEL_LIMITS.assets[list].length ? "long" : "fits";
}
