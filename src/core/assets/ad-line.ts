import type { AdLine } from "../account/records/ad-lines";
import { CHANNEL_LIMITS } from "../channel/limits";
import { textLength } from "../kit/text-length";
import { fillParts, type Filled, type ValueOf } from "../parts/fill";

/** Writes an ad line for an item, spaces made single. */
export function fillLine(line: AdLine, valueOf: ValueOf): Filled {
  const { text, empty } = fillParts(line, valueOf);
  return { text: text.replace(/\s+/g, " "), empty };
}

/** Lines have a length each, in characters as people count them. */
export type LineList = "headlines" | "descriptions";

/** How a line stands for an item. */
export type LineState = "fits" | "gap" | "long";

/** Characters as the channel counts them. */
export function lengthOf(text: string): number {
  return textLength(text, CHANNEL_LIMITS.wideCountTwice);
}

/** Whether a line can be shown as it reads: all its fields have values, something is said, and it is no longer than the channel takes. */
export function stateOf({ text, empty }: Filled, list: LineList): LineState {
  if (empty.length > 0 || text === "") return "gap";
  return lengthOf(text) > CHANNEL_LIMITS.assets[list].length ? "long" : "fits";
}
