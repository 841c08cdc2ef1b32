import type { Columns } from "../kit/columns";
import { parseDay, type Day } from "../kit/days";
import { SLOT_KEYS } from "../kit/slots";
import type { Account } from "../account/account";
import { isHomeKind } from "../account/homes";
import { HELD, type Campaign, type CampaignKind, type Flex } from "../account/records/campaign";
import type { ReachName } from "../account/records/reach";
import { servingGroups } from "../account/walk";
import { MATCH_FIT, QueryIndex } from "../channel/matching";
import type { MatchType } from "../channel/match-types";
import type { Surface, World } from "./world-types";
import type { Target } from "../account/records";
import { aimedPages } from "./aimed-pages";
import { goesWith, ringSurfaces } from "./rings";
import { assetsKey } from "../account/records/assets";
import { adValues } from "../assets/ad-values";
import { appealOf, itemAd } from "../assets/item-ad";
import { shownAds } from "../account/ads";
import { AdReader, type AdEffect } from "./ad-reading";
import { blockedSurfaces } from "./blocked-surfaces";

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
  flex: Flex;
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
  /** By row, of an asset group: how much of the clicks its ads draw; null where the item is shown as it stands. */
  appeal: ReadonlyMap<number, number> | null;
}

/** A home of a row that is limited to one surface. */
export interface Candidate {
  home: Home;
  row: number;
  /** Fit on that surface, which stands in for the surface's own. */
  fit: number;
  /** Factor on conversion there. */
  lift: number;
  /** Factor on clicks there, by what its ad says. */
  draw: number;
}

/** An account made ready for the market. */
export interface MarketAccount {
  campaigns: RunningCampaign[];
  /** Homes by row that reach every surface of the row's category: product groups of feed and asset campaigns. */
  everywhere: (Home[] | undefined)[];
  /** Homes by row for one automatic reach, within their own categories. */
  reach: Partial<Record<ReachName, (Home[] | undefined)[]>>;
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

/** Where an item is shown on another category's query or page, it fits badly and hardly sells; better where it goes with what is sought. */
export const FOREIGN = { fit: 0.2, lift: 0.3 } as const;
export const BESIDE = { fit: 0.45, lift: 0.5 } as const;
/** An ad group with more items than this reaches into other categories with none of them. */
const MOST_FOREIGN = 60;
/** Automatic reach of an ad group with more items than this stays within their categories; with fewer, so does what has too many of one. */
const MOST_RINGED = 2_000;

/** The slots a kind of campaign is good at; text ads stand on result pages alone. */
const KIND_SLOTS: Record<CampaignKind, number[]> = {
  feed: [1, 1, 1, 1],
  keyword: [1, 1, 0, 0],
  listing: [0, 0, 1, 0],
  discovery: [1, 1, 1, 0],
  text: [0.9, 1, 0, 0],
  asset: [0.9, 1, 0.9, 1.25],
};

/** Items that a campaign with targets of its own shows, by its ad group. */
interface Shown {
  campaign: number;
  rows: number[];
}

/** An ad that shows the item as it is. */
const PLAIN_AD: AdEffect = { clicks: 1, orders: 1 };

/** Puts homes in place, one kind of campaign after another. */
class AccountBuilder {
  readonly account: MarketAccount;
  private readonly indexOf = new Map<string, number>();
  private readonly shown = new Map<string, Shown>();
  private nextId = 0;

  constructor(
    private readonly world: World,
    private readonly source: Account,
    private readonly valueOf: ReturnType<typeof adValues>,
  ) {
    const campaigns: RunningCampaign[] = [];
    for (const campaign of source.all("campaign")) {
      if (campaign.status !== "on") continue;
      this.indexOf.set(campaign.key, campaigns.length);
      campaigns.push(running(campaign));
    }
    this.account = {
      campaigns,
      everywhere: [],
      reach: {},
      aimed: new Map(),
      blocked: blockedSurfaces(world, source),
      pools: source.all("pool").map(({ key, dailyBudget }) => ({ key, budget: dailyBudget })),
      dayCap: source.all("dayCap")[0]?.dailyBudget ?? null,
      campaignsOf: world.categories.map(() => new Set<number>()),
    };
  }

  /** Homes of items wherever they fit; items of campaigns that aim are kept for their targets. */
  placeItems(catalogue: Columns): void {
    const { account, valueOf } = this;
    for (const group of servingGroups(this.source, catalogue)) {
      const campaign = this.indexOf.get(group.campaign.key)!;
      if (isHomeKind(group.campaign.kind)) {
        const assets = this.source.find("assets", assetsKey(group.adGroup.key));
        const appeal = group.campaign.kind === "asset" ? new Map<number, number>() : null;
        const own = { ...this.home(campaign, group.adGroup.key, group.group.key, group.bid), appeal };
        for (const row of group.rows) {
          if (appeal) {
            // An item for which no ad can be put together is not shown.
            const drawn = assets ? appealOf(itemAd(assets, valueOf(row))) : 0;
            if (drawn === 0) continue;
            appeal.set(row, drawn);
          }
          (account.everywhere[row] ??= []).push(own);
          this.touch(row, campaign);
        }
      } else {
        const entry = this.shown.get(group.adGroup.key) ?? { campaign, rows: [] };
        this.shown.set(group.adGroup.key, entry);
        for (const row of group.rows) entry.rows.push(row);
      }
    }
  }

  /** Automatic reach of discovery campaigns. */
  placeReach(): void {
    for (const reach of this.source.all("reach")) {
      const found = this.shownBy(reach, ["discovery"]);
      if (!found) continue;
      const homes = (this.account.reach[reach.kind] ??= []);
      for (const row of found.shown.rows) {
        (homes[row] ??= []).push(found.home);
        this.touch(row, found.shown.campaign);
      }
      this.placeRings(reach.kind, found.shown, found.home);
    }
  }

  /** What a reach leads to in the categories beside and around those of its items. */
  private placeRings(reach: ReachName, { campaign, rows }: Shown, home: Home): void {
    if (rows.length > MOST_RINGED) return;
    const byCategory = new Map<number, number[]>();
    for (const row of rows) {
      const category = this.world.rowCategory[row]!;
      const list = byCategory.get(category);
      if (list) list.push(row);
      else byCategory.set(category, [row]);
    }
    for (const [category, rows] of byCategory) {
      if (rows.length > MOST_FOREIGN) continue;
      for (const surface of ringSurfaces(this.world, category, reach)) this.aim(surface, { campaign, rows }, home, 1);
    }
  }

  /** Queries that keywords match. */
  placeKeywords(): void {
    const keywords = this.source.all("keyword");
    if (keywords.length === 0) return;
    const index = new QueryIndex(this.world.surfaces.filter(({ kind }) => kind === "query"));
    const effectOf = this.adEffects();
    for (const keyword of keywords) {
      const found = this.shownBy(keyword, ["keyword", "text"]);
      if (!found) continue;
      const effect = this.account.campaigns[found.shown.campaign]!.kind === "text" ? effectOf(keyword.adGroup) : null;
      for (const id of index.find(keyword.text, keyword.match)) {
        this.aim(this.world.surfaces[id]!, found.shown, found.home, matchFit(this.world, keyword.match), effect);
      }
    }
  }

  /** What the text ads of an ad group do for a row on a query. */
  private adEffects() {
    const { world, source, valueOf } = this;
    const reader = new AdReader(world.nature, source.all("ad"));
    return (adGroup: string) => {
      const ads = shownAds(source, adGroup) ?? [];
      return (row: number, { label }: Surface): AdEffect => {
        const told = { no: row, title: ads.length > 0 ? "" : valueOf(row)("title"), price: world.truth.price[row]! };
        return reader.effect(ads, told, label);
      };
    };
  }

  /** Pages that are aimed at, one by one or by a window of their category. */
  placeListings(): void {
    for (const target of this.source.all("listingTarget")) {
      const found = this.shownBy(target, ["listing"]);
      if (!found) continue;
      const closeness = CLOSENESS[target.aim.by];
      for (const surface of aimedPages(this.world, target)) this.aim(surface, found.shown, found.home, closeness);
    }
  }

  /** The items a target shows, and the home it makes; null where it is off, or its campaign does not aim at such things. */
  private shownBy(target: Target, kinds: CampaignKind[]): { shown: Shown; home: Home } | null {
    const shown = this.shown.get(target.adGroup);
    if (target.status !== "on" || !shown || !kinds.includes(this.account.campaigns[shown.campaign]!.kind)) return null;
    const bid = target.bid ?? this.source.find("adGroup", target.adGroup)?.bid ?? 0;
    return { shown, home: this.home(shown.campaign, target.adGroup, target.key, bid) };
  }

  private home(campaign: number, adGroup: string, target: string, bid: number): Home {
    return { id: this.nextId++, campaign, adGroup, target, bid, appeal: null };
  }

  private touch(row: number, campaign: number): void {
    this.account.campaignsOf[this.world.rowCategory[row]!]!.add(campaign);
  }

  private aim(
    surface: Surface,
    { campaign, rows }: Shown,
    home: Home,
    closeness: number,
    effectOf: ((row: number, surface: Surface) => AdEffect) | null = null,
  ): void {
    const { world, account } = this;
    const category = world.categoryOf[surface.id]!;
    const list = account.aimed.get(surface.id) ?? [];
    for (const row of rows) {
      const isOwn = world.rowCategory[row] === category;
      if (!isOwn && rows.length > MOST_FOREIGN) continue;
      const place = world.rowPlace[row]!;
      const strange = isOwn || !goesWith(world, world.rowCategory[row]!, category) ? FOREIGN : BESIDE;
      const fit = (isOwn ? surface.fit[place]! : strange.fit) * closeness;
      const lift = isOwn ? (surface.lift?.[place] ?? 1) : strange.lift;
      const effect = effectOf ? effectOf(row, surface) : PLAIN_AD;
      // The channel ranks by the clicks it expects, so what is clicked more also wins more cheaply.
      list.push({ home, row, fit: fit * Math.sqrt(effect.clicks), lift: lift * effect.orders, draw: effect.clicks });
    }
    if (list.length > 0) account.aimed.set(surface.id, list);
    account.campaignsOf[category]!.add(campaign);
  }
}

/** How close an ad comes to a query for each match type; what an exact keyword gains differs from world to world. */
export function matchFit({ nature }: World, match: MatchType): number {
  return match === "exact" ? nature.exactEdge : MATCH_FIT[match];
}

/** How well an item fits a page that was chosen for it, and one that a window of its category holds. */
export const CLOSENESS = { listing: 1.1, category: 0.95 } as const;

/**
 * Makes an account ready for the market: which home bids on which place, for every campaign kind, with all negatives.
 * @param source records as `recordSchema` checks them
 * @param catalogue columns that splits and asset sets name
 * @param valueOf how a row's fields read in an ad
 */
export function planAccount(
  world: World,
  source: Account,
  catalogue: Columns,
  valueOf = adValues(catalogue),
): MarketAccount {
  const builder = new AccountBuilder(world, source, valueOf);
  builder.placeItems(catalogue);
  builder.placeReach();
  builder.placeKeywords();
  builder.placeListings();
  return builder.account;
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
    flex: campaign.flex ?? HELD,
    slots: SLOT_KEYS.map((slot, i) => (campaign.slots?.[slot] ?? 1) * KIND_SLOTS[kind][i]!),
    hours: campaign.hours && campaign.hours.some((factor) => factor !== 1) ? campaign.hours : null,
    startsOn: campaign.startsOn ? parseDay(campaign.startsOn) : null,
    endsOn: campaign.endsOn ? parseDay(campaign.endsOn) : null,
  };
}

/** Which reach of a category's own items a place belongs to, for a row that fits so well; null where it belongs to none. */
export function ownReachOf(surface: Surface, fit: number): ReachName | null {
  if (surface.kind === "rival-page") return "pages-alike";
  if (surface.kind === "companion-page") return "pages-beside";
  if (surface.kind !== "query") return null;
  const isClose = ["broad", "attribute", "long", "own-brand"].includes(surface.queryClass as string);
  return isClose && fit >= 0.75 ? "searches-alike" : "searches-around";
}
