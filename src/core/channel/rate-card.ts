import { windowHolds, type ListingWindow } from "./listing-window";
import type { MatchType } from "./match-types";
import { MATCH_FIT, QueryIndex } from "./matching";
import type { Place } from "./place";

/** A channel's estimate of what clicks cost. Whole mills; null where it is not told. */
export interface RateCard {
  low: number | null;
  typical: number;
  high: number | null;
  /** Views a month over all places it covers; null where none are told. */
  monthlyViews: number | null;
  /** How many queries, pages or placements it covers. */
  places: number;
}

type Priced = Pick<Place, "low" | "typical" | "high" | "monthlyViews" | "places">;

/**
 * One card over several places: prices in the mean, each place by its views, or all alike where none are told. Null where
 * no price is.
 * @param fit how much closer an ad fits for how it is aimed: what has to be beaten costs so much less a click
 */
export function cardOver(places: readonly Priced[], fit = 1): RateCard | null {
  const priced = places.filter(({ typical }) => typical !== null);
  if (priced.length === 0) return null;
  const told = priced.filter(({ monthlyViews }) => monthlyViews !== null);
  const views = told.reduce((sum, { monthlyViews }) => sum + monthlyViews!, 0);
  const mean = (key: "low" | "typical" | "high") => {
    let [sum, weights] = [0, 0];
    for (const place of priced) {
      const weight = views > 0 ? (place.monthlyViews ?? 0) : 1;
      if (place[key] === null || weight === 0) continue;
      sum += weight * place[key];
      weights += weight;
    }
    return weights === 0 ? null : Math.round(sum / weights / fit);
  };
  return {
    ...{ low: mean("low"), typical: mean("typical")!, high: mean("high") },
    monthlyViews: told.length === 0 ? null : views,
    places: priced.reduce((sum, place) => sum + place.places, 0),
  };
}

/** What a channel tells of queries and listings, to look up in. */
export class RateBook {
  private readonly queries: Place[];
  private readonly listings: Place[];
  private readonly byListing = new Map<string, Place[]>();
  private readonly index: QueryIndex;

  constructor(readonly places: readonly Place[]) {
    this.queries = places.filter(({ kind }) => kind === "query");
    this.listings = places.filter(({ kind }) => kind === "listing");
    for (const place of this.listings) {
      this.byListing.set(place.name, [...(this.byListing.get(place.name) ?? []), place]);
    }
    this.index = new QueryIndex(this.queries.map(({ name }, id) => ({ id, label: name })));
  }

  /** The card of a keyword: the queries it matches. Null when nobody searches so, or no price is told. */
  keyword(text: string, match: MatchType): RateCard | null {
    const found = this.index.find(text, match).map((id) => this.queries[id]!);
    return cardOver(found, MATCH_FIT[match]);
  }

  /** The card of a listing's page. Null when there is no such listing, or no price is told. */
  listing(id: string): RateCard | null {
    return cardOver(this.byListing.get(id) ?? []);
  }

  /** The card of a category window: the pages in it but our own. Null when it holds none, or no price is told. */
  window(window: ListingWindow): RateCard | null {
    return cardOver(this.inWindow(window));
  }

  /** The card of a category: its queries and pages. */
  category(name: string): RateCard | null {
    return cardOver(this.places.filter(({ kind, category }) => kind !== "item" && category === name));
  }

  /**
   * Whether it is known that nobody searches for what a keyword matches; null where the channel tells of no searches at all,
   * so that nothing known is not taken for nobody there. So for the two below.
   */
  hasNoQuery(text: string, match: MatchType): boolean | null {
    return this.queries.length === 0 ? null : this.index.find(text, match).length === 0;
  }

  hasNoListing(id: string): boolean | null {
    return this.listings.length === 0 ? null : !this.byListing.has(id);
  }

  hasNoneIn(window: ListingWindow): boolean | null {
    return this.listings.length === 0 ? null : !this.inWindow(window).length;
  }

  private inWindow(window: ListingWindow): Place[] {
    return this.listings.filter((place) => place.role !== "own" && windowHolds(window, place));
  }
}
