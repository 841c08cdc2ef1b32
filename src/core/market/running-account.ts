import type { Columns } from "../kit/columns";
import { parseDay, type Day } from "../kit/days";
import { SLOT_KEYS } from "../kit/slots";
import type { Account } from "../account/account";
import { isHomeKind } from "../account/homes";
import type { Campaign, CampaignKind } from "../account/records/campaign";
import type { ListingTarget } from "../account/records/listing-target";
import type { ReachKind } from "../account/records/reach";
import { servingGroups } from "../account/walk";
import { comparedWords, MATCH_FIT, matches, QueryIndex } from "./matching";
import type { Surface, World } from "./world-types";

/** A campaign as the market runs it. */
export interface RunningCampaign {
  key: string;
  kind: CampaignKind;
  bidding: Campaign["bidding"];
  goal: number | null;
  /** Mills a day. */
  budget: number;
  serveOrder: number;
  pool: string | null;
  flex: { mode: "hold" | "ease" | "stretch"; limit: number };
  /** Factors on bids, in the order of `SLOT_KEYS`, and by hour or null. */
  slots: number[];
  hours: number[] | null;
  startsOn: Day | null;
  endsOn: Day | null;
}

/** What makes a bid for a row: a product group, or a target of an ad group that shows the row. */
export interface Home {
  /** A number of its own, so that lines can be told apart cheaply. */
  id: number;
  campaign: number;
  adGroup: string;
  /** Key of what the bid belongs to, as reports name it. */
  target: string;
  /** Mills a click, before the channel bids itself. */
  bid: number;
}

/** A home of a row that is limited to one surface. */
export interface Candidate {
  home: Home;
  row: number;
  /** Fit on that surface, which stands in for the surface's own. */
  fit: number;
  /** Factor on conversion there. */
  lift: number;
}

/** An account made ready for the market. */
export interface MarketAccount {
  campaigns: RunningCampaign[];
  /** Homes by row that reach every surface of the row's category: product groups of feed and asset campaigns. */
  everywhere: (Home[] | undefined)[];
  /** Homes by row for one kind of automatic reach. */
  reach: Partial<Record<ReachKind, (Home[] | undefined)[]>>;
  /** Candidates by surface: what keywords and listing targets aim at. */
  aimed: Map<number, Candidate[]>;
  /** Scopes (campaign or ad group keys, "" for all) that keep out of a surface. */
  blocked: Map<number, Set<string>>;
  pools: { key: string; budget: number }[];
  /** Mills a day for everything, or null. */
  dayCap: number | null;
  /** Campaigns that have homes in each category, by category number. */
  campaignsOf: Set<number>[];
}

/** Where an item is shown on another category's query or page, it fits badly and hardly sells. */
const FOREIGN_FIT = 0.2;
const FOREIGN_LIFT = 0.3;
/** An ad group with more items than this reaches into other categories with none of them. */
const MOST_FOREIGN = 60;

/** The slots a kind of campaign is good at; text ads stand on result pages alone. */
const KIND_SLOTS: Record<CampaignKind, number[]> = {
  feed: [1, 1, 1, 1],
  keyword: [1, 1, 0, 0],
  listing: [0, 0, 1, 0],
  discovery: [1, 1, 1, 0],
  text: [0.9, 1, 0, 0],
  asset: [0.9, 1, 0.9, 1.25],
};

/**
 * Makes an account ready for the market: which home bids on which place, for every campaign kind, with all negatives.
 * @param source records as `recordSchema` checks them
 * @param catalogue columns that splits name
 */
export function planAccount(world: World, source: Account, catalogue: Columns): MarketAccount {
  const campaigns: RunningCampaign[] = [];
  const indexOf = new Map<string, number>();
  for (const campaign of source.all("campaign")) {
    if (campaign.status !== "on") continue;
    indexOf.set(campaign.key, campaigns.length);
    campaigns.push(running(campaign));
  }
  const account: MarketAccount = {
    campaigns,
    everywhere: [],
    reach: {},
    aimed: new Map(),
    blocked: blockedSurfaces(world, source),
    pools: source.all("pool").map(({ key, dailyBudget }) => ({ key, budget: dailyBudget })),
    dayCap: source.all("dayCap")[0]?.dailyBudget ?? null,
    campaignsOf: world.categories.map(() => new Set<number>()),
  };
  let nextId = 0;
  const home = (campaign: number, adGroup: string, target: string, bid: number): Home => ({
    id: nextId++,
    campaign,
    adGroup,
    target,
    bid,
  });
  const touch = (row: number, campaign: number) => account.campaignsOf[world.rowCategory[row] as number]!.add(campaign);
  const shown = new Map<string, { campaign: number; rows: number[] }>();
  for (const group of servingGroups(source, catalogue)) {
    const campaign = indexOf.get(group.campaign.key) as number;
    if (isHomeKind(group.campaign.kind)) {
      const own = home(campaign, group.adGroup.key, group.group.key, group.bid);
      for (const row of group.rows) {
        (account.everywhere[row] ??= []).push(own);
        touch(row, campaign);
      }
    } else {
      const entry = shown.get(group.adGroup.key) ?? { campaign, rows: [] };
      shown.set(group.adGroup.key, entry);
      for (const row of group.rows) entry.rows.push(row);
    }
  }
  const bidOf = (target: { bid: number | null; adGroup: string }) => {
    return target.bid ?? source.find("adGroup", target.adGroup)?.bid ?? 0;
  };
  for (const reach of source.all("reach")) {
    const group = shown.get(reach.adGroup);
    if (reach.status !== "on" || !group || campaigns[group.campaign]!.kind !== "discovery") continue;
    const own = home(group.campaign, reach.adGroup, reach.key, bidOf(reach));
    const homes = (account.reach[reach.kind] ??= []);
    for (const row of group.rows) {
      (homes[row] ??= []).push(own);
      touch(row, group.campaign);
    }
  }
  const aim = (surface: Surface, group: { campaign: number; rows: number[] }, own: Home, closeness: number) => {
    const category = world.categoryOf[surface.id] as number;
    const list = account.aimed.get(surface.id) ?? [];
    for (const row of group.rows) {
      const isOwn = world.rowCategory[row] === category;
      if (!isOwn && group.rows.length > MOST_FOREIGN) continue;
      const place = world.rowPlace[row] as number;
      const fit = isOwn ? (surface.fit[place] as number) * closeness : FOREIGN_FIT * closeness;
      const lift = isOwn ? (surface.lift?.[place] ?? 1) : FOREIGN_LIFT;
      list.push({ home: own, row, fit, lift });
    }
    if (list.length > 0) account.aimed.set(surface.id, list);
    account.campaignsOf[category]!.add(group.campaign);
  };
  const keywords = source.all("keyword").filter(({ status }) => status === "on");
  if (keywords.length > 0) {
    const index = new QueryIndex(world.surfaces.filter(({ kind }) => kind === "query"));
    for (const keyword of keywords) {
      const group = shown.get(keyword.adGroup);
      if (!group || !["keyword", "text"].includes(campaigns[group.campaign]!.kind)) continue;
      const own = home(group.campaign, keyword.adGroup, keyword.key, bidOf(keyword));
      for (const id of index.find(keyword.text, keyword.match)) {
        aim(world.surfaces[id] as Surface, group, own, MATCH_FIT[keyword.match]);
      }
    }
  }
  for (const target of source.all("listingTarget")) {
    const group = shown.get(target.adGroup);
    if (target.status !== "on" || !group || campaigns[group.campaign]!.kind !== "listing") continue;
    const own = home(group.campaign, target.adGroup, target.key, bidOf(target));
    for (const surface of aimedPages(world, target)) aim(surface, group, own, target.aim.by === "listing" ? 1.1 : 0.95);
  }
  return account;
}

function running(campaign: Campaign): RunningCampaign {
  const { key, kind, bidding, goal, dailyBudget, serveOrder } = campaign;
  return {
    key,
    kind,
    bidding,
    goal,
    budget: dailyBudget,
    serveOrder,
    pool: campaign.pool ?? null,
    flex: campaign.flex ?? { mode: "hold", limit: 0 },
    slots: SLOT_KEYS.map((slot, i) => (campaign.slots?.[slot] ?? 1) * (KIND_SLOTS[kind][i] as number)),
    hours: campaign.hours && campaign.hours.some((factor) => factor !== 1) ? campaign.hours : null,
    startsOn: campaign.startsOn ? parseDay(campaign.startsOn) : null,
    endsOn: campaign.endsOn ? parseDay(campaign.endsOn) : null,
  };
}

/** The pages that a listing target reaches. */
export function aimedPages(world: World, { aim }: ListingTarget): Surface[] {
  if (aim.by === "listing") {
    return world.surfaces.filter((surface) => surface.listing !== null && surface.listing.id === aim.listing);
  }
  const within = (value: number, from: number | null, to: number | null) =>
    (from === null || value >= from) && (to === null || value <= to);
  return world.surfaces.filter((surface) => {
    const { listing } = surface;
    if (!listing || surface.kind === "own-page") return false;
    return (
      (world.categories[world.categoryOf[surface.id] as number]!.name + " >").startsWith(`${aim.category} >`) &&
      within(listing.price, aim.priceFrom, aim.priceTo) &&
      within(listing.rating, aim.ratingFrom, aim.ratingTo) &&
      within(listing.reviews, null, aim.reviewsTo)
    );
  });
}

/** Which reach kind an automatic campaign counts a place as, for a row that fits so well; null where it has none. */
export function reachKindOf(surface: Surface, fit: number): ReachKind | null {
  if (surface.kind === "rival-page") return "rival-pages";
  if (surface.kind === "companion-page") return "companion-pages";
  if (surface.kind !== "query") return null;
  const isClose = ["broad", "attribute", "long", "own-brand"].includes(surface.queryClass as string);
  return isClose && fit >= 0.75 ? "tight-terms" : "wide-terms";
}

function blockedSurfaces(world: World, source: Account): Map<number, Set<string>> {
  const blocked = new Map<number, Set<string>>();
  const negatives = source.all("negative");
  if (negatives.length === 0) return blocked;
  const block = (surface: Surface, scope: string | null) => {
    const scopes = blocked.get(surface.id) ?? new Set<string>();
    blocked.set(surface.id, scopes.add(scope ?? ""));
  };
  const words = new Map(
    world.surfaces.filter(({ kind }) => kind === "query").map((surface) => [surface, comparedWords(surface.label)]),
  );
  for (const { what, match, value, scope } of negatives) {
    if (what === "term") {
      const own = comparedWords(value);
      for (const [surface, query] of words) if (matches(own, query, match)) block(surface, scope);
      continue;
    }
    for (const surface of world.surfaces) {
      if (what === "placement" ? surface.kind !== "placement" : surface.listing === null) continue;
      if ((surface.listing?.id ?? surface.label) === value) block(surface, scope);
    }
  }
  return blocked;
}
