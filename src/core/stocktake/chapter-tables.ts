import { formatDay } from "../kit/days";
import { formatCount } from "../kit/format";
import { addSums, METRICS, noSums, shareGap, valueOf, type MetricKey, type Sums } from "../kit/metrics";
import { groupsOfItems } from "./group-items";
import { wholeOf, type Material, type StockLevel, type StockLine, type Whole } from "./material";
import { say, type RefKind } from "./phrase";
import type { Cell, Column, Table } from "./table";

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

function balanceCells(sums: Sums, sure: StockLine["sure"], { sums: total, missing }: Whole): Cell[] {
  const { spendShare, salesShare, gap } = shareGap(sums, total);
  const of = (key: MetricKey) => valueOf(key, sums, missing);
  const [noCost, noSales] = [missing.includes("cost"), missing.includes("revenue")];
  return [
    ...[noCost ? null : spendShare, noSales ? null : salesShare, noCost || noSales ? null : gap],
    ...(["cost", "revenue", "roas", "acos", "cpo", "orders"] as const).map(of),
    noCost || noSales ? null : sure,
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
      ...balanceCells(line.sums, line.sure, whole),
    ]),
    rest: others > 0 ? { count: others, cells: [null, ...balanceCells(rest, null, whole)] } : null,
    total: [null, ...balanceCells(whole.sums, null, whole)],
  };
}

/** Items with what ads sold beside all that the shop sold. */
export function itemTable(material: Material): Table | null {
  const lines = material.levels.item;
  if (!lines || lines.length === 0) return null;
  const { missing, sums: total } = wholeOf(material, "item");
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
export function concentrationTable(material: Material): Table | null {
  const told: ["item" | "term" | "campaign", string][] = [
    ["item", "items"],
    ["term", "terms"],
    ["campaign", "campaigns"],
  ];
  const rows = told.flatMap(([level, many]): Cell[][] => {
    const whole = wholeOf(material, level);
    const lines = material.levels[level]?.filter(({ key }) => key !== "");
    const paid = (lines ?? []).filter(({ sums }) => sums.cost > 0).sort((a, b) => b.sums.cost - a.sums.cost);
    return PARTS.flatMap((part): Cell[][] => {
      const count = Math.round(part * paid.length);
      if (count < 1) return [];
      const sums = noSums();
      for (const line of paid.slice(0, count)) addSums(sums, line.sums);
      const says = say`the costliest ${String(Math.round(part * 100))} % of ${many}, ${formatCount(count)} of ${formatCount(paid.length)}`;
      return [[{ says }, ...balanceCells(sums, null, whole).slice(0, 3), valueOf("roas", sums, whole.missing)]];
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

const COURSE = ["clicks", "cpc", "cost", "orders", "revenue", "roas", "cpo"] as const;

/** The course of the window by weeks, the first of them short where it does not fill one. */
export function courseTable({ daily, missing }: Material): Table | null {
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
    rows.unshift([{ says }, ...COURSE.map((key) => valueOf(key, sums, missing))]);
  }
  return {
    columns: [{ label: "Week", kind: "words" }, ...COURSE.map((key) => metric(key))],
    rows,
    rest: null,
    total: null,
  };
}

/** Hours at which campaigns ran dry. */
export function dryTable(material: Material): Table | null {
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
export function heldTable({ held, days }: Material): Table | null {
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

/** Campaigns as they are set, with the orders each can learn from. */
export function structureTable(material: Material): Table | null {
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

/** A table of a level's lines; one line that is everything tells nothing. */
export const byLevel =
  (level: StockLevel, kind: RefKind, label: string) =>
  (material: Material): Table | null => {
    const lines = material.levels[level];
    return lines && (lines.length > 1 || level === "campaign")
      ? balanceTable(lines, kind, label, material, { level, count: material.counts[level] })
      : null;
  };

/** A table of items in groups that the catalogue knows. */
export const byItems =
  (by: Parameters<typeof groupsOfItems>[1], kind: RefKind, label: string) =>
  (material: Material): Table | null => {
    const groups = groupsOfItems(material, by);
    return groups.length > 1 ? balanceTable(groups, kind, label, material) : null;
  };
