import { z } from "zod";
import { CHANNEL_LIMITS } from "../channel/limits";

/** Levels of a ladder, as many as the channel's trees are deep. */
export const MOST_LEVELS = CHANNEL_LIMITS.splitDepth;

/** A part of a name: fixed text, the value of a split level (1 is the top), what the items are called, or a setting of the planogram. */
export const namePartSchema = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("text"), text: z.string().max(60) }),
  z.object({ kind: z.literal("level"), level: z.int().min(1).max(MOST_LEVELS) }),
  z.object({ kind: z.literal("product") }),
  z.object({ kind: z.literal("purpose") }),
  z.object({ kind: z.literal("campaign-kind") }),
  z.object({ kind: z.literal("match") }),
  z.object({ kind: z.literal("first-day") }),
  z.object({ kind: z.literal("planogram") }),
  z.object({ kind: z.literal("campaign") }),
  z.object({ kind: z.literal("number") }),
]);

const MOST_PARTS = 16;
export const namePatternSchema = z.array(namePartSchema).min(1).max(MOST_PARTS);

export type NamePart = z.infer<typeof namePartSchema>;
export type NamePattern = z.infer<typeof namePatternSchema>;

/** Whether a pattern asks what the items are called. */
export function usesProduct(pattern: NamePattern): boolean {
  return pattern.some(({ kind }) => kind === "product");
}

/** Fields whose values are codes that say nothing to people: what they stand for is called by its product. */
const CODES = new Set(["family", "id"]);

/**
 * The usual name of what forms at a line: the values of every split that sets it apart, top first; families and single
 * items go by their product.
 */
export function namesByLevels(from: number, to: number, ladder: readonly { by: string }[] = []): NamePattern {
  if (to <= from) return [{ kind: "planogram" }];
  const parts = Array.from({ length: to - from }, (_, i) => from + i + 1).flatMap((level): NamePart[] => {
    if (!CODES.has(ladder[level - 1]?.by ?? "")) return [{ kind: "level", level }];
    return level === to ? [{ kind: "product" }] : [];
  });
  return parts
    .flatMap((part, i) => (i === 0 ? [part] : [{ kind: "text" as const, text: " · " }, part]))
    .slice(0, MOST_PARTS);
}

/**
 * The usual names of a ladder's campaigns and ad groups; an ad group that is all of its campaign follows it.
 * @param isApart whether each match type or kind of reach has campaigns of its own
 */
export function usualNames(
  campaignLine: number,
  adGroupLine: number,
  ladder: readonly { by: string }[],
  isApart = false,
) {
  const adGroupName: NamePattern =
    adGroupLine === campaignLine ? [{ kind: "campaign" }] : namesByLevels(campaignLine, adGroupLine, ladder);
  const match: NamePattern = [{ kind: "text", text: " · " }, { kind: "match" }];
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
  /** The match type or kind of reach that a campaign is for, or "" where it is for several. */
  match: string;
  planogram: string;
  campaign: string;
  /** 1 for the first in its list. */
  number: number;
}

/** A name from its pattern. Parts without a value drop out together with the text before them. */
export function renderName(pattern: NamePattern, values: NameValues): string {
  let name = "";
  let pendingText = "";
  for (const part of pattern) {
    if (part.kind === "text") {
      pendingText += part.text;
      continue;
    }
    const value = partValue(part, values);
    if (value !== "") name += (name === "" && /^[^\p{L}\p{N}]*$/u.test(pendingText) ? "" : pendingText) + value;
    pendingText = "";
  }
  if (/[\p{L}\p{N}]/u.test(pendingText)) name += pendingText;
  return name.trim();
}

function partValue(part: Exclude<NamePart, { kind: "text" }>, values: NameValues): string {
  switch (part.kind) {
    case "level":
      return values.levels[part.level - 1] ?? "";
    case "campaign-kind":
      return values.kind;
    case "first-day":
      return values.firstDay;
    case "number":
      return String(values.number);
    default:
      return values[part.kind];
  }
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
