/** How an item stands to the structure: served by a group of its own, left out on purpose, or forgotten, and why. */
export const STANDINGS = ["home", "sold-out", "kept-out", "new", "back", "changed", "never"] as const;
export type Standing = (typeof STANDINGS)[number];

export const STANDING_LABEL: Record<Standing, string> = {
  home: "has a home",
  "sold-out": "sold out",
  "kept-out": "kept out",
  new: "without home (new)",
  back: "without home (back in stock)",
  changed: "without home (changed)",
  never: "without home",
};

/** Standings of items that could be served and are not, and that nobody chose to leave out. */
export const FORGOTTEN: readonly Standing[] = ["new", "back", "changed", "never"];

/** What is known of a row of the catalogue. */
export interface StandingFacts {
  homes: number;
  isSoldOut: boolean;
  /** Whether an exclusion keeps it out everywhere. */
  isExcluded: boolean;
  /** What the readings since the structure was sent did to it. */
  isNew: boolean;
  isBack: boolean;
  isChanged: boolean;
}

/** The standing of an item, the first reason that holds. */
export function standingOf({ homes, isSoldOut, isExcluded, isNew, isBack, isChanged }: StandingFacts): Standing {
  if (homes > 0) return "home";
  if (isSoldOut) return "sold-out";
  if (isExcluded) return "kept-out";
  if (isNew) return "new";
  if (isBack) return "back";
  return isChanged ? "changed" : "never";
}
