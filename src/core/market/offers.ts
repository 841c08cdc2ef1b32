import type { Day } from "../kit/days";
import { REACHES, type ReachName } from "../account/records/reach";
import type { Candidate, Home, MarketAccount, RunningCampaign } from "./running-account";
import type { MarketState } from "./day-types";
import { learnedBid } from "./learning";
import type { World } from "./world-types";

/** A home of a row with the bid it makes for that row today, before slot, hour and flex. */
export interface Offer {
  home: Home;
  bid: number;
}

export interface AimedOffer {
  offer: Offer;
  row: number;
  fit: number;
  lift: number;
  draw: number;
}

/** The day's offers, first to serve first. */
export interface Offers {
  everywhere: (Offer[] | undefined)[];
  reach: Partial<Record<ReachName, (Offer[] | undefined)[]>>;
  aimed: Map<number, AimedOffer[]>;
  hasReach: boolean;
}

/** Whether a campaign runs on a day. */
export function runsOn({ startsOn, endsOn }: RunningCampaign, day: Day): boolean {
  return (startsOn === null || day >= startsOn) && (endsOn === null || day <= endsOn);
}

/** Which of two offers serves first: by serve order, then the higher bid, then the key. */
export function compareOffers(campaigns: RunningCampaign[]) {
  return (a: Offer, b: Offer) =>
    campaigns[a.home.campaign]!.serveOrder - campaigns[b.home.campaign]!.serveOrder ||
    b.bid - a.bid ||
    (a.home.target < b.home.target ? -1 : a.home.target > b.home.target ? 1 : 0);
}

/** What every home bids today: fixed, paced to the budget, or as the channel has learned. */
export function todaysOffers(world: World, account: MarketAccount, state: MarketState): Offers {
  const { campaigns } = account;
  const order = compareOffers(campaigns);
  const bid = (home: Home, row: number) => {
    const campaign = campaigns[home.campaign]!;
    if (campaign.bidding === "return" && campaign.goal) {
      const no = world.itemNo[row]!;
      return learnedBid(state.learned, campaign.key, no, home.bid, campaign.goal);
    }
    return campaign.bidding === "clicks" ? home.bid * (state.pace[campaign.key] ?? 1) : home.bid;
  };
  // One offer object a home where all its rows get the same bid, which most do.
  const plain = new Map<number, Offer>();
  const offer = (home: Home, row: number): Offer => {
    if (campaigns[home.campaign]!.bidding === "return") return { home, bid: bid(home, row) };
    let found = plain.get(home.id);
    if (!found) plain.set(home.id, (found = { home, bid: bid(home, row) }));
    return found;
  };
  const byRow = (homes: (Home[] | undefined)[]) => {
    const offers: (Offer[] | undefined)[] = new Array<Offer[] | undefined>(homes.length);
    homes.forEach((list, row) => {
      if (!list) return;
      const made = list.map((home) => offer(home, row));
      offers[row] = made.length > 1 ? made.sort(order) : made;
    });
    return offers;
  };
  const reach: Offers["reach"] = {};
  for (const kind of REACHES) if (account.reach[kind]) reach[kind] = byRow(account.reach[kind]);
  const aimed = new Map<number, AimedOffer[]>();
  for (const [surface, list] of account.aimed) {
    aimed.set(
      surface,
      list.map(({ home, row, fit, lift, draw }: Candidate) => ({ offer: offer(home, row), row, fit, lift, draw })),
    );
  }
  return { everywhere: byRow(account.everywhere), reach, aimed, hasReach: Object.keys(reach).length > 0 };
}
