import type { CubeDimension } from "./cube";

/** What results can be read by. `field:…` is a column of the catalogue. */
export const LEVELS = [
  "workspace",
  "shelf",
  "campaign",
  "campaignKind",
  "adKind",
  "adGroup",
  "item",
  "target",
  "matchType",
  "term",
  "aim",
  "placement",
  "placementKind",
  "slot",
  "hour",
  "day",
] as const;
export type Level = (typeof LEVELS)[number] | `field:${string}`;

export const LEVEL_LABEL: Record<(typeof LEVELS)[number], [one: string, many: string]> = {
  workspace: ["Everything", "Everything"],
  shelf: ["Shelf", "Shelves"],
  campaign: ["Campaign", "Campaigns"],
  campaignKind: ["Campaign kind", "Campaign kinds"],
  adKind: ["Ad kind", "Ad kinds"],
  adGroup: ["Ad group", "Ad groups"],
  item: ["Item", "Items"],
  target: ["Target", "Targets"],
  matchType: ["Match type", "Match types"],
  term: ["Search term or listing", "Terms"],
  aim: ["Aim", "Aims"],
  placement: ["Placement", "Placements"],
  placementKind: ["Placement kind", "Placement kinds"],
  slot: ["Slot", "Slots"],
  hour: ["Hour", "Hours"],
  day: ["Day", "Days"],
};

export function isLevel(text: string): text is Level {
  return (LEVELS as readonly string[]).includes(text) || /^field:.+/.test(text);
}

/** Which report results are read from, by what its rows are told apart by. Every total is that of the item report. */
export const SOURCES = {
  item: ["day", "campaign", "adGroup", "item"],
  term: ["day", "campaign", "adGroup", "target", "term"],
  slot: ["day", "campaign", "adGroup", "slot"],
  hour: ["day", "campaign", "hour"],
  placement: ["day", "campaign", "placement"],
} as const satisfies Record<string, readonly CubeDimension[]>;
export type Source = keyof typeof SOURCES;

/** Levels that are what campaigns, targets, terms and placements are of, by the dimension that they are a trait of. */
export const TRAIT_LEVELS = {
  campaignKind: "campaign",
  adKind: "campaign",
  matchType: "target",
  aim: "term",
  placementKind: "placement",
} as const satisfies Partial<Record<Level, CubeDimension>>;
export type TraitLevel = keyof typeof TRAIT_LEVELS;

export function isTraitLevel(level: Level): level is TraitLevel {
  return level in TRAIT_LEVELS;
}

/** The dimension of a report that a level is read from; shelves and fields are those of the item. */
export function dimensionOf(level: Level): CubeDimension | null {
  if (level === "workspace") return null;
  if (isTraitLevel(level)) return TRAIT_LEVELS[level];
  if (level === "shelf" || level.startsWith("field:")) return "item";
  return level as CubeDimension;
}

/** The reports that divide results by all of some levels, the fullest first. */
export function sourcesOf(levels: Level[]): Source[] {
  const needed = levels.map(dimensionOf).filter((dimension) => dimension !== null);
  return (Object.keys(SOURCES) as Source[]).filter((source) =>
    needed.every((dimension) => (SOURCES[source] as readonly CubeDimension[]).includes(dimension)),
  );
}

/** The report that divides results by all of some levels where all are there; null when none does. */
export function sourceOf(levels: Level[]): Source | null {
  return sourcesOf(levels)[0] ?? null;
}

/** Whether all store sales can stand beside the ad results of a level: only where it is about items and days alone. */
export function hasStoreSales(levels: Level[]): boolean {
  return levels.every((level) => {
    const dimension = dimensionOf(level);
    return dimension === null || dimension === "item" || dimension === "day";
  });
}
