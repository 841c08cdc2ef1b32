import { z } from "zod";
import { formatDay, type Window } from "@/core/kit/days";
import { cellText } from "@/core/kit/columns";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { demandFactor } from "@/core/market/demand";
import { HOUR_CVR, HOUR_SHARE } from "@/core/market/hours";
import { categoryCard, itemCard, keywordCard, listingCard, meanCard, type RateCard } from "@/core/market/rate-card";
import type { Placement, QueryClass, World } from "@/core/market/world-types";
import { MATCH_TYPES } from "@/core/channel/match-types";
import type { Database } from "@/db/client";
import { marketState } from "@/db/schema";
import { loadCatalogue } from "../catalogue/load";
import { walkAccount } from "../account/serving";
import { liveAccount, readAccount } from "../account/state";
import { resultDays } from "../results/load";
import type { WorkspaceInfo } from "../workspaces";
import { loadWorld } from "./run-days";

export interface MarketCategory {
  name: string;
  items: number;
  /** Views a day of its queries on an average day, and on the next day. */
  views: number;
  viewsNext: number;
  peak: string;
  /** Mills a click typically costs a middling ad there. */
  typicalCpc: number;
  rivals: { id: string; title: string; price: number; rating: number; reviews: number }[];
  queries: { label: string; queryClass: QueryClass; views: number }[];
}

export interface MarketView {
  seed: string;
  /** The last day that was run, and the next one. */
  lastDay: string | null;
  nextDay: string | null;
  lateOrders: number;
  categories: MarketCategory[];
  placements: Omit<Placement, "ctr" | "cvr">[];
  hours: { share: number; buying: number }[];
}

/** The stand-in world as a person can look at it: demand, rivals, placements. What an advertiser can't know stays hidden. */
export async function viewMarket(db: Database, info: WorkspaceInfo): Promise<Outcome<MarketView>> {
  const found = await loadWorld(db, info, await liveAccount(db));
  if (!found) return fail("market-no-catalogue", "There is no catalogue to run the market on.", "Upload a feed first.");
  const { world } = found;
  const [state] = await db.select().from(marketState);
  const span: Window | null = await resultDays(db);
  const next = span ? span.to + 1 : null;
  return ok({
    seed: info.marketSeed,
    lastDay: span && formatDay(span.to),
    nextDay: next === null ? null : formatDay(next),
    lateOrders: state?.state.late.reduce((sum, { orders }) => sum + orders, 0) ?? 0,
    hours: HOUR_SHARE.map((share, hour) => ({ share, buying: HOUR_CVR[hour]! })),
    placements: world.placements.map(({ address, name, kind, topic, isUnsafe, volume }) => ({
      ...{ address, name, kind, topic, isUnsafe },
      volume: Math.round(volume),
    })),
    categories: world.categories.map((category) => {
      const queries = category.surfaces.filter(({ kind }) => kind === "query");
      const views = queries.reduce((sum, { volume }) => sum + volume, 0);
      const factor = next === null ? 1 : demandFactor(world, category, next);
      return {
        name: category.name,
        items: category.rows.length,
        views: Math.round(views),
        viewsNext: Math.round(views * factor),
        peak: formatDay(category.peakDay).slice(5),
        typicalCpc: categoryCard(category)?.typical ?? 0,
        rivals: category.surfaces.flatMap(({ kind, listing }) => (kind === "rival-page" && listing ? [listing] : [])),
        queries: queries.map(({ label, queryClass, volume }) => ({
          label,
          queryClass: queryClass as QueryClass,
          views: Math.round(volume * factor * 10) / 10,
        })),
      };
    }),
  });
}

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

async function groupCards(db: Database, world: World, keys: string[]): Promise<RateCards["groups"]> {
  if (keys.length === 0) return [];
  const { serving, aimed } = await walkAccount(db, (await readAccount(db)).planned);
  return keys.map((key) => {
    const rows = [...serving, ...aimed]
      .filter(({ group, adGroup }) => group.key === key || adGroup.key === key)
      .flatMap((found) => [...found.rows]);
    const step = Math.max(1, Math.ceil(rows.length / MOST_OF_GROUP));
    const cards = rows.filter((_, i) => i % step === 0).flatMap((row) => itemCard(world, row) ?? []);
    return { key, items: rows.length, card: meanCard(cards) };
  });
}

/** The channel's estimates for items, keywords, listings and groups; null where it has none. */
export async function rateCards(
  db: Database,
  info: WorkspaceInfo,
  asked: z.output<typeof rateCardSchema>,
): Promise<Outcome<RateCards>> {
  const found = await loadWorld(db, info, await liveAccount(db));
  if (!found) return fail("market-no-catalogue", "There is no catalogue to run the market on.", "Upload a feed first.");
  const { world } = found;
  const { columns, length } = await loadCatalogue(db, ["id", "title"]);
  const rowOf = new Map<string, number>();
  if (asked.items.length > 0) for (let row = 0; row < length; row++) rowOf.set(cellText(columns["id"]!, row), row);
  return ok({
    items: asked.items.map((id) => {
      const row = rowOf.get(id);
      const title = row !== undefined && columns["title"] ? cellText(columns["title"], row) : "";
      return { id, title, card: row === undefined ? null : itemCard(world, row) };
    }),
    keywords: asked.keywords.map(({ text, match }) => ({ text, match, card: keywordCard(world, text, match) })),
    listings: asked.listings.map((listing) => ({ listing, card: listingCard(world, listing) })),
    groups: await groupCards(db, world, asked.groups),
  });
}
