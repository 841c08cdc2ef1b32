import { CHANNEL_LIMITS } from "@/core/channel/limits";
import type { LineList } from "@/core/copy/copy-plan";
import type { LineFate } from "@/server/copy/look";

export const LIST_LABEL: Record<LineList, string> = {
  headlines: "Headlines",
  descriptions: "Descriptions",
  address: "Address",
};
export const ONE_LINE: Record<LineList, string> = {
  headlines: "Headline",
  descriptions: "Description",
  address: "Address",
};

export const PARTS = { ads: "Ads", keywords: "Keywords", groups: "Ad groups", proof: "Proof" } as const;
export type CopyPart = keyof typeof PARTS;

/** What the channel takes of a list, in words. */
export function takes(list: LineList): string {
  const { least, most, length } = CHANNEL_LIMITS.textAd[list];
  return `${least === most ? most : `${least} to ${most}`}, ${length} characters each`;
}

/** Why a line is not there, in words. */
export function fateWords(
  fate: LineFate,
  over: number,
  gap: string | null,
  awkward: string | null,
  label: (field: string) => string,
): string {
  if (fate === "gap") return gap === null ? "says nothing here" : `${label(gap)} says nothing here`;
  if (fate === "too long") return `${over} characters too long`;
  if (fate === "awkward")
    return awkward === "doubled"
      ? "a word would stand twice"
      : awkward === "dangling"
        ? "would end in the air"
        : "two signs at one price";
  return fate === "cut" ? "cut at a word" : "runs on into the next line";
}
