import type { Account } from "./account";
import { TARGET_TYPES } from "./records";
import type { Campaign } from "./records/campaign";
import type { SlotKey } from "../kit/slots";

/** What a campaign may do to a bid. */
export type BidFactors = Pick<Campaign, "slots" | "hours" | "flex">;

/** A bid as it goes into auctions of a slot at an hour, mills: × slot factor × hour factor, before the channel flexes it. */
export function effectiveBid(bid: number, { slots, hours }: BidFactors, slot: SlotKey, hour: number): number {
  return Math.round(bid * (slots?.[slot] ?? 1) * (hours?.[hour] ?? 1));
}

/** The most that a bid can become under every factor of its campaign, mills. A slot that is left out counts as 1. */
export function mostOfBid(bid: number, { slots, hours, flex }: BidFactors): number {
  const given = Object.values(slots ?? {});
  const slot = Math.max(...given, given.length < 4 ? 1 : 0);
  const hour = hours ? Math.max(...hours) : 1;
  return Math.round(bid * slot * hour * (1 + (flex?.above ?? 0)));
}

/** The highest bid that stands in each campaign, mills. */
export function highestBids(account: Account, campaigns: ReadonlySet<string>): Map<string, number> {
  const highest = new Map<string, number>();
  const note = (campaign: string, bid: number | null) => {
    if (bid !== null && bid > (highest.get(campaign) ?? 0)) highest.set(campaign, bid);
  };
  const campaignOf = new Map<string, string>();
  for (const { key, campaign, bid } of account.all("adGroup")) {
    if (!campaigns.has(campaign)) continue;
    campaignOf.set(key, campaign);
    note(campaign, bid);
    for (const group of account.productGroups(key)) if (group.status === "on") note(campaign, group.bid);
  }
  for (const target of TARGET_TYPES.flatMap((type) => account.all(type))) {
    const campaign = campaignOf.get(target.adGroup);
    if (campaign !== undefined) note(campaign, target.bid);
  }
  return highest;
}
