import type { Between } from "../moves/move";
import type { Phrase, Ref } from "./phrase";

/** What can be wrong with an account, each with what it is called. */
export const FAULTS = {
  "below-goal": "The whole is below its goal",
  tracking: "Orders stopped coming while clicks went on",
  leak: "Groups that are open to the whole catalogue",
  homeless: "Items that sell and have no home",
  "sold-out": "Money on items that can’t be bought",
  "sold-out-sellers": "Best sellers that can’t be bought",
  dry: "Good campaigns that run out of money",
  "weak-campaign": "Campaigns that take more than they bring",
  "weak-kind": "Kinds that take more than they bring",
  "weak-match": "Match types that take more than they bring",
  "weak-aim": "Aims that take more than they bring",
  "weak-slot": "Slots that take more than they bring",
  "weak-hour": "Hours that take more than they bring",
  "weak-placement-kind": "Placement kinds that take more than they bring",
  "weak-category": "Categories that take more than they bring",
  "weak-price": "Price tiers that take more than they bring",
  "weak-age": "Newcomers or old hands that take more than they bring",
  "waste-terms": "Terms and pages that only cost",
  "waste-items": "Items that cost far more than they sell",
  "waste-placements": "Placements that cost far more than they sell",
  concentration: "Few take much and bring less",
  overlap: "Campaigns that take each other’s items",
  starved: "Keywords that starve beside one that takes all",
  "brand-mix": "Own brand among generic keywords",
  undefended: "Own pages and brand searches left to others",
  bids: "Bids away from what clicks are worth",
  "target-bids": "Bids of keywords and listings away from their worth",
  slots: "Slots paid beyond or below their worth",
  hours: "Hours paid beyond or below their worth",
  "no-margin": "Items that can’t pay for a click",
  places: "Good terms and pages nobody aims at by name",
  "name-clash": "Names that contradict their settings",
  "same-keyword": "The same keyword in several places",
  "too-small": "Too many campaigns for the data",
  "page-work": "Pages that don’t convert",
} as const;
export type FaultKey = keyof typeof FAULTS;

/** Who mends it: moves that go into the basket, a page of the program where it is set, or a list for somebody else. */
export type Mend =
  | { by: "moves"; proposer: string; moves: number }
  | { by: "place"; path: string; words: string }
  | { by: "others"; who: "pages" | "stock" | "shop"; words: string };

/** Something that is wrong, with what it costs, as it was found. */
export interface Found {
  /** The same for the same thing, whenever it is found. */
  key: string;
  fault: FaultKey;
  /** What it is about, the most money first. */
  about: Ref[];
  says: Phrase;
  /** Mills a month of thirty days with an interval of 80 %; null where it can't be told. */
  month: Between | null;
  /** Whether that is lost now, could be gained, or is what it takes. */
  money: "lost" | "to gain" | "spent";
  stands: { clicks: number; orders: number; cost: number } | null;
  mend: Mend;
}

/** How many of what a finding is about are kept by name. */
const MOST_NAMED = 100;

/** A finding as it is kept: at most the first hundred of what it is about by name, and how many there are. */
export interface Finding extends Found {
  count: number;
}

/** A finding with no more names than anybody reads: it may be about 100,000 items. */
export function asKept(found: Found): Finding {
  return { ...found, about: found.about.slice(0, MOST_NAMED), count: found.about.length };
}

/** Money that a finding is sorted by: what is only spent counts as nothing lost for sure. */
export function weightOf({ month, money }: Pick<Finding, "month" | "money">): number {
  if (!month) return 0;
  return money === "spent" ? month.mean / 10 : Math.max(0, month.mean);
}

/** By money a month, the most first; what can't be told in money comes last. */
export function byMoney(findings: readonly Finding[]): Finding[] {
  return [...findings].sort((a, b) => weightOf(b) - weightOf(a) || (a.key < b.key ? -1 : 1));
}
