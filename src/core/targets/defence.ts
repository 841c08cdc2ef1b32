import type { PlaceLine } from "../moves/ground";

/** A page or search of our own that others may stand at, with how much of it we hold. Money in mills, of the days looked at. */
export interface Held {
  place: string;
  what: "page" | "brand";
  /** People who look there a month; null where nobody told. */
  monthlyViews: number | null;
  impressions: number;
  clicks: number;
  cost: number;
  orders: number;
  revenue: number;
  /** Our impressions over the views of as many days; null where views are not told. Ads in several slots of one view count each. */
  share: number | null;
  /** Keys of campaigns that stood there. */
  campaigns: string[];
}

/** Days of a month of views. */
const MONTH = 30;

/**
 * How much of our own pages and brand searches we hold, from the lines of the term report.
 * @param places pages of our own and searches with our brands, with the views a month that were told
 * @param days that the lines are of
 */
export function heldPlaces(
  places: readonly Pick<Held, "place" | "what" | "monthlyViews">[],
  lines: readonly PlaceLine[],
  days: number,
): Held[] {
  const found = new Map<string, Held & { in: Set<string> }>();
  for (const one of places) {
    if (found.has(one.place)) continue;
    const nothing = { impressions: 0, clicks: 0, cost: 0, orders: 0, revenue: 0, share: null, campaigns: [] };
    found.set(one.place, { ...one, ...nothing, in: new Set() });
  }
  for (const line of lines) {
    const held = found.get(line.place);
    if (!held) continue;
    held.impressions += line.impressions;
    held.clicks += line.clicks;
    held.cost += line.cost;
    held.orders += line.orders;
    held.revenue += line.revenue;
    if (line.impressions > 0) held.in.add(line.campaign);
  }
  return [...found.values()].map(({ in: campaigns, ...held }) => {
    const views = held.monthlyViews === null ? 0 : (held.monthlyViews * days) / MONTH;
    return { ...held, campaigns: [...campaigns], share: views > 0 ? held.impressions / views : null };
  });
}
