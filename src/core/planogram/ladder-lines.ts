import type { Planogram, Split } from "./planogram";

/** A ladder with its two lines. */
export type LadderPart = Pick<Planogram, "ladder" | "campaignLine" | "adGroupLine">;

export const CAMPAIGN_LINE = "campaign-line";
export const AD_GROUP_LINE = "ad-group-line";

/** The key of a rung in the list: its place in the ladder that the list was made from. */
export function rungKey(at: number): string {
  return `rung-${at}`;
}

/** The place a rung's key stands for, or null for a line. */
export function rungAt(key: string): number | null {
  return key.startsWith("rung-") ? Number(key.slice(5)) : null;
}

/** The ladder as one list from top to bottom: rungs, with the two lines standing below the level they form at. */
export function ladderList({ ladder, campaignLine, adGroupLine }: LadderPart): string[] {
  const list = ladder.map((_, at) => rungKey(at));
  list.splice(adGroupLine, 0, AD_GROUP_LINE);
  list.splice(campaignLine, 0, CAMPAIGN_LINE);
  return list;
}

/** The ladder that a reordered list stands for. Lines that were dragged past each other change places. */
export function ladderFromList(list: string[], ladder: Split[]): LadderPart {
  const rungsAbove = (line: string) => list.slice(0, list.indexOf(line)).filter((key) => rungAt(key) !== null).length;
  const [first, second] = [rungsAbove(CAMPAIGN_LINE), rungsAbove(AD_GROUP_LINE)].sort((a, b) => a - b);
  return {
    ladder: list.flatMap((key) => ladder[rungAt(key) ?? -1] ?? []),
    campaignLine: first as number,
    adGroupLine: second as number,
  };
}

/** The ladder without one rung; lines below it move up. */
export function withoutRung({ ladder, campaignLine, adGroupLine }: LadderPart, at: number): LadderPart {
  const shift = (line: number) => (line > at ? line - 1 : line);
  return {
    ladder: ladder.filter((_, i) => i !== at),
    campaignLine: shift(campaignLine),
    adGroupLine: shift(adGroupLine),
  };
}
