import type { ServingGroup } from "../account/walk";
import { CHANNEL_LIMITS } from "../channel/limits";
import { formatMoney, toUnits, wholeCents } from "../kit/money";
import type { Ground } from "../moves/ground";
import type { HouseRules, RuleKey } from "../moves/house-rules";
import type { Move } from "../moves/move";
import { expectedOfBid } from "./expected";
import { worthsOf, type Worths } from "./worths";

/** A bid within what house rules and the channel let pass, mills, and what held it back. */
export interface HeldBid {
  bid: number;
  limitedBy: RuleKey | "channel" | null;
}

/**
 * Holds a bid between floor and ceiling, to the largest step from the present one, and to what the channel takes; in whole
 * cents. Where the present bid lies beyond a bound, it comes back step by step. A floor above the ceiling gives way to it.
 */
export function holdBid(wanted: number, present: number, { largestStep, floorBid, ceilingBid }: HouseRules): HeldBid {
  const ceiling = MILLS_A_CENT * ceilingBid;
  const floor = Math.min(ceiling, MILLS_A_CENT * floorBid);
  const bounded = Math.min(ceiling, Math.max(floor, wanted));
  const most = 1 + largestStep / 100;
  const stepped = Math.min(present * most, Math.max(present / most, bounded));
  const least = Math.max(CHANNEL_LIMITS.lowestBid, wholeCents(stepped));
  const bid = Math.min(CHANNEL_LIMITS.highestBid, least);
  if (bid !== wholeCents(stepped)) return { bid, limitedBy: "channel" };
  if (stepped !== bounded) return { bid, limitedBy: "largestStep" };
  return { bid, limitedBy: bounded === wanted ? null : bounded === ceiling ? "ceilingBid" : "floorBid" };
}

const MILLS_A_CENT = 10;

/** Whether a bid is worth moving: by a cent and by the least change. */
export function isMoved(bid: number, present: number, { leastChange }: HouseRules): boolean {
  return bid !== present && Math.abs(bid - present) >= (leastChange / 100) * present;
}

/**
 * A bid for each item by what a click on it leaves after costs, at the price of money. In a group of many, items with clicks
 * get a bid of their own, the others one together.
 */
export function itemBids(ground: Ground): Move[] {
  const worths = worthsOf(ground);
  const rowsAt = new Map<number, number[]>();
  for (let row = 0; row < ground.rows; row++) {
    const at = ground.first[row]!;
    if (at < 0 || !ground.isBuyable(row) || Number.isNaN(worths.bid[row]!)) continue;
    const list = rowsAt.get(at);
    if (list) list.push(row);
    else rowsAt.set(at, [row]);
  }
  const moves: Move[] = [];
  for (const [at, rows] of rowsAt) {
    const home = ground.homes[at]!;
    if (home.campaign.bidding === "return") continue;
    const isAlone = home.rows.length === 1;
    const others: number[] = [];
    for (const row of rows) {
      if (!isAlone && ground.sums.clicks[row]! < ground.rules.liftFrom) others.push(row);
      else push(moves, bidOfItem(ground, worths, home, row));
    }
    if (others.length > 0) push(moves, bidOfGroup(ground, worths, home, others));
  }
  return moves;
}

function push(moves: Move[], move: Move | null): void {
  if (move) moves.push(move);
}

function bidOfItem(ground: Ground, worths: Worths, home: ServingGroup, row: number): Move | null {
  const { rules, currency, sums } = ground;
  const { bid, limitedBy } = holdBid(worths.homeBid[row]! * worths.factor.next, home.bid, rules);
  if (!isMoved(bid, home.bid, rules)) return null;
  const id = ground.idOf(row);
  const why = whyItem(ground, worths, row);
  // Written out: there may be one for each of 100,000 items, and put together from parts they take several times as long.
  return {
    key: `item-bid/${id}`,
    proposer: "item-bids",
    about: ground.titleOf(row),
    campaign: home.campaign.key,
    what: inWords(home.bid, bid, currency),
    why,
    acts: [{ action: "amounts", of: "item-bid", amounts: [{ key: id, mills: bid, reason: why }] }],
    amount: { from: home.bid, to: bid },
    limitedBy,
    stands: { clicks: sums.clicks[row]!, orders: sums.orders[row]! },
    expected: expectedOfBid(ground, worths, home.campaign.key, [row], home.bid, bid, ground.seenBid),
    rows: [row],
    touches: [home.group.key],
  };
}

function bidOfGroup(ground: Ground, worths: Worths, home: ServingGroup, rows: number[]): Move | null {
  const { rules, currency, sums } = ground;
  let [wanted, weights, clicks, orders] = [0, 0, 0, 0];
  for (const row of rows) {
    const weight = 1 + sums.clicks[row]!;
    wanted += weight * worths.homeBid[row]!;
    weights += weight;
    clicks += sums.clicks[row]!;
    orders += sums.orders[row]!;
  }
  const { bid, limitedBy } = holdBid((wanted / weights) * worths.factor.next, home.bid, rules);
  if (!isMoved(bid, home.bid, rules)) return null;
  // Its own bid, whether it had one or took the ad group's, on which other groups may hang as well.
  const { key } = home.group;
  const why = `${rows.length} items that few clicked: by their kind a click on them may cost ${toUnits(bid).toFixed(2)}`;
  return {
    ...{ key: `group-bid/${key}`, proposer: "item-bids", about: home.adGroup.name, campaign: home.campaign.key },
    ...{ what: inWords(home.bid, bid, currency), why, limitedBy },
    acts: [{ action: "amounts", of: "bid", amounts: [{ key, mills: bid, reason: why }] }],
    amount: { from: home.bid, to: bid },
    stands: { clicks, orders },
    expected: expectedOfBid(ground, worths, home.campaign.key, rows, home.bid, bid, ground.seenBid),
    rows,
    touches: [key],
  };
}

export function inWords(from: number, to: number, currency: string): string {
  return `Bid ${formatMoney(from, currency)} → ${formatMoney(to, currency)}`;
}

/** Why an item's bid is proposed, in a sentence with its numbers. */
function whyItem({ margin, rules, goalOf }: Ground, { sales, left, factor, counted }: Worths, row: number): string {
  const brings = `A click brings ${toUnits(sales[row]!).toFixed(2)} of sales by evidence`;
  const scarce = factor.next < 0.99 ? `, × ${factor.next.toFixed(2)} so that money lasts` : "";
  if (Number.isNaN(left[row]!))
    return `${brings}; costs not known, so ÷ the goal of ${goalOf(row).goal.toFixed(2)}${scarce}`;
  const percent = (share: number) => `${Math.round(100 * share)} %`;
  return `${brings}, ${percent(counted)} of it new and kept, ${percent(margin[row]!)} of that left; ${rules.caution} % of it is bid${scarce}`;
}
