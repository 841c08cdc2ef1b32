import { noSums, addSums, shareGap, valueOf, METRICS, type MetricKey, type Sums } from "../kit/metrics";
import { formatDay } from "../kit/days";
import { plural } from "../kit/format";
import type { FaultKey } from "./finding";
import { groupsOfItems } from "./group-items";
import { wholeOf, type Material, type StockLevel, type StockLine } from "./material";
import { say, type RefKind } from "./phrase";
import type { Cell, Column, Table } from "./table";
import { thinTable } from "./thin";

/** Lines that a chapter shows; the rest is summed. */
const MOST_LINES = 40;

const NAME: Column = { label: "", kind: "name" };
const SURE: Column = { label: "Return, 80 % sure", kind: "sure" };
const metric = (key: MetricKey, of?: string): Column => {
  const { label, kind } = METRICS[key];
  return { label, kind: kind === "percent" ? "share" : kind, ...(of ? { of } : {}) };
};

const balanceColumns = ({ spend, sales }: { spend: string; sales: string }): Column[] => [
  { label: "Share of spend", kind: "share", of: spend },
  { label: "Share of sales", kind: "share", of: sales },
  { label: "Gap, points", kind: "gap" },
  ...(["cost", "revenue", "roas", "acos", "cpo", "orders"] as const).map((key) => metric(key)),
  SURE,
];

function balanceCells(sums: Sums, sure: StockLine["sure"], total: Sums, { missing }: Material): Cell[] {
  const { spendShare, salesShare, gap } = shareGap(sums, total);
  const of = (key: MetricKey) => valueOf(key, sums, missing);
  const noSales = missing.includes("revenue");
  return [
    ...[spendShare, noSales ? null : salesShare, noSales ? null : gap],
    ...(["cost", "revenue", "roas", "acos", "cpo", "orders"] as const).map(of),
    noSales ? null : sure,
  ];
}

/** Lines with both shares and the gap, the most spend first; what is beyond the first is one line. */
function balanceTable(
  lines: readonly StockLine[],
  kind: RefKind,
  label: string,
  material: Material,
  { level, count = lines.length }: { level?: StockLevel; count?: number } = {},
): Table | null {
  const whole = wholeOf(material, level ?? null);
  const shown = lines.filter(({ sums }) => sums.cost !== 0 || sums.revenue !== 0 || sums.clicks > 0);
  if (shown.length === 0) return null;
  const ordered = [...shown].sort((a, b) => b.sums.cost - a.sums.cost || b.sums.revenue - a.sums.revenue);
  const first = ordered.slice(0, MOST_LINES);
  const rest = noSums();
  addSums(rest, whole.sums);
  for (const { sums } of first)
    for (const key of Object.keys(rest) as (keyof Sums)[]) (rest[key] as number) -= sums[key];
  const others = Math.max(ordered.length, count) - first.length;
  return {
    columns: [{ ...NAME, label }, ...balanceColumns(whole)],
    rows: first.map((line) => [
      { ref: { kind, key: line.key, name: line.name } },
      ...balanceCells(line.sums, line.sure, whole.sums, material),
    ]),
    rest: others > 0 ? { count: others, cells: [null, ...balanceCells(rest, null, whole.sums, material)] } : null,
    total: [null, ...balanceCells(whole.sums, null, whole.sums, material)],
  };
}

/** Items with what ads sold beside all that the shop sold. */
function itemTable(material: Material): Table | null {
  const lines = material.levels.item;
  if (!lines || lines.length === 0) return null;
  const { missing, total } = material;
  const keys = ["cost", "revenue", "acos", "storeRevenue", "tacos", "adDependence", "orders"] as const;
  const cells = (sums: Sums, sure: StockLine["sure"]): Cell[] => [
    ...keys.map((key) => valueOf(key, sums, missing)),
    sure,
  ];
  const ordered = [...lines].sort((a, b) => b.sums.cost - a.sums.cost);
  const first = ordered.slice(0, MOST_LINES);
  const rest = noSums();
  for (const { sums } of ordered.slice(MOST_LINES)) addSums(rest, sums);
  const others = (material.counts.item ?? ordered.length) - first.length;
  return {
    columns: [{ ...NAME, label: "Item" }, ...keys.map((key) => metric(key)), SURE],
    rows: first.map((line) => [
      { ref: { kind: "item", key: line.key, name: line.name } },
      ...cells(line.sums, line.sure),
    ]),
    rest: others > 0 ? { count: others, cells: [null, ...cells(rest, null)] } : null,
    total: [null, ...cells(total, null)],
  };
}

/** How many of all that had a click make the first part of the spend. */
const PARTS = [0.01, 0.05, 0.1, 0.2, 0.5];

/** Concentration: what the costliest parts of items, terms and campaigns take and bring. */
function concentrationTable(material: Material): Table | null {
  const told: [string, StockLine[] | undefined][] = [
    ["items", material.levels.item],
    ["terms", material.levels.term?.filter(({ key }) => key !== "")],
    ["campaigns", material.levels.campaign],
  ];
  const rows = told.flatMap(([many, lines]): Cell[][] => {
    const paid = (lines ?? []).filter(({ sums }) => sums.cost > 0).sort((a, b) => b.sums.cost - a.sums.cost);
    return PARTS.flatMap((part): Cell[][] => {
      const count = Math.round(part * paid.length);
      if (count < 1) return [];
      const sums = noSums();
      for (const line of paid.slice(0, count)) addSums(sums, line.sums);
      const { spendShare, salesShare, gap } = shareGap(sums, material.total);
      const says = say`the costliest ${String(Math.round(part * 100))} % of ${many}, ${String(count)} of ${String(paid.length)}`;
      return [[{ says }, spendShare, salesShare, gap, valueOf("roas", sums, material.missing)]];
    });
  });
  return rows.length === 0
    ? null
    : {
        columns: [
          { label: "Part", kind: "words" },
          ...balanceColumns(wholeOf(material, null)).slice(0, 3),
          metric("roas"),
        ],
        rows,
        rest: null,
        total: null,
      };
}

/** The course of the window by weeks, the first of them short where it does not fill one. */
function courseTable({ daily, missing }: Material): Table | null {
  if (daily.length === 0 || missing.includes("cost")) return null;
  const rows: Cell[][] = [];
  for (let end = daily.length; end > 0; end -= 7) {
    const week = daily.slice(Math.max(0, end - 7), end);
    const sums = noSums();
    for (const { clicks, cost, orders, revenue } of week) {
      sums.clicks += clicks;
      (sums.cost as number) += cost;
      sums.orders += orders;
      (sums.revenue as number) += revenue;
    }
    const says = say`${formatDay(week[0]!.day)} to ${formatDay(week.at(-1)!.day)}`;
    const keys = ["clicks", "cpc", "cost", "orders", "revenue", "roas", "cpo"] as const;
    rows.unshift([{ says }, ...keys.map((key) => valueOf(key, sums, missing))]);
  }
  const keys = ["clicks", "cpc", "cost", "orders", "revenue", "roas", "cpo"] as const;
  return {
    columns: [{ label: "Week", kind: "words" }, ...keys.map((key) => metric(key))],
    rows,
    rest: null,
    total: null,
  };
}

/** Hours at which campaigns ran dry. */
function dryTable(material: Material): Table | null {
  const dry = (material.levels.campaign ?? [])
    .filter(({ dryDays }) => (dryDays ?? 0) > 0)
    .sort((a, b) => (b.dryDays ?? 0) - (a.dryDays ?? 0));
  if (dry.length === 0) return null;
  return {
    columns: [
      { ...NAME, label: "Campaign" },
      { label: `Dry days of the last ${material.purseDays}`, kind: "count" },
      { label: "Usual hour", kind: "words" },
      metric("cost"),
      metric("roas"),
      SURE,
    ],
    rows: dry
      .slice(0, MOST_LINES)
      .map(({ key, name, sums, sure, dryDays, dryHour }) => [
        { ref: { kind: "campaign", key, name } },
        dryDays ?? null,
        dryHour === null || dryHour === undefined
          ? null
          : { says: [`${String(Math.floor(dryHour)).padStart(2, "0")}:00`] },
        ...[sums.cost, valueOf("roas", sums, material.missing), sure],
      ]),
    rest: null,
    total: null,
  };
}

/** Own pages and brand searches with how much of them is held. */
function heldTable({ held, days }: Material): Table | null {
  const told = (held ?? []).filter(({ monthlyViews, impressions }) => (monthlyViews ?? 0) > 0 || impressions > 0);
  if (told.length === 0 || days <= 0) return null;
  return {
    columns: [
      { ...NAME, label: "Page or search" },
      { label: "Views a month", kind: "count" },
      { label: "Ours", kind: "share", of: "its views" },
      { label: "Clicks", kind: "count" },
      { label: "Orders", kind: "count" },
      { label: "Aimed at by name", kind: "words" },
    ],
    rows: [...told]
      .sort((a, b) => (b.monthlyViews ?? 0) - (a.monthlyViews ?? 0))
      .slice(0, MOST_LINES)
      .map(({ place, what, monthlyViews, share, clicks, orders, isAimedAt }) => [
        { ref: { kind: what === "brand" ? "term" : "listing", key: place, name: place } },
        ...[monthlyViews, share, clicks, orders],
        { says: [isAimedAt ? "yes" : "no"] },
      ]),
    rest: null,
    total: null,
  };
}

interface Chapter {
  title: string;
  /** What it tells, in one sentence. */
  about: string;
  /** What has to be read in for it. */
  needs: string;
  faults: FaultKey[];
  table(material: Material): Table | null;
}

const byLevel =
  (level: StockLevel, kind: RefKind, label: string) =>
  (material: Material): Table | null => {
    const lines = material.levels[level];
    // One line that is everything tells nothing.
    return lines && (lines.length > 1 || level === "campaign")
      ? balanceTable(lines, kind, label, material, { level, count: material.counts[level] })
      : null;
  };

const byItems =
  (by: Parameters<typeof groupsOfItems>[1], kind: RefKind, label: string) =>
  (material: Material): Table | null => {
    const groups = groupsOfItems(material, by);
    return groups.length > 1 ? balanceTable(groups, kind, label, material) : null;
  };

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

/** Campaigns as they are set, with the orders each can learn from. */
function structureTable(material: Material): Table | null {
  const { account, levels } = material;
  if (!account) return null;
  const brought = new Map((levels.campaign ?? []).map((line) => [line.key, line.sums]));
  const campaigns = account.all("campaign").filter(({ status }) => status === "on");
  if (campaigns.length === 0) return null;
  const open = new Set((material.leaks ?? []).map(({ campaign }) => campaign));
  const ordered = [...campaigns].sort((a, b) => b.dailyBudget - a.dailyBudget);
  return {
    columns: [
      { ...NAME, label: "Campaign" },
      { label: "Kind", kind: "words" },
      { label: "Purpose", kind: "words" },
      { label: "Budget a day", kind: "money" },
      { label: "Orders a month", kind: "count" },
      { label: "Remainder", kind: "words" },
    ],
    rows: ordered
      .slice(0, MOST_LINES)
      .map(({ key, name, kind, purpose, dailyBudget }) => [
        { ref: { kind: "campaign", key, name } },
        { says: [kind] },
        { says: [purpose] },
        dailyBudget,
        material.days > 0 ? Math.round(((brought.get(key)?.orders ?? 0) / material.days) * 30) : null,
        { says: [open.has(name) || open.has(key) ? "open" : "closed"] },
      ]),
    rest:
      ordered.length > MOST_LINES
        ? { count: ordered.length - MOST_LINES, cells: [null, null, null, null, null, null] }
        : null,
    total: null,
  };
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
