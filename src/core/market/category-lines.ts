import type { Flex } from "../account/records/campaign";
import type { Day } from "../kit/days";
import { ownReachOf, type MarketAccount } from "./running-account";
import type { Pressure } from "./answer";
import { clickPrice, clickRate, felt, orderRate, SHARPNESS, winChance } from "./auction";
import type { Line } from "./day-types";
import { conditionsOn, type Conditions } from "./demand";
import type { Luck } from "./luck";
import { conversionsOn } from "./moods";
import { compareOffers, type Offer, type Offers } from "./offers";
import { SLOTS, slotsOf } from "./slot-figures";
import { renown } from "./world";
import type { Category, Surface, World } from "./world-types";

/** An ad with a smaller share of a surface's views than this is left out: it would see a view in years. */
const LEAST_SHARE = 0.012;

/** How things stand at a moment of the day. */
export interface Moment {
  day: Day;
  /** By campaign: whether it still has money, and the factor on its bids at this hour. */
  active: boolean[];
  hourFactor: number[];
  /** What rivals answer, and the day's luck; null where the truth is asked. */
  pressure: Pressure;
  luck: Luck | null;
}

/** What the channel's flex does to a bid where a click is worth so much against a middling one. */
export function flexFactor({ below, above }: Flex, worth: number): number {
  return Math.max(1 - below, Math.min(1 + above, worth));
}

/** One ad in an auction. */
interface Entry {
  offer: Offer;
  row: number;
  fit: number;
  lift: number;
  /** Factor on clicks by what its ad says. */
  draw: number;
}

/** The auctions of one category for a whole day, as things stand at a moment. */
export function categoryLines(
  world: World,
  account: MarketAccount,
  offers: Offers,
  category: Category,
  moment: Moment,
): Line[] {
  const lines: Line[] = [];
  const { active, hourFactor } = moment;
  const order = compareOffers(account.campaigns);
  const serves = (offer: Offer) =>
    active[offer.home.campaign] === true && offer.bid > 0 && hourFactor[offer.home.campaign]! > 0;
  const first = (list: Offer[] | undefined, scopes: Set<string> | undefined) => {
    if (!list) return undefined;
    for (const offer of list) if (serves(offer) && !(scopes && isBlocked(account, scopes, offer))) return offer;
    return undefined;
  };
  const base = category.rows.map((row) => first(offers.everywhere[row], undefined));
  const hasBase = base.some((offer) => offer !== undefined);
  const conditions = conditionsOn(world, category, moment.day, moment.pressure);
  if (moment.luck) conditions.buying *= moment.luck.ofBuying(category.name);
  for (const surface of category.surfaces) {
    const aimed = offers.aimed.get(surface.id);
    if (!hasBase && !aimed && !offers.hasReach) continue;
    const scopes = account.blocked.get(surface.id);
    if (scopes?.has("")) continue;
    const entries: Entry[] = [];
    const places = new Map<number, number>();
    category.rows.forEach((row, i) => {
      let offer = scopes ? first(offers.everywhere[row], scopes) : base[i];
      const fit = surface.fit[i]!;
      if (offers.hasReach) {
        const kind = ownReachOf(surface, fit);
        const own = kind ? first(offers.reach[kind]?.[row], scopes) : undefined;
        if (own && (!offer || order(own, offer) < 0)) offer = own;
      }
      if (!offer) return;
      if (aimed) places.set(row, entries.length);
      entries.push({ offer, row, fit, lift: surface.lift ? surface.lift[i]! : 1, draw: 1 });
    });
    for (const { offer, row, fit, lift, draw } of aimed ?? []) {
      if (!serves(offer) || (scopes && isBlocked(account, scopes, offer))) continue;
      const at = places.get(row);
      const entry = { offer, row, fit, lift, draw };
      if (at === undefined) places.set(row, entries.push(entry) - 1);
      else if (order(offer, entries[at]!.offer) < 0) entries[at] = entry;
    }
    if (entries.length > 0) surfaceLines(world, account, surface, entries, conditions, moment, lines);
  }
  return lines;
}

function isBlocked(account: MarketAccount, scopes: Set<string>, { home }: Offer): boolean {
  return scopes.has(home.adGroup) || scopes.has(account.campaigns[home.campaign]!.key);
}

/** The auctions for one surface, best slot first. */
function surfaceLines(
  world: World,
  account: MarketAccount,
  surface: Surface,
  entries: Entry[],
  { demand, rivals, buying }: Conditions,
  { day, hourFactor, luck }: Moment,
  lines: Line[],
): void {
  const { truth, nature, slotBuying } = world;
  const conversions = conversionsOn(world, day);
  const power = new Float64Array(entries.length);
  const bids = new Float64Array(entries.length);
  const views = surface.volume * demand * (luck ? luck.ofPlace(surface.id) : 1);
  let wonAbove = 0;
  for (const slotIndex of slotsOf(surface.kind)) {
    const slot = SLOTS[slotIndex]!;
    const worth = Math.sqrt(surface.cvr * slotBuying[slotIndex]!);
    let sum = 0;
    for (let i = 0; i < entries.length; i++) {
      const { offer, row, fit } = entries[i]!;
      const { campaign } = offer.home;
      const { slots, flex } = account.campaigns[campaign]!;
      const factor = slots[slotIndex]! * hourFactor[campaign]! * flexFactor(flex, worth);
      const bid = Math.floor(offer.bid * factor + 1e-9);
      bids[i] = bid;
      const since = truth.since[row]!;
      const known = since === since ? Math.sqrt(renown(since, day)) : 1;
      power[i] = (bid * truth.quality[row]! * known * fit) ** SHARPNESS;
      sum += power[i]!;
    }
    if (sum === 0) continue;
    const mean = surface.rivalMean + slot.hardness + rivals;
    let shownHere = 0;
    for (let i = 0; i < entries.length; i++) {
      const share = power[i]! / sum;
      if (share < LEAST_SHARE) continue;
      const { offer, row, fit, lift, draw } = entries[i]!;
      const since = truth.since[row]!;
      const known = since === since ? Math.sqrt(renown(since, day)) : 1;
      const quality = truth.quality[row]! * known;
      const won = winChance(Math.log(power[i]!) / SHARPNESS, mean, surface.rivalSpread);
      shownHere += share * won;
      // One ad of an advertiser an auction: who stands in the lead row does not stand below it again.
      const shown = share * Math.max(0, won - wonAbove);
      if (shown <= 0) continue;
      const close = felt(fit, nature.closeness);
      lines.push({
        surface,
        slot: slotIndex,
        row,
        campaign: offer.home.campaign,
        adGroup: offer.home.adGroup,
        target: offer.home.target,
        bid: bids[i]!,
        hourFactor: hourFactor[offer.home.campaign]!,
        impressions: views * slot.seen * shown,
        ctr: clickRate(slot.ctr, surface.ctr, quality, close) * (offer.home.appeal?.get(row) ?? 1) * draw,
        cvr:
          orderRate(conversions[row]! * known * surface.cvr * slotBuying[slotIndex]! * lift * buying, close) *
          truth.inStock[row]!,
        cpc: clickPrice(bids[i]!, quality * fit, mean, surface.rivalSpread),
      });
    }
    wonAbove = Math.max(wonAbove, shownHere);
  }
}
