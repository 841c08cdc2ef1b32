import { recordName } from "../account/names";
import type { Campaign } from "../account/records/campaign";
import type { ServingGroup } from "../account/walk";
import { expectedOfBid } from "../bids/expected";
import { holdBid, isMoved } from "../bids/item-bids";
import { worthsOf, type Worths } from "../bids/worths";
import type { RateCard } from "../channel/rate-card";
import type { GoalInForce } from "../goals/goals";
import type { Ground } from "../moves/ground";
import type { RuleKey } from "../moves/house-rules";
import type { Expected } from "../moves/move";
import {
  NOTHING_SEEN,
  ownLines,
  targetWorths,
  nameOf,
  expectedOfTarget,
  wantedOfTarget,
  type TargetCounts,
} from "../targets/target-bids";

/** What bids are of. */
export const BID_KINDS = {
  item: "Items",
  group: "Product groups",
  keyword: "Keywords",
  listing: "Listings",
  reach: "Reach",
} as const;
export type BidKind = keyof typeof BID_KINDS;

/** Ways to arrive at a bid; numbers in them are house rules. */
export const BID_METHODS = {
  contribution: "What a click leaves, at the price of money",
  goal: "Sales a click ÷ the goal in force",
  low: "Low entry: just above the rate card’s low",
  push: "Push: over the rate card’s typical price, until a day",
} as const;
export type BidMethod = keyof typeof BID_METHODS;

/** Why no bid is proposed for a line. */
export const NO_PROPOSAL = {
  fits: "it fits",
  settling: "moved lately",
  channel: "the channel bids",
  off: "paused",
  out: "sold out",
  unknown: "worth not known",
  card: "no rate card",
} as const;
export type NoProposal = keyof typeof NO_PROPOSAL;

/** A goal, and where it comes from: of several items from several places where theirs differ. */
export interface GoalOfLine {
  goal: number;
  from: GoalInForce["from"] | "several";
}

/** A bid with what it stands on and what a method would make of it. Money in mills. */
export interface BidLine extends Omit<TargetCounts, "seenClicks"> {
  kind: BidKind;
  /** Of the record; an item's ID for items. */
  key: string;
  name: string;
  campaign: string;
  bid: number;
  card: Pick<RateCard, "low" | "typical" | "high"> | null;
  /** Sales that a click is expected to bring there, by evidence; NaN where nobody knows. */
  worth: number;
  /** Whether that stands on its own clicks, or by its kind alone. */
  isOwn: boolean;
  goal: GoalOfLine | null;
  proposed: { bid: number; limitedBy: RuleKey | "channel" | null } | null;
  none: NoProposal | null;
  /** What the proposed bid is expected to change a day; null where none is, and where nothing was clicked that could tell. */
  expected: Expected | null;
}

/** What bids are worked out by. */
export interface BidAsk {
  kind: BidKind;
  method: BidMethod;
}

/** The rate card of a line, where one is known. */
export type CardOf = (kind: BidKind, key: string) => BidLine["card"];

/** Every bid of a kind with what a method would make of it, within the house rules (`docs/formulas.md` 6). */
export function bidLines(ground: Ground, { kind, method }: BidAsk, cardOf: CardOf): BidLine[] {
  const worths = worthsOf(ground);
  if (kind === "item") return itemLines(ground, worths, method, cardOf);
  if (kind === "group") return groupLines(ground, worths, method, cardOf);
  return targetWorths(ground, worths).flatMap((one): BidLine[] => {
    const { target, campaign, rows, weights, seen, factor, present } = one;
    if (kindOfTarget(target.type) !== kind) return [];
    const worth = factor * meanOf(weights, worths.sales);
    const goal = goalOfRows(ground, rows);
    const card = cardOf(kind, target.key);
    const wanted = wantedBy(method, { worth, goal, card, left: wantedOfTarget(worths, one) }, present, ground);
    const decided = decide(ground, campaign, target.key, target.status === "on", wanted, present);
    return [
      {
        ...{ kind, key: target.key, name: nameOf(target), campaign: campaign.key, bid: present, card },
        ...{ clicks: seen.clicks, cost: seen.cost, orders: seen.orders, revenue: seen.revenue },
        ...{ worth, isOwn: seen.clicks >= ground.rules.liftFrom, goal, ...decided },
        expected:
          decided.proposed && seen.clicks > 0 ? expectedOfTarget(ground, worths, one, decided.proposed.bid) : null,
      },
    ];
  });
}

const kindOfTarget = (type: "keyword" | "reach" | "listingTarget"): BidKind =>
  type === "listingTarget" ? "listing" : type;

function itemLines(ground: Ground, worths: Worths, method: BidMethod, cardOf: CardOf): BidLine[] {
  const lines: BidLine[] = [];
  const { sums, rules } = ground;
  for (let row = 0; row < ground.rows; row++) {
    const home = ground.homes[ground.first[row]!];
    if (!home) continue;
    const key = ground.idOf(row);
    const goal = ground.goalOf(row);
    const card = cardOf("item", key);
    const worth = worths.sales[row]!;
    const wanted = wantedBy(
      method,
      { worth, goal, card, left: worths.homeBid[row]! * worths.factor.next },
      home.bid,
      ground,
    );
    const decided = ground.isBuyable(row)
      ? decide(ground, home.campaign, home.group.key, true, wanted, home.bid)
      : { proposed: null, none: "out" as const };
    const clicks = sums.clicks[row]!;
    // One literal, written out: a hundred thousand lines put together from parts take three times as long.
    lines.push({
      kind: "item",
      key,
      name: ground.titleOf(row),
      campaign: home.campaign.key,
      bid: home.bid,
      card,
      clicks,
      cost: sums.cost[row]!,
      orders: sums.orders[row]!,
      revenue: sums.revenue[row]!,
      worth,
      isOwn: clicks >= rules.liftFrom,
      goal,
      proposed: decided.proposed,
      none: decided.none,
      expected: decided.proposed && clicks > 0 ? expectedHere(ground, worths, home, [row], decided.proposed.bid) : null,
    });
  }
  return lines;
}

function groupLines(ground: Ground, worths: Worths, method: BidMethod, cardOf: CardOf): BidLine[] {
  const own = ownLines(ground);
  return ground.homes.map((home): BidLine => {
    const { group, campaign, bid } = home;
    const rows = [...home.rows].filter((row) => Number.isFinite(worths.sales[row]!));
    const weights = rows.map((row) => ({ row, weight: 1 + ground.sums.clicks[row]! }));
    const seen = own.get(group.key) ?? NOTHING_SEEN;
    const worth = meanOf(weights, worths.sales);
    const goal = goalOfRows(ground, rows);
    const card = cardOf("group", group.key);
    const left = meanOf(weights, worths.homeBid) * worths.factor.next;
    const decided = decide(
      ground,
      campaign,
      group.key,
      true,
      wantedBy(method, { worth, goal, card, left }, bid, ground),
      bid,
    );
    return {
      kind: "group",
      key: group.key,
      name: groupName(ground, home),
      campaign: campaign.key,
      bid,
      card,
      clicks: seen.clicks,
      cost: seen.cost,
      orders: seen.orders,
      revenue: seen.revenue,
      worth,
      isOwn: seen.clicks >= ground.rules.liftFrom,
      goal,
      proposed: decided.proposed,
      none: decided.none,
      expected:
        decided.proposed && seen.clicks > 0 ? expectedHere(ground, worths, home, rows, decided.proposed.bid) : null,
    };
  });
}

function groupName({ account }: Ground, { adGroup, group }: ServingGroup): string {
  const name = recordName(account, group);
  return name === adGroup.name ? name : `${adGroup.name} · ${name}`;
}

function expectedHere(
  ground: Ground,
  worths: Worths,
  { campaign, bid }: ServingGroup,
  rows: number[],
  to: number,
): Expected {
  return expectedOfBid(ground, worths, campaign.key, rows, bid, to, ground.seenBid);
}

/** What a method would bid before any limit, mills; what it takes and nobody knows in place of a number. */
function wantedBy(
  method: BidMethod,
  { worth, goal, card, left }: { worth: number; goal: GoalOfLine | null; card: BidLine["card"]; left: number },
  present: number,
  { rules }: Ground,
): number | NoProposal {
  if (method === "low") return card?.low == null ? "card" : card.low + 10 * rules.lowStep;
  // A push never lowers.
  if (method === "push") return card ? Math.max(present, card.typical * rules.pushTimes) : "card";
  const wanted = method === "goal" ? (goal && goal.goal > 0 ? worth / goal.goal : NaN) : left;
  return Number.isFinite(wanted) ? wanted : "unknown";
}

function decide(
  ground: Ground,
  campaign: Campaign,
  key: string,
  isOn: boolean,
  wanted: number | NoProposal,
  present: number,
): Pick<BidLine, "proposed" | "none"> {
  const no = (none: NoProposal) => ({ proposed: null, none });
  if (!isOn || campaign.status !== "on") return no("off");
  if (campaign.bidding === "return") return no("channel");
  if (typeof wanted === "string") return no(wanted);
  if (ground.settling.has(key)) return no("settling");
  const held = holdBid(wanted, present, ground.rules);
  return isMoved(held.bid, present, ground.rules) ? { proposed: held, none: null } : no("fits");
}

/** The goal of several items: at which their sales together meet what each asks. */
function goalOfRows(ground: Ground, rows: readonly number[]): GoalOfLine | null {
  let [sales, cost] = [0, 0];
  let from: GoalOfLine["from"] | null = null;
  for (const row of rows) {
    const one = ground.goalOf(row);
    if (!(one.goal > 0) || !Number.isFinite(one.goal)) continue;
    const weight = 1 + ground.sums.clicks[row]!;
    sales += weight;
    cost += weight / one.goal;
    from = from === null || from === one.from ? one.from : "several";
  }
  return from === null ? null : { goal: sales / cost, from };
}

function meanOf(weights: readonly { row: number; weight: number }[], values: ArrayLike<number>): number {
  let [sum, all] = [0, 0];
  for (const { row, weight } of weights) {
    if (!Number.isFinite(values[row]!)) continue;
    sum += weight * values[row]!;
    all += weight;
  }
  return all > 0 ? sum / all : NaN;
}
