import { describe, expect, it } from "vitest";
import type { ListingWindow } from "./listing-window";
import { placeSchema, type Place } from "./place";
import { cardOver, RateBook } from "./rate-card";

const place = (more: Partial<Place> & Pick<Place, "name">): Place => placeSchema.parse({ kind: "query", ...more });

describe("a card over several places", () => {
  it("is their prices in the mean, each by its views", () => {
    const places = [
      place({ name: "a", low: 100, typical: 200, high: 400, monthlyViews: 300 }),
      place({ name: "b", low: 200, typical: 400, high: 800, monthlyViews: 100 }),
    ];
    // (300 × 200 + 100 × 400) ÷ 400
    expect(cardOver(places)).toEqual({ low: 125, typical: 250, high: 500, monthlyViews: 400, places: 2 });
    expect(cardOver(places, 1.25)).toMatchObject({ low: 100, typical: 200, high: 400, monthlyViews: 400 });
  });

  it("counts all alike where no views are told, and says nothing of what nobody told", () => {
    const places = [place({ name: "a", typical: 200 }), place({ name: "b", typical: 300, high: 700 })];
    expect(cardOver(places)).toEqual({ low: null, typical: 250, high: 700, monthlyViews: null, places: 2 });
    expect(cardOver([place({ name: "a", monthlyViews: 900 })])).toBeNull();
    expect(cardOver([])).toBeNull();
  });

  it("leaves out of a mean what lacks a price, and out of the views nothing that is told", () => {
    const places = [place({ name: "a", typical: 200, monthlyViews: 10 }), place({ name: "b", monthlyViews: 90 })];
    expect(cardOver(places)).toMatchObject({ typical: 200, monthlyViews: 10, places: 1 });
  });
});

describe("a rate book", () => {
  const book = new RateBook([
    place({ name: "garden hose", category: "Hoses", typical: 300, monthlyViews: 100 }),
    place({ name: "long garden hose", category: "Hoses", typical: 500, monthlyViews: 300 }),
    place({ kind: "listing", name: "R1", role: "rival", category: "Hoses > Long", price: 20_000, typical: 400 }),
    place({ kind: "listing", name: "OWN", role: "own", category: "Hoses", price: 21_000, typical: 900 }),
    place({ kind: "item", name: "I1", category: "Hoses", typical: 777 }),
  ]);

  it("knows a keyword by what it matches and how closely", () => {
    // Exact: the one query of those words, at a fit of 1.1. Phrase: both, each by its views.
    expect(book.keyword("garden hose", "exact")).toMatchObject({ typical: Math.round(300 / 1.1), places: 1 });
    expect(book.keyword("garden hose", "phrase")).toMatchObject({ typical: (300 + 3 * 500) / 4, monthlyViews: 400 });
    expect(book.keyword("zeppelin", "broad")).toBeNull();
  });

  it("knows windows without pages of our own, and categories without items", () => {
    const window: ListingWindow = {
      by: "category",
      ...{ category: "Hoses", priceFrom: null, priceTo: null },
      ...{ ratingFrom: null, ratingTo: null, reviewsTo: null },
    };
    expect(book.window(window)).toMatchObject({ typical: 400, places: 1 });
    expect(book.window({ ...window, priceTo: 19_000 })).toBeNull();
    expect(book.category("Hoses")!.places).toBe(3);
  });

  it("tells nobody there from nothing known", () => {
    expect(book.hasNoQuery("zeppelin", "broad")).toBe(true);
    expect(book.hasNoQuery("garden hose", "broad")).toBe(false);
    expect(book.hasNoListing("R9")).toBe(true);
    const empty = new RateBook([]);
    expect(empty.hasNoQuery("garden hose", "broad")).toBeNull();
    expect(empty.hasNoListing("R1")).toBeNull();
  });
});
