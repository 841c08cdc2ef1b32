import { CHANNEL_LIMITS } from "./channel-limits";
import type { AdGroup } from "./records/ad-group";
import type { Campaign } from "./records/campaign";

/** Why a line of the account serves nothing, or not all day. */
export const OFF_WORDS = {
  paused: "paused",
  closed: "closed",
  above: "what it hangs in is paused",
  new: "not sent yet",
  elsewhere: "the channel is not in its country",
  early: "has not begun",
  ended: "has ended",
  assets: "waits for its assets",
  "no-items": "no item to show",
  dry: "ran dry",
} as const;
export type OffReason = keyof typeof OFF_WORDS;

/** Whether a campaign sells in a country where the channel has no shoppers. */
export function isElsewhere({ country }: { country?: string | undefined }): boolean {
  return country !== undefined && country !== CHANNEL_LIMITS.country;
}

/** Why a campaign serves nothing, or not all day; the first reason that holds. @param dry campaigns that ran dry on the last day */
export function campaignOff(
  { key, status, country, startsOn, endsOn }: Campaign,
  { items, dry, today, isNew }: { items: number; dry: ReadonlyMap<string, number>; today: string; isNew: boolean },
): OffReason | null {
  if (status !== "on") return "paused";
  if (isNew) return "new";
  if (isElsewhere({ country })) return "elsewhere";
  if (startsOn && startsOn > today) return "early";
  if (endsOn && endsOn < today) return "ended";
  if (items === 0) return "no-items";
  return dry.has(key) ? "dry" : null;
}

/** Why an ad group serves nothing. @param waits whether it is an asset group without the assets that the channel asks for */
export function adGroupOff(
  { status }: AdGroup,
  { isCampaignOn, items, waits }: { isCampaignOn: boolean; items: number; waits: boolean },
): OffReason | null {
  if (status !== "on") return "paused";
  if (!isCampaignOn) return "above";
  if (waits) return "assets";
  return items === 0 ? "no-items" : null;
}
