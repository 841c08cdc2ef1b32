import { CHANNEL_LIMITS } from "../channel/limits";
import { ASSET_LISTS, wrongCounts, type AssetList, type AssetSet } from "../account/records/assets";
import type { ValueOf } from "../parts/fill";
import { fillLine, lengthOf, stateOf, type LineList } from "./ad-line";
import { isComplete, itemAd } from "./item-ad";

/** How one line stands over the items of its group. */
export interface LineReadiness {
  list: LineList;
  /** Its place in the list. */
  at: number;
  /** Items for which it can be shown, would leave a gap, or is too long. */
  fits: number;
  gap: number;
  long: number;
  /** The row and text of the longest, and a row that leaves a gap; null where there is none. */
  longest: { row: number; text: string; length: number } | null;
  gapAt: { row: number; fields: string[] } | null;
}

/** What stands in the way of a group's ads, and how far they reach. No grade. */
export interface Readiness {
  /** Lists of which there are too few or too many. */
  counts: { list: AssetList; has: number; least: number; most: number; isRight: boolean }[];
  lines: LineReadiness[];
  /** By place in the list of pictures: items that have it. */
  pictures: number[];
  /** Items looked at, and those for which an ad can be put together. */
  items: number;
  complete: number;
  /** Of those, items for which fewer lines or pictures can be used than the channel asks a group for. */
  thin: number;
  /** A row without a whole ad, or null. */
  incompleteAt: number | null;
}

/** Looks through a group's items line by line. @param valueOf the value of a field for a row, as it reads in an ad */
export function readinessOf(assets: AssetSet, rows: ArrayLike<number>, valueOf: (row: number) => ValueOf): Readiness {
  const wrong = wrongCounts(assets);
  const counts = ASSET_LISTS.map((list) => {
    const { least, most } = CHANNEL_LIMITS.assets[list];
    return { list, has: assets[list].length, least, most, isRight: !wrong.includes(list) };
  });
  const lines = (["headlines", "descriptions"] as const).flatMap((list) =>
    assets[list].map((line, at) => ({
      line,
      told: { list, at, fits: 0, gap: 0, long: 0, longest: null, gapAt: null } as LineReadiness,
    })),
  );
  const pictures = assets.pictures.map(() => 0);
  let complete = 0;
  let thin = 0;
  let incompleteAt: number | null = null;
  for (let i = 0; i < rows.length; i++) {
    const row = rows[i]!;
    const own = valueOf(row);
    for (const { line, told } of lines) {
      const filled = fillLine(line, own);
      const state = stateOf(filled, told.list);
      told[state]++;
      if (state === "gap") told.gapAt ??= { row, fields: filled.empty };
      else {
        const length = lengthOf(filled.text);
        if (length > (told.longest?.length ?? 0)) told.longest = { row, text: filled.text, length };
      }
    }
    assets.pictures.forEach((picture, at) => {
      if (picture.from === "upload" || own(picture.field) !== "") pictures[at] = pictures[at]! + 1;
    });
    const ad = itemAd(assets, own);
    if (!isComplete(ad)) incompleteAt ??= row;
    else {
      complete++;
      if (ASSET_LISTS.some((list) => ad[list].length < CHANNEL_LIMITS.assets[list].least)) thin++;
    }
  }
  return { counts, lines: lines.map(({ told }) => told), pictures, items: rows.length, complete, thin, incompleteAt };
}
