import type { z } from "zod";
import { CHANNEL_LIMITS } from "../channel/limits";
import { fillParts, type ValueOf } from "../parts/fill";
import { field, fieldsOfParts, lineSchema, text, type Part } from "../parts/part";

/** Levels of a ladder, as many as the channel's trees are deep. */
export const MOST_LEVELS = CHANNEL_LIMITS.splitDepth;

/** What a name can tell beside the values of its splits. */
export const NAME_FIELDS = [
  ...(["product", "purpose", "campaign-kind", "match"] as const),
  ...(["first-day", "planogram", "campaign", "number"] as const),
];
export type NameField = (typeof NAME_FIELDS)[number];

/** The field that stands for the value of a split; 1 is the top. */
export function levelField(level: number): string {
  return `level-${level}`;
}

/** Which split a field of a name stands for, or null where it stands for something else. */
export function levelOf(name: string): number | null {
  const level = Number(/^level-(\d{1,2})$/.exec(name)?.[1]);
  return level >= 1 && level <= MOST_LEVELS ? level : null;
}

function isNameField(name: string): boolean {
  return levelOf(name) !== null || NAME_FIELDS.some((known) => known === name);
}

export const MOST_NAME_PARTS = 16;
export const namePatternSchema = lineSchema(MOST_NAME_PARTS).refine(
  (parts) => fieldsOfParts(parts).every(isNameField),
  `A name is made of texts and of: ${levelField(1)} to ${levelField(MOST_LEVELS)}, ${NAME_FIELDS.join(", ")}.`,
);
export type NamePattern = z.infer<typeof namePatternSchema>;

/** Whether a pattern asks what the items are called. */
export function usesProduct(pattern: NamePattern): boolean {
  return fieldsOfParts(pattern).includes("product");
}

/** Fields whose values are codes that say nothing to people: what they stand for is called by its product. */
const CODES = new Set(["family", "id"]);

/**
 * The usual name of what forms at a line: the values of every split that sets it apart, top first; families and single
 * items go by their product.
 */
export function namesByLevels(from: number, to: number, ladder: readonly { by: string }[] = []): NamePattern {
  if (to <= from) return [field("planogram")];
  const parts = Array.from({ length: to - from }, (_, i) => from + i + 1).flatMap((level): Part[] => {
    if (!CODES.has(ladder[level - 1]?.by ?? "")) return [field(levelField(level))];
    return level === to ? [field("product")] : [];
  });
  return parts.flatMap((part, i) => (i === 0 ? [part] : [text(" · "), part])).slice(0, MOST_NAME_PARTS);
}

/**
 * The usual names of a ladder's campaigns and ad groups; an ad group that is all of its campaign follows it.
 * @param isApart whether each match type or reach has campaigns of its own
 */
export function usualNames(
  campaignLine: number,
  adGroupLine: number,
  ladder: readonly { by: string }[],
  isApart = false,
) {
  const adGroupName: NamePattern =
    adGroupLine === campaignLine ? [field("campaign")] : namesByLevels(campaignLine, adGroupLine, ladder);
  const match: NamePattern = [text(" · "), field("match")];
  return { campaignName: [...namesByLevels(0, campaignLine, ladder), ...(isApart ? match : [])], adGroupName };
}

export interface NameValues {
  /** Labels of the split values, top first. */
  levels: string[];
  /** What the items are called; see `product-name.ts`. */
  product: string;
  purpose: string;
  /** The kind of the campaign, and the first day it runs or "" where it always does. */
  kind: string;
  firstDay: string;
  /** The match type or reach that a campaign is for, or "" where it is for several. */
  match: string;
  planogram: string;
  campaign: string;
  /** 1 for the first in its list. */
  number: number;
}

/** A name from its pattern; see `fillParts`. */
export function renderName(pattern: NamePattern, values: NameValues): string {
  return fillParts(pattern, nameValue(values)).text;
}

/** The values of a name's fields. */
export function nameValue(values: NameValues): ValueOf {
  const told: Record<NameField, string> = {
    ...{ product: values.product, purpose: values.purpose, "campaign-kind": values.kind, match: values.match },
    ...{ "first-day": values.firstDay, planogram: values.planogram, campaign: values.campaign },
    number: String(values.number),
  };
  return (name) => {
    const level = levelOf(name);
    return level === null ? (told[name as NameField] ?? "") : (values.levels[level - 1] ?? "");
  };
}

/**
 * Makes names fit and differ: cut at the channel's length, and a repeated one gets a number behind it.
 * @returns the names in the same order, and how many had to be cut or numbered.
 */
export function settleNames(names: string[], limit: number = CHANNEL_LIMITS.nameLength) {
  const seen = new Set<string>();
  // The number to try next for each name, so that many alike are not counted through again for every one.
  const next = new Map<string, number>();
  let cut = 0;
  let numbered = 0;
  const settled = names.map((name) => {
    let fit = name === "" ? "Unnamed" : name;
    if (fit.length > limit) {
      fit = `${fit.slice(0, limit - 1).trimEnd()}…`;
      cut++;
    }
    if (seen.has(fit)) {
      numbered++;
      const name = fit;
      let n = next.get(name) ?? 2;
      do {
        const number = ` (${n++})`;
        fit = name.slice(0, limit - number.length) + number;
      } while (seen.has(fit));
      next.set(name, n);
    }
    seen.add(fit);
    return fit;
  });
  return { names: settled, cut, numbered };
}
