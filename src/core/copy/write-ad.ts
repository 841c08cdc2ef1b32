import { CHANNEL_LIMITS } from "../channel/limits";
import { LINE_LISTS, type AdDesign, type LineList } from "./copy-plan";
import { JOINING } from "./languages";
import { climb, compileLine, type Ladder, type Written, type WrittenLine } from "./line";
import type { CopyValues } from "./values";

/** An ad written for an ad group. */
export interface WrittenAd {
  lines: WrittenLine[];
  /** What became of each line of the design. */
  outcomes: Written[];
}

/** Makes a design ready to be written for many ad groups. */
export function compileDesign({ lines }: AdDesign, values: CopyValues): Ladder[] {
  const { language, wideCountTwice } = values.settings;
  return lines.map(({ list, rungs, runsOn, cut, always }, at) => ({
    ...{ list, at, always, runsOn, cut, wideCountTwice },
    rungs: rungs.map((rung) => compileLine(rung, values)),
    length: CHANNEL_LIMITS.textAd[list].length,
    joining: JOINING[language],
  }));
}

/** Writes an ad for an ad group: every line by its ladder, none twice, and no more of a list than the channel takes. */
export function writeAd(design: readonly Ladder[], unit: number): WrittenAd {
  const lines: WrittenLine[] = [];
  const outcomes: Written[] = [];
  const counts: Record<LineList, number> = { headlines: 0, descriptions: 0, address: 0 };
  for (let at = 0; at < design.length; at++) {
    const outcome = climb(design[at]!, unit);
    outcomes.push(outcome);
    for (const line of outcome.lines) {
      if (counts[line.list] >= CHANNEL_LIMITS.textAd[line.list].most || isThere(lines, line)) continue;
      counts[line.list]++;
      lines.push(line);
    }
  }
  return { lines, outcomes };
}

function isThere(lines: readonly WrittenLine[], { list, text }: WrittenLine): boolean {
  for (const line of lines) if (line.list === list && line.text === text) return true;
  return false;
}

/** Lists of which an ad has too few lines for the channel. */
export function lacking(lines: readonly Pick<WrittenLine, "list">[]): LineList[] {
  let [headlines, descriptions, address] = [0, 0, 0];
  for (const { list } of lines) {
    if (list === "headlines") headlines++;
    else if (list === "descriptions") descriptions++;
    else address++;
  }
  const counts = { headlines, descriptions, address };
  if (LINE_LISTS.every((list) => counts[list] >= CHANNEL_LIMITS.textAd[list].least)) return ENOUGH;
  return LINE_LISTS.filter((list) => counts[list] < CHANNEL_LIMITS.textAd[list].least);
}

const ENOUGH: LineList[] = [];
