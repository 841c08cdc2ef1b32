import type { AdGroup } from "../account/records/ad-group";
import { reachInWords } from "../account/records/reach";
import type { Campaign } from "../account/records/campaign";
import { TARGET_TYPES, type Target } from "../account/records";
import { expectedOfBid } from "../bids/expected";
import { holdBid, inWords, isMoved } from "../bids/item-bids";
import { patientFactor, worthsOf, type Worths } from "../bids/worths";
import type { Ground, LineCounts } from "../moves/ground";
import { scaleExpected, type Expected, type Move } from "../moves/move";
import { meanBid } from "./place-moves";

/** What clicks on what an ad group aims at are worth, and what they were. Money in mills. */
export interface TargetWorth {
  target: Target;
  adGroup: AdGroup;
  campaign: Campaign;
  /** Items it shows, catalogue rows, and how their worth is weighed. */
  rows: number[];
  weights: { row: number; weight: number }[];
  seen: TargetCounts;
  /** Orders there over those that its items usually bring. */
  factor: number;
  present: number;
}

/** Every keyword, listing target and reach of ad groups that show items. */
export function targetWorths(ground: Ground, worths: Worths): TargetWorth[] {
  const rowsOf = new Map<string, Uint32Array[]>();
  for (const { adGroup, rows } of ground.aimed) rowsOf.set(adGroup.key, [...(rowsOf.get(adGroup.key) ?? []), rows]);
  const own = ownLines(ground);
  return TARGET_TYPES.flatMap((type) => ground.account.all(type) as readonly Target[]).flatMap((target) => {
    const adGroup = ground.account.find("adGroup", target.adGroup);
    const campaign = ground.account.find("campaign", adGroup?.campaign ?? null);
    const rows = rowsOf.get(target.adGroup)?.flatMap((part) => [...part]);
    if (!adGroup || !campaign || !rows) return [];
    const weights = rows.map((row) => ({ row, weight: 1 + ground.sums.clicks[row]! }));
    const seen = own.get(target.key) ?? NOTHING_SEEN;
    const usual = weights.reduce((sum, { row, weight }) => sum + weight * ground.evidence.orderRate[row]!, 0);
    const all = weights.reduce((sum, { weight }) => sum + weight, 0);
    const named = worths.places.get(nameOf(target));
    const expected = (seen.seenClicks * usual) / all;
    const factor = named?.factor ?? patientFactor({ orders: seen.orders, expected }, ground.rules.placePatience);
    return [{ target, adGroup, campaign, rows, weights, seen, factor, present: target.bid ?? adGroup.bid }];
  });
}

/** What the bid of a target should be by what its clicks leave, at the price of money; NaN where that is not known. */
export function wantedOfTarget(worths: Worths, { weights, factor }: TargetWorth): number {
  return meanBid(worths, weights) * factor * worths.factor.next;
}

/** What another bid of a target is expected to change a day: of what its items get, its own share. */
export function expectedOfTarget(ground: Ground, worths: Worths, one: TargetWorth, bid: number): Expected {
  const { campaign, rows, present, seen } = one;
  const whole = expectedOfBid(ground, worths, campaign.key, rows, present, bid);
  return scaleExpected(whole, shareOfClicks(ground, rows, seen.clicks));
}

/** Bids of keywords, listing targets and reaches that are there, by what clicks on them are worth. */
export function targetBids(ground: Ground): Move[] {
  const worths = worthsOf(ground);
  return targetWorths(ground, worths).flatMap((one): Move[] => {
    const { target, campaign, seen, factor, present } = one;
    if (target.status !== "on" || campaign.bidding === "return") return [];
    const { bid, limitedBy } = holdBid(wantedOfTarget(worths, one), present, ground.rules);
    if (Number.isNaN(bid) || !isMoved(bid, present, ground.rules)) return [];
    const why = `Clicks there bring ${Math.round(100 * factor)} % of the orders that its items usually bring`;
    return [
      {
        ...{ key: `target-bid/${target.key}`, proposer: "target-bids", about: nameOf(target), campaign: campaign.key },
        ...{ what: inWords(present, bid, ground.currency), why, limitedBy },
        acts: [{ action: "amounts", of: "bid", amounts: [{ key: target.key, mills: bid, reason: why }] }],
        amount: { from: present, to: bid },
        stands: { clicks: seen.clicks, orders: seen.orders },
        expected: expectedOfTarget(ground, worths, one, bid),
        rows: [],
        touches: [target.key],
      },
    ];
  });
}

function shareOfClicks({ sums }: Ground, rows: readonly number[], clicks: number): number {
  const all = rows.reduce((sum, row) => sum + sums.clicks[row]!, 0);
  return all > 0 ? Math.min(1, clicks / all) : 0;
}

export function nameOf(target: Target): string {
  if (target.type === "keyword") return target.text;
  if (target.type === "reach") return reachInWords(target.kind);
  return target.aim.by === "listing" ? target.aim.listing : `listings of ${target.aim.category}`;
}

/** What one target or product group got over the window. Money in mills. */
export type TargetCounts = Omit<LineCounts, "impressions">;

export const NOTHING_SEEN: TargetCounts = { clicks: 0, cost: 0, orders: 0, revenue: 0, seenClicks: 0 };

/** Sums of the term report by target. */
export function ownLines({ places }: Ground): Map<string, TargetCounts> {
  const own = new Map<string, TargetCounts>();
  for (const { target, clicks, cost, orders, revenue, seenClicks } of places) {
    const sum = own.get(target);
    if (!sum) {
      own.set(target, { clicks, cost, orders, revenue, seenClicks });
      continue;
    }
    sum.clicks += clicks;
    sum.cost += cost;
    sum.orders += orders;
    sum.revenue += revenue;
    sum.seenClicks += seenClicks;
  }
  return own;
}
