import type { PlacementKind } from "./kind";
import type { Script } from "./words";
import type { PlacementWorth } from "./worth";

/** What is known of a placement when it is looked at. */
export interface PlacementFacts {
  kind: PlacementKind;
  /** Words of its address and name that the catalogue is about. */
  topic: readonly string[];
  unsafe: readonly string[];
  script: Script | null;
  isOwnShop: boolean;
  impressions: number;
  /** Clicks where a report told them; null where none did. */
  clicks: number | null;
  worth: PlacementWorth | null;
}

/** What placements are sorted into, in the order in which they are looked through. */
export const TRIAGE = {
  unsafe: "Unsafe",
  loses: "Costs more than it brings",
  "by mistake": "Clicked by mistake",
  foreign: "Another script",
  doubtful: "Doubtful",
  pays: "Pays",
  fitting: "Fits the catalogue",
  few: "Few and harmless",
  own: "One's own shop",
} as const;
export type Triage = keyof typeof TRIAGE;

/** What is proposed for each: out everywhere, a look at it, or nothing. */
export const PROPOSED: Record<Triage, "keep out" | "look at" | "leave"> = {
  unsafe: "keep out",
  loses: "keep out",
  "by mistake": "look at",
  foreign: "look at",
  doubtful: "look at",
  pays: "leave",
  fitting: "leave",
  few: "leave",
  own: "leave",
};

/** Chances from which on a worth is taken as known. */
const SURE = 0.9;
/** Impressions below which nothing is worth a look, and their share of all. */
const FEW = 100;
const FEW_SHARE = 0.0005;
/** Clicks a thousand impressions against the usual, from which on people hardly mean them. */
const BY_MISTAKE = 2;

/** Sorts a placement. @param all impressions of all placements; @param usual clicks a thousand impressions of all */
export function triage(
  { topic, unsafe, script, isOwnShop, impressions, clicks, worth }: PlacementFacts,
  { all, usual, scripts }: { all: number; usual: number | null; scripts: ReadonlySet<Script> },
): Triage {
  if (isOwnShop) return "own";
  if (unsafe.length > 0) return "unsafe";
  const isFew = impressions < Math.max(FEW, FEW_SHARE * all);
  if (worth?.isOwn && worth.chanceOfLoss >= SURE) return "loses";
  if (worth?.isOwn && worth.chanceOfLoss <= 1 - SURE) return "pays";
  if (script !== null && !scripts.has(script)) return isFew ? "few" : "foreign";
  if (topic.length > 0) return "fitting";
  if (isFew) return "few";
  return usual !== null && isOverclicked(impressions, clicks, worth, usual) ? "by mistake" : "doubtful";
}

/** Whether clicks come so readily that even their least estimate is twice the usual. */
function isOverclicked(
  impressions: number,
  clicks: number | null,
  worth: PlacementWorth | null,
  usual: number,
): boolean {
  // What was counted stands before what is estimated; two deviations of a Poisson count are taken off.
  if (clicks !== null) return (1000 * (clicks - 2 * Math.sqrt(clicks))) / impressions > BY_MISTAKE * usual;
  return worth !== null && worth.areClicksOwn && worth.clicks.low > BY_MISTAKE * usual;
}
