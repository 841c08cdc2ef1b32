import { z } from "zod";
import { MATCH_TYPES } from "@/core/channel/match-types";
import { cardOver, type RateCard } from "@/core/channel/rate-card";
import { cellText } from "@/core/kit/columns";
import { formatDay } from "@/core/kit/days";
import { groupBy } from "@/core/kit/group-by";
import type { Database } from "@/db/client";
import { walkAccount } from "../account/serving";
import { readAccount } from "../account/state";
import { loadCatalogue } from "../catalogue/load";
import { rowsById } from "../catalogue/item-rows";
import { itemCard, knownItems, knownPlaces, placesVersion, rateBook, settled, type ToldPlace } from "../channel/places";
import { remember } from "../read/memo";

export const rateCardSchema = z.object({
  items: z.array(z.string().max(500)).max(5000).default([]),
  keywords: z
    .array(z.object({ text: z.string().min(1).max(200), match: z.enum(MATCH_TYPES).default("broad") }))
    .max(5000)
    .default([]),
  listings: z.array(z.string().max(300)).max(5000).default([]),
  /** Keys of ad groups and product groups of the account with the basket on it. */
  groups: z.array(z.string().max(2000)).max(100).default([]),
});

export interface RateCards {
  items: { id: string; title: string; card: RateCard | null }[];
  keywords: { text: string; match: string; card: RateCard | null }[];
  listings: { listing: string; card: RateCard | null }[];
  groups: { key: string; items: number; card: RateCard | null }[];
}

/** Items of a group whose cards are looked at, spread evenly over it; more would not move the mean. */
const MOST_OF_GROUP = 200;

async function groupCards(db: Database, keys: string[]): Promise<RateCards["groups"]> {
  if (keys.length === 0) return [];
  const { serving, aimed } = await walkAccount(db, (await readAccount(db)).planned);
  const { columns } = await loadCatalogue(db, ["id"]);
  const groups = keys.map((key) => {
    const rows = [...serving, ...aimed]
      .filter(({ group, adGroup }) => group.key === key || adGroup.key === key)
      .flatMap((found) => [...found.rows]);
    const step = Math.max(1, Math.ceil(rows.length / MOST_OF_GROUP));
    const looked = rows.filter((_, i) => i % step === 0);
    return { key, items: rows.length, ids: looked.map((row) => cellText(columns["id"]!, row)) };
  });
  const known = await knownItems(db, [...new Set(groups.flatMap(({ ids }) => ids))]);
  return groups.map(({ key, items, ids }) => ({
    ...{ key, items },
    card: cardOver(ids.flatMap((id) => known.get(id) ?? [])),
  }));
}

/** What is known of the prices of items, keywords, listings and groups, whoever told of them; null where nothing is. */
export async function rateCards(db: Database, asked: z.output<typeof rateCardSchema>): Promise<RateCards> {
  const book = await rateBook(db);
  const items = await knownItems(db, asked.items);
  const rows = asked.items.length > 0 ? await rowsById(db) : new Map<string, number>();
  const { columns } = await loadCatalogue(db, ["title"]);
  return {
    items: asked.items.map((id) => {
      const row = rows.get(id);
      const title = row !== undefined && columns["title"] ? cellText(columns["title"], row) : "";
      return { id, title, card: itemCard(items, id) };
    }),
    keywords: asked.keywords.map(({ text, match }) => ({ text, match, card: book.keyword(text, match) })),
    listings: asked.listings.map((listing) => ({ listing, card: book.listing(listing) })),
    groups: await groupCards(db, asked.groups),
  };
}

/** What is known of demand in one category. Money in mills; null where it was not told. */
export interface CategoryDemand {
  name: string;
  /** Views a month of its queries. */
  views: number | null;
  typicalCpc: number | null;
}

/** What is known of places, category by category, and who told it when. */
export interface Demand {
  categories: CategoryDemand[];
  sources: { origin: ToldPlace["origin"]; places: number; from: string; to: string }[];
}

/** What counts of the places that are known, by category; worked out once for what was told. */
async function placesByCategory(db: Database): Promise<Map<string, ToldPlace[]>> {
  return remember(db, "places by category", [await placesVersion(db)], async () =>
    groupBy(settled(await knownPlaces(db)), ({ category }) => category),
  );
}

/** Demand by category, as it was told. */
export async function demandByCategory(db: Database): Promise<Demand> {
  const sources = groupBy(await knownPlaces(db), ({ origin }) => origin);
  return {
    categories: [...(await placesByCategory(db))].map(([name, list]) => {
      const told = list.flatMap(({ kind, monthlyViews }) =>
        kind === "query" && monthlyViews !== null ? [monthlyViews] : [],
      );
      const views = told.length === 0 ? null : told.reduce((sum, one) => sum + one, 0);
      return { name, views, typicalCpc: cardOver(list)?.typical ?? null };
    }),
    sources: [...sources].map(([origin, places]) => {
      let [from, to] = [Infinity, -Infinity];
      for (const { day } of places) [from, to] = [Math.min(from, day), Math.max(to, day)];
      return { origin, places: places.length, from: formatDay(from), to: formatDay(to) };
    }),
  };
}

/** What is searched for in one category and who stands there, those with the most views first. */
export interface InsideCategory {
  queries: { name: string; views: number | null; typical: number | null }[];
  listings: Pick<ToldPlace, "name" | "title" | "role" | "price" | "rating" | "reviews">[];
  /** How many there are of both; of many the first are told. */
  total: number;
}

/** Queries and listings told of one category. */
const MOST_OF_CATEGORY = 200;

/** One category with its queries and listings. */
export async function demandInside(db: Database, category: string): Promise<InsideCategory> {
  const list = (await placesByCategory(db)).get(category) ?? [];
  const byViews = [...list].sort((a, b) => (b.monthlyViews ?? 0) - (a.monthlyViews ?? 0));
  const queries = byViews.filter(({ kind }) => kind === "query");
  const listings = byViews.filter(({ kind, role }) => kind === "listing" && role !== "own");
  return {
    queries: queries
      .slice(0, MOST_OF_CATEGORY)
      .map(({ name, monthlyViews, typical }) => ({ name, views: monthlyViews, typical })),
    listings: listings
      .slice(0, MOST_OF_CATEGORY)
      .map(({ name, title, role, price, rating, reviews }) => ({ name, title, role, price, rating, reviews })),
    total: queries.length + listings.length,
  };
}
