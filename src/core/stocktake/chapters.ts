import { formatDay } from "../kit/days";
import { plural } from "../kit/format";
import {
  byItems,
  byLevel,
  concentrationTable,
  courseTable,
  dryTable,
  heldTable,
  itemTable,
  structureTable,
} from "./chapter-tables";
import type { FaultKey } from "./finding";
import type { Material } from "./material";
import type { Table } from "./table";
import { thinTable } from "./thin";

interface Chapter {
  title: string;
  /** What it tells, in one sentence. */
  about: string;
  /** What has to be read in for it. */
  needs: string;
  faults: FaultKey[];
  table(material: Material): Table | null;
}

/** What a stocktake is made of, in the order in which it is read unless somebody changes it. */
export const CHAPTERS = {
  whole: {
    title: "The whole",
    about: "What was spent and sold, week by week.",
    needs: "a report by day",
    faults: ["below-goal", "tracking"],
    table: courseTable,
  },
  campaigns: {
    title: "Campaigns",
    about: "Who takes the money and who brings the sales.",
    needs: "a report with campaigns",
    faults: ["weak-campaign", "overlap"],
    table: byLevel("campaign", "campaign", "Campaign"),
  },
  kinds: {
    title: "Campaign kinds",
    about: "What each kind of campaign takes and brings.",
    needs: "a report that tells kinds of campaigns, or the account",
    faults: ["weak-kind"],
    table: (material) =>
      byLevel("campaignKind", "category", "Kind")(material) ?? byLevel("adKind", "category", "Kind")(material),
  },
  matches: {
    title: "Match types",
    about: "What exact, phrase, broad and what is no keyword take and bring.",
    needs: "a report with targets and their match types",
    faults: ["weak-match", "same-keyword"],
    table: byLevel("matchType", "category", "Match type"),
  },
  aims: {
    title: "Aims",
    about: "Own and other searches, own pages and those of rivals and companions.",
    needs: "a search term report; the catalogue tells which are our own",
    faults: ["weak-aim", "brand-mix", "undefended"],
    table: byLevel("aim", "category", "Aim"),
  },
  slots: {
    title: "Slots",
    about: "Where on a page the ads stood.",
    needs: "a report by slot",
    faults: ["weak-slot", "slots"],
    table: byLevel("slot", "category", "Slot"),
  },
  hours: {
    title: "Hours",
    about: "At which hour of the day the money went.",
    needs: "a report by hour",
    faults: ["weak-hour", "hours"],
    table: byLevel("hour", "category", "Hour"),
  },
  dry: {
    title: "Dry campaigns",
    about: "Campaigns whose money was gone before the day was.",
    needs: "a channel that tells when money ran out",
    faults: ["dry"],
    table: dryTable,
  },
  placementKinds: {
    title: "Placement kinds",
    about: "Kinds of places on partner media.",
    needs: "a placement report with kinds",
    faults: ["weak-placement-kind"],
    table: byLevel("placementKind", "category", "Kind of placement"),
  },
  placements: {
    title: "Placements",
    about: "The places that took most.",
    needs: "a placement report",
    faults: ["waste-placements"],
    table: byLevel("placement", "placement", "Placement"),
  },
  categories: {
    title: "Categories",
    about: "The first step of the category, by what its items took and brought.",
    needs: "a report by item and a catalogue with categories",
    faults: ["weak-category"],
    table: byItems("category", "category", "Category"),
  },
  brands: {
    title: "Brands",
    about: "By the brand of the item that was advertised.",
    needs: "a report by item and a catalogue with brands",
    faults: [],
    table: byItems("brand", "brand", "Brand"),
  },
  prices: {
    title: "Price tiers",
    about: "Quarters of the catalogue by price.",
    needs: "a report by item and a catalogue with prices",
    faults: ["weak-price"],
    table: byItems("price", "category", "Tier"),
  },
  ages: {
    title: "Newcomers and old hands",
    about: "Items that were first read lately beside those that have long been there.",
    needs: "a report by item and a catalogue that was read for longer",
    faults: ["weak-age"],
    table: byItems("age", "category", "Items"),
  },
  items: {
    title: "Items",
    about: "What ads sold beside all that the shop sold, and how far an item depends on ads.",
    needs: "a report by item; the shop’s own sales for TACOS and dependence",
    faults: ["waste-items", "no-margin", "bids", "page-work", "homeless", "sold-out", "sold-out-sellers"],
    table: itemTable,
  },
  terms: {
    title: "Terms and pages",
    about: "What people searched for, and on whose pages ads stood.",
    needs: "a search term report",
    faults: ["waste-terms", "places", "target-bids", "starved"],
    table: byLevel("term", "term", "Search term or listing"),
  },
  concentration: {
    title: "Concentration",
    about: "How much of the spend goes to few, and what these bring.",
    needs: "a report by item, term or campaign",
    faults: ["concentration"],
    table: concentrationTable,
  },
  structure: {
    title: "Structure",
    about: "Open remainders, names, and campaigns too small to learn.",
    needs: "the account: a structure that was read in, or a channel",
    faults: ["leak", "name-clash", "too-small"],
    table: structureTable,
  },
  held: {
    title: "Own pages and brand searches",
    about: "How much of what is our own we hold.",
    needs: "a channel or file that tells how often people look there",
    faults: ["undefended"],
    table: heldTable,
  },
  thin: {
    title: "What can’t be told yet",
    about: "How much of the spend lies where luck still decides, and from when on it can be told.",
    needs: "any report",
    faults: [],
    table: thinTable,
  },
} as const satisfies Record<string, Chapter>;
export type ChapterKey = keyof typeof CHAPTERS;
export const CHAPTER_KEYS = Object.keys(CHAPTERS) as ChapterKey[];

/** The chapter that a fault belongs to: the first that names it. */
export function chapterOf(fault: FaultKey): ChapterKey {
  return CHAPTER_KEYS.find((key) => (CHAPTERS[key].faults as readonly FaultKey[]).includes(fault)) ?? "whole";
}

/** A chapter as it was made. */
export interface MadeChapter {
  key: ChapterKey;
  table: Table | null;
  /** What would have to be there for it; null where it is there. */
  lacks: string | null;
}

/** Makes a chapter, or says what it lacks. */
export function makeChapter(key: ChapterKey, material: Material): MadeChapter {
  const table = CHAPTERS[key].table(material);
  return { key, table, lacks: table ? null : `Needs ${CHAPTERS[key].needs}.` };
}

/** The window in words. */
export function windowWords({ from, to, days }: Pick<Material, "from" | "to" | "days">): string {
  const span = to - from + 1;
  return `${formatDay(from)} to ${formatDay(to)}${days < span ? `, ${plural(days, "day")} of them with results` : ""}`;
}
