import { z } from "zod";
import { plural } from "../kit/format";
import { formatMoney } from "../kit/money";
import { SLOT_KEYS, SLOT_LABEL } from "../kit/slots";
import { campaignSettingsSchema } from "./campaign-settings";
import { amountOpSchema, operationInWords } from "./amount-op";
import {
  amountSchema,
  exclusionReasonSchema,
  keySchema,
  nameSchema,
  pausedForSchema,
  reviewOnSchema,
} from "./records/basics";
import { assetSetSchema } from "./records/assets";
import { flexSchema } from "./records/campaign";

const keys = z
  .array(z.string())
  .min(1, "Nothing is chosen.")
  .max(10_000, "At most 10,000 can be changed at once this way; more go as a job: account/edits/many.");

/** The most that a factor may do to a bid. */
const factorSchema = z.number().min(0).max(10);

/** What can be done to items, however many. */
const itemBid = z.object({ action: z.literal("item-bid"), bid: amountSchema });
const itemBidChange = z.object({ action: z.literal("item-bid-change"), percent: z.number().min(-90).max(400) });
const exclude = z.object({
  action: z.literal("exclude"),
  reason: exclusionReasonSchema,
  reviewOn: reviewOnSchema.default(null),
  /** Key of the one campaign that they are kept out of; null is everywhere. */
  campaign: keySchema.nullable().default(null),
});
const include = z.object({ action: z.literal("include") });
/** A campaign of their own, served first; the homes that they have stay and take over when its money is gone. */
const solo = z.object({
  action: z.literal("solo"),
  name: z.string().trim().max(200),
  /** Mills a day, and mills a click. */
  dailyBudget: amountSchema,
  bid: amountSchema,
  serveOrder: z.int().min(1).max(9).default(1),
  /** Whether their whole families go along, and whatever joins those later. */
  families: z.boolean().default(false),
  /** Whether each gets a campaign by itself, called after the item; `name` then stands before the titles, or is empty. */
  each: z.boolean().default(false),
});

/** An edit of items without the items. */
export const itemIntentSchema = z.discriminatedUnion("action", [itemBid, itemBidChange, exclude, include, solo]);

/** What a person wants changed in an account. Money in mills. */
export const intentSchema = z.discriminatedUnion("action", [
  z.object({ action: z.literal("budget"), keys, dailyBudget: amountSchema }),
  z.object({ action: z.literal("bid"), keys, bid: amountSchema }),
  z.object({ action: z.literal("amount"), keys, field: z.enum(["bid", "dailyBudget"]), op: amountOpSchema }),
  z.object({
    action: z.literal("status"),
    keys,
    status: z.enum(["on", "paused", "closed"]),
    /** Why it is paused, in own words, and when to look again. */
    pausedFor: pausedForSchema.optional(),
    reviewOn: reviewOnSchema.optional(),
  }),
  /** Another name for one campaign or ad group; another folder for campaigns, null for none. */
  z.object({ action: z.literal("rename"), keys: keys.max(1, "One at a time."), name: nameSchema }),
  z.object({ action: z.literal("folder"), keys, folder: z.string().trim().min(1).max(60).nullable() }),
  z.object({ action: z.literal("serve-order"), keys, serveOrder: z.int().min(1).max(9) }),
  z.object({ action: z.literal("slot-factor"), keys, slot: z.enum(SLOT_KEYS), factor: factorSchema }),
  z.object({
    action: z.literal("hour-factor"),
    keys,
    hours: z.array(z.int().min(0).max(23)).min(1).max(24),
    factor: factorSchema,
  }),
  z.object({ action: z.literal("pool"), keys, pool: keySchema.nullable() }),
  z.object({ action: z.literal("flex"), keys, flex: flexSchema }),
  z.object({
    action: z.literal("settings"),
    keys,
    settings: campaignSettingsSchema,
    /** Whether names that say the old purpose say the new one. */
    namesFollow: z.boolean().default(true),
  }),
  z.object({ action: z.literal("move-target"), keys, name: nameSchema, dailyBudget: amountSchema }),
  /** Ad groups into a campaign that there is, or with `into` null into a new one of that name and budget. */
  z.object({
    action: z.literal("move-groups"),
    keys,
    into: keySchema.nullable(),
    name: z.string().trim().max(200).default(""),
    dailyBudget: amountSchema.default(0),
  }),
  z.object({
    action: z.literal("kept-out"),
    /** Exclusions and negatives. */
    keys,
    reason: exclusionReasonSchema,
    reviewOn: reviewOnSchema,
  }),
  /** What the ads of asset groups are put together from. */
  z.object({ action: z.literal("assets"), keys, assets: assetSetSchema }),
  itemBid.extend({ items: keys }),
  itemBidChange.extend({ items: keys }),
  exclude.extend({ items: keys }),
  include.extend({ items: keys }),
  solo.extend({ items: keys }),
  z.object({
    action: z.literal("rename-value"),
    /** The field that groups are split by, and the value before and now. */
    by: z.string().min(1).max(200),
    from: z.string().min(1).max(500),
    to: z.string().min(1).max(500),
  }),
]);

export type Intent = z.infer<typeof intentSchema>;

/** An intent in words, as it is told in the basket. */
export function intentInWords(intent: Intent, currency: string): string {
  switch (intent.action) {
    case "budget":
      return `Daily budget set to ${formatMoney(intent.dailyBudget, currency)}`;
    case "bid":
    case "item-bid":
      return `Bid set to ${formatMoney(intent.bid, currency)}`;
    case "amount":
      return `${intent.field === "bid" ? "Bid" : "Daily budget"} ${operationInWords(intent.op, currency)}`;
    case "item-bid-change":
      return `Bid changed by ${intent.percent > 0 ? "+" : ""}${intent.percent} %`;
    case "status":
      if (intent.status === "on") return "Switched on";
      return `${intent.status === "paused" ? "Paused" : "Closed"}${intent.pausedFor ? `: ${intent.pausedFor}` : ""}`;
    case "rename":
      return `Renamed to “${intent.name}”`;
    case "folder":
      return intent.folder === null ? "Taken out of folders" : `Sorted under “${intent.folder}”`;
    case "serve-order":
      return `Serve order set to ${intent.serveOrder}`;
    case "slot-factor":
      return `Bids × ${intent.factor} in ${SLOT_LABEL[intent.slot].toLowerCase()}`;
    case "hour-factor":
      return `Bids × ${intent.factor} in ${plural(intent.hours.length, "hour")} of the day`;
    case "pool":
      return intent.pool === null ? "Draws on no pool" : "Draws on a budget pool";
    case "flex":
      return `Auction flex set to ${intent.flex.mode}`;
    case "settings":
      return `Settings of ${plural(intent.keys.length, "campaign")}`;
    case "move-target":
      return `Moved to a campaign of its own: ${intent.name}`;
    case "move-groups":
      return intent.into === null
        ? `Moved to a campaign of its own: ${intent.name}`
        : `${plural(intent.keys.length, "group")} moved to another campaign`;
    case "assets":
      return `Assets of ${plural(intent.keys.length, "asset group")}`;
    case "kept-out":
      return `Kept out: ${intent.reason}`;
    case "exclude":
      return `Excluded: ${intent.reason}`;
    case "include":
      return "No longer excluded";
    case "solo":
      return intent.each ? "Lifted into a campaign each" : `Lifted into a campaign of its own: ${intent.name}`;
    case "rename-value":
      return `“${intent.from}” is now called “${intent.to}”`;
  }
}
