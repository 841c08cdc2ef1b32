import { toUnits } from "../kit/money";
import { SHELF_METRICS } from "./shelf-metrics";
import type { BandShelf, ShelfSet } from "./shelf-set";

function numberText(metric: string, value: number): [text: string, unit: string] {
  const kind = SHELF_METRICS[metric.replace(/^family:/, "")]?.kind;
  const round = (number: number) => String(Math.round(number * 100) / 100);
  if (kind === "percent") return [round(value * 100), " %"];
  return [round(kind === "money" ? toUnits(value) : value), ""];
}

/** The part of a band's plain name that its cuts say, such as `3 to 5` or `50 % and up`; null where they don't say it all. */
export function cutPhrase(set: ShelfSet, at: number): string | null {
  const band = set.shelves[at];
  if (band?.kind !== "band" || band.side === "below") return null;
  const before = set.shelves
    .slice(0, at)
    .findLast(
      (shelf): shelf is BandShelf => shelf.kind === "band" && shelf.metric === band.metric && shelf.side === "above",
    );
  const above = before?.cut?.by === "value" ? numberText(band.metric, before.cut.at) : null;
  if (band.cut === null) return above && `under ${above.join("")}`;
  if (band.cut.by !== "value") return null;
  const [own, unit] = numberText(band.metric, band.cut.at);
  return above ? `${own} to ${above.join("")}` : `${own}${unit} and up`;
}

/** Shelves that were called by their cuts go on being called by them; names that people gave stay. */
export function withPlainNames(before: ShelfSet, after: ShelfSet): ShelfSet {
  const shelves = after.shelves.map((shelf, at) => {
    const was = before.shelves.findIndex(({ key }) => key === shelf.key);
    const old = was < 0 ? null : cutPhrase(before, was);
    if (old === null || before.shelves[was]!.name !== shelf.name || !shelf.name.endsWith(old)) return shelf;
    const now = cutPhrase(after, at);
    return now === null ? shelf : { ...shelf, name: shelf.name.slice(0, -old.length) + now };
  });
  return { ...after, shelves };
}
