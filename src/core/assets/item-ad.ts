import { CHANNEL_LIMITS } from "../channel/limits";
import { ASSET_LISTS, type AssetSet } from "../account/records/assets";
import { type Picture } from "../account/records/ad-lines";
import type { ValueOf } from "../parts/fill";
import { fillLine, stateOf, type LineList } from "./ad-line";

/** What the channel can put an item's ads together from. */
export interface ItemAd {
  headlines: string[];
  descriptions: string[];
  pictures: Picture[];
}

/** The lines that can be shown for an item, and its pictures: a field's picture only where the item has one. */
export function itemAd(assets: AssetSet, valueOf: ValueOf): ItemAd {
  const fitting = (list: LineList) =>
    assets[list].flatMap((line) => {
      const filled = fillLine(line, valueOf);
      return stateOf(filled, list) === "fits" ? [filled.text] : [];
    });
  return {
    headlines: [...new Set(fitting("headlines"))],
    descriptions: [...new Set(fitting("descriptions"))],
    pictures: assets.pictures.filter((picture) => picture.from === "upload" || valueOf(picture.field) !== ""),
  };
}

/** Whether an ad can be put together at all: one of each. */
export function isComplete(ad: ItemAd): boolean {
  return ASSET_LISTS.every((list) => ad[list].length > 0);
}

/** The same without putting it together: the first of each that fits is enough. */
export function hasAd(assets: AssetSet, valueOf: ValueOf): boolean {
  const hasLine = (list: LineList) => assets[list].some((line) => stateOf(fillLine(line, valueOf), list) === "fits");
  const hasPicture = assets.pictures.some((picture) => picture.from === "upload" || valueOf(picture.field) !== "");
  return hasPicture && hasLine("descriptions") && hasLine("headlines");
}

/** Share of what the channel takes of each list from which more choice brings no more. */
const PLENTY = 0.5;

/** What an ad with one of each draws of the clicks that one with plenty of choice draws. */
const LEAST_APPEAL = 0.7;

/**
 * How much of the clicks an item's ads draw, 0.7 to 1: the channel tries what it has and keeps what is clicked, so choice
 * helps, half of what it takes is plenty, and an ad without one of each is not shown (0).
 */
export function appealOf(ad: ItemAd): number {
  if (!isComplete(ad)) return 0;
  const choice = ASSET_LISTS.map((list) => Math.min(1, ad[list].length / (PLENTY * CHANNEL_LIMITS.assets[list].most)));
  const mean = choice.reduce((sum, of) => sum + of, 0) / choice.length;
  return LEAST_APPEAL + (1 - LEAST_APPEAL) * mean;
}
