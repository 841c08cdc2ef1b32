import { METRICS, noSums, orderOf, shareGap, valueOf, type MetricKey, type Sums } from "@/core/kit/metrics";
import type { Group } from "@/core/results/cube";
import type { LineEvidence } from "@/core/evidence/lines";
import type { TermOrListing } from "@/core/targets/place-kind";
import type { PlaceTeller } from "../../places/place-kinds";
import type { Divided } from "./divide";
import type { LevelCodes } from "./level-codes";
import type { SliceQuery } from "./slice-query";

export interface SliceLine {
  key: string;
  name: string;
  /** The item's picture, at level `item`. */
  image: string | null;
  splitKey: string;
  splitName: string;
  sums: Sums;
  before: Sums | null;
  spendShare: number | null;
  salesShare: number | null;
  gap: number | null;
  /** Chance that the true return reaches the goal; null without spend. */
  chance: number | null;
  evidence: LineEvidence | null;
  /** Days in the window on which the budget ran out, and the usual hour; campaigns only. */
  dryDays: number | null;
  dryHour: number | null;
  /** At level `term`: whether it is a term or a listing's page; null where nothing tells, and at other levels. */
  placeKind: TermOrListing | null;
}

/** What lines are made of. */
export interface SliceTable {
  level: LevelCodes;
  split: LevelCodes | null;
  groups: Group[];
  then: Divided | null;
  total: Sums;
  /** What the report of the lines does not tell. */
  missing: (keyof Sums)[];
}

/** A group as a line, without what has to be worked out for it. */
export function asLine(
  { level, split, then, total }: SliceTable,
  { key: code, split: part, sums }: Group,
  dry: Map<string, { days: number; hour: number }> | null,
  tell: PlaceTeller | null,
): Omit<SliceLine, "chance" | "evidence"> {
  const key = level.keyOf(code);
  const ran = dry?.get(key);
  return {
    key,
    name: level.nameOf(code),
    image: level.imageOf?.(code) ?? null,
    splitKey: split?.keyOf(part) ?? "",
    splitName: split?.nameOf(part) ?? "",
    sums,
    before: then && (then.find(code, part) ?? noSums()),
    ...shareGap(sums, total),
    dryDays: ran?.days ?? null,
    dryHour: ran?.hour ?? null,
    placeKind: tell && tell(key),
  };
}

/** The groups in whose names all words of a text occur and whose metrics are as asked; what has no value is not found. */
export function searched(
  { level, split, groups, missing }: SliceTable,
  q: string,
  where: SliceQuery["where"],
): Group[] {
  const words = q.toLowerCase().split(/\s+/).filter(Boolean);
  if (words.length === 0 && where.length === 0) return groups;
  return groups.filter(({ key, split: part, sums }) => {
    for (const { metric, op, value: limit } of where) {
      const value = orderOf(metric, sums, missing);
      if (value === null || (op === "least" ? value < limit : value > limit)) return false;
    }
    const text = `${level.nameOf(key)} ${level.keyOf(key)} ${split?.nameOf(part) ?? ""}`.toLowerCase();
    return words.every((word) => text.includes(word));
  });
}

/**
 * Sorts by a metric, its change against the other window (`change:cost`), the gap, the chance, or the name.
 * @param most how many of the first lines are wanted; more may come
 */
export function sorted(
  table: SliceTable,
  groups: Group[],
  sort: string,
  most: number,
  chance: (group: Group) => number | null,
): Group[] {
  const sign = sort.startsWith("-") ? -1 : 1;
  const by = sort.replace(/^-/, "");
  const byName = (a: Group, b: Group) => {
    const [x, y] = [table.level.nameOf(a.key).toLowerCase(), table.level.nameOf(b.key).toLowerCase()];
    return x < y ? -1 : x > y ? 1 : a.split - b.split;
  };
  if (by === "name") return [...groups].sort((a, b) => sign * byName(a, b));
  const named = by.startsWith("change:") ? by.slice("change:".length) : "";
  const change = named in METRICS ? (named as MetricKey) : undefined;
  const value = (group: Group): number | null => {
    const { key, split, sums } = group;
    if (by === "gap") return shareGap(sums, table.total).gap;
    if (by === "chance") return chance(group);
    if (change) {
      const before = table.then?.find(key, split);
      const [now, then] = [
        valueOf(change, sums, table.missing),
        before ? valueOf(change, before, table.missing) : null,
      ];
      return now === null || !then ? null : now / then - 1;
    }
    return by in METRICS ? orderOf(by as MetricKey, sums, table.missing) : null;
  };
  // Numbers are worked out once a line; lines without one come last, whichever way the rest goes.
  const values = Float64Array.from(groups, (group) => {
    const found = value(group);
    return found === null ? Infinity : sign * found;
  });
  // Only the first lines are shown, so only those that can be among them are put in order.
  const last = most < groups.length ? values.slice().sort()[most - 1]! : Infinity;
  const order: number[] = [];
  for (let i = 0; i < values.length; i++) if (values[i]! <= last) order.push(i);
  order.sort(
    (a, b) =>
      // Of lines alike, as of those that sold nothing, what costs more comes first.
      values[a]! - values[b]! ||
      groups[b]!.sums.cost - groups[a]!.sums.cost ||
      groups[a]!.key - groups[b]!.key ||
      groups[a]!.split - groups[b]!.split,
  );
  return order.map((i) => groups[i]!);
}
