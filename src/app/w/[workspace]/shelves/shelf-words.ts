import { formatCount, formatKind, formatShare, plural } from "@/core/kit/format";
import { metricLabel, SHELF_METRICS } from "@/core/shelves/shelf-metrics";
import type { BandShelf, Cut, ShelfRule, ShelfSet } from "@/core/shelves/shelf-set";
import { whereWords, type FieldChoice } from "../catalogue/where-builder";

/** A value of a shelf metric as text. */
export function metricText(name: string, value: number, currency: string): string {
  const kind = SHELF_METRICS[name.replace(/^family:/, "")]?.kind ?? "ratio";
  if (value === Infinity) return "no spend";
  if (kind === "days") return plural(Math.round(value), "day");
  if (kind === "points") return `${value < 0 ? "−" : ""}${Math.abs(value).toFixed(2)} points`;
  if (name === "chance") return `${Math.round(value * 100)} %`;
  return formatKind(kind, value, currency);
}

function cutWords(cut: Cut, side: "above" | "below", metric: string, at: number | null, currency: string): string {
  const found = at === null ? "" : ` (${metricText(metric, at, currency)})`;
  const whole = (word: string) => (side === "above" ? `${word} and up` : `under ${word}`);
  switch (cut.by) {
    case "value":
      return whole(metricText(metric, cut.at, currency));
    case "middle": {
      const of = cut.of === "range" ? "middle of the range" : cut.of;
      return `${whole(cut.times === 1 ? `the ${of}` : `${cut.times} × the ${of}`)}${found}`;
    }
    case "quantile": {
      const by = cut.weight === "items" ? "items" : cut.weight === "cost" ? "spend" : "sales";
      const share = formatShare(side === "above" ? 1 - cut.q : cut.q);
      return `${side === "above" ? "top" : "bottom"} ${share} of ${by}${found}`;
    }
    case "count":
      return `${side === "above" ? "top" : "bottom"} ${formatCount(cut.n)}`;
    case "share":
      return `${side === "above" ? "top" : "bottom"} ${formatShare(cut.share)} of items`;
  }
}

/** What a band holds, in words. */
export function bandWords(band: BandShelf, at: number | null, currency: string): string {
  const label = metricLabel(band.metric);
  if (band.side === "any" || band.cut === null)
    return `all others ${band.evidence ? "that are read" : `with ${label}`}`;
  return `${label}: ${cutWords(band.cut, band.side, band.metric, at, currency)}`;
}

/** What a shelf holds, in words. */
export function shelfWords(shelf: ShelfRule, at: number | null, fields: FieldChoice[], currency: string): string {
  if (shelf.kind === "band") return bandWords(shelf, at, currency);
  if (shelf.kind === "pick") return shelf.families ? "picked by hand, with families" : "picked by hand";
  return shelf.where.of.length === 0 ? "every item" : whereWords(shelf.where, fields);
}

/** What the last shelf of a set takes. */
export function restWords(set: ShelfSet): string {
  const isRead = set.shelves.some((shelf) => shelf.kind === "band" && shelf.evidence);
  const few = `under ${set.leastClicks} clicks and ${plural(set.leastOrders, "order")}`;
  return isRead ? few : "what is left";
}
