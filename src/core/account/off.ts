import { CHANNEL_LIMITS } from "../channel/limits";
import type { AdGroup } from "./records/ad-group";
import type { Campaign } from "./records/campaign";
import type { ProductGroup } from "./records/product-group";

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
  { items, dry, today, isNew }: { items: number; dry: ReadonlySet<string>; today: string; isNew: boolean },
): OffReason | null {
  if (status !== "on") return "paused";
  if (isNew) return "new";
  if (isElsewhere({ country })) return "elsewhere";
  if (startsOn && startsOn > today) return "early";
  if (endsOn && endsOn < today) return "ended";
  if (items === 0) return "no-items";
  return dry.has(key) ? "dry" : null;
}

/** Where it is not asked whether a campaign ran dry. */
export const NONE_DRY: ReadonlySet<string> = new Set();

/** The reason of what something hangs in, as its own: only what is paused there is called otherwise here. */
function inherited(above: OffReason | null): OffReason | null {
  return above === "paused" ? "above" : above;
}

/**
 * Why an ad group serves nothing.
 * @param above why its campaign does not, such as another country or days that have not come; null where that may serve
 * @param waits whether it is an asset group without the assets that the channel asks for
 */
export function adGroupOff(
  { status }: AdGroup,
  { above, items, waits }: { above: OffReason | null; items: number; waits: boolean },
): OffReason | null {
  if (status !== "on") return "paused";
  if (above !== null) return inherited(above);
  if (waits) return "assets";
  return items === 0 ? "no-items" : null;
}

/** Why a product group serves nothing. @param above why its ad group does not, or null */
export function productGroupOff(
  { status }: Pick<ProductGroup, "status">,
  { above, items }: { above: OffReason | null; items: number },
): OffReason | null {
  if (status !== "on") return "closed";
  if (above !== null) return inherited(above);
  return items === 0 ? "no-items" : null;
}
