import { z } from "zod";
import { daySchema } from "../../kit/day-schema";
import { COUNTRIES, countryName } from "../../kit/countries";
import { millsToDecimal } from "../../kit/money";
import { SLOT_KEYS } from "../../kit/slots";
import { readAmount, readDay, readName, readOptional, readStatus } from "./read-cells";
import { defineKind } from "../record-kind";
import {
  amountSchema,
  keySchema,
  nameSchema,
  pausedForSchema,
  reviewOnSchema,
  statusSchema,
  switchedWithReason,
} from "./basics";

export const PURPOSES = ["rank", "discover", "defend", "conquest", "scale", "catch-all", "revive"] as const;
export const CAMPAIGN_KINDS = ["feed", "keyword", "listing", "discovery", "text", "asset"] as const;
export type CampaignKind = (typeof CAMPAIGN_KINDS)[number];

/** What an ad of a campaign of each kind is. */
export const AD_KIND: Record<CampaignKind, string> = {
  feed: "item ad",
  keyword: "item ad",
  listing: "item ad",
  discovery: "item ad",
  text: "text ad",
  asset: "asset ad",
};

/**
 * How far the channel may go from a bid in an auction, as shares of it: 0.5 below is down to half, 0.5 above up to half as much
 * again; 0 and 0 holds it.
 */
export const flexSchema = z.object({ below: z.number().min(0).max(0.9), above: z.number().min(0).max(2) });
export type Flex = z.infer<typeof flexSchema>;

/** The bid as it is. */
export const HELD: Flex = { below: 0, above: 0 };

export const campaignSchema = z.object({
  type: z.literal("campaign"),
  key: keySchema,
  name: nameSchema,
  kind: z.enum(CAMPAIGN_KINDS),
  purpose: z.enum(PURPOSES),
  /**
   * `fixed`: the bids as given. `clicks`: as many clicks as the budget buys, each at most at its bid. `return`: the
   * channel bids towards `goal` from the campaign's own conversions.
   */
  bidding: z.enum(["fixed", "clicks", "return"]),
  /** Goal return on ad spend, sales per unit of cost; needed for `return` bidding. */
  goal: z.number().positive().max(1000).nullable(),
  /** Mills a day. */
  dailyBudget: amountSchema,
  status: statusSchema,
  /** Why it is paused, and when to look again; left out where nobody said. */
  pausedFor: pausedForSchema.optional(),
  reviewOn: reviewOnSchema.optional(),
  /** 1 serves first when an item has several homes. */
  serveOrder: z.int().min(1).max(9),
  /** Sold-out items get no ads while they are sold out. */
  inStockOnly: z.boolean(),
  /** The planogram that made it, or null. */
  origin: z.string().nullable(),
  /** Left out: the bid is held. */
  flex: flexSchema.optional(),
  /** Factors on bids by slot, 1 where left out; 0 keeps out of the slot. */
  slots: z.partialRecord(z.enum(SLOT_KEYS), z.number().min(0).max(10)).optional(),
  /** Factors on bids by hour of the day, from midnight on. */
  hours: z.array(z.number().min(0).max(10)).length(24).optional(),
  /** The pool whose budget it draws on beside its own. */
  pool: keySchema.nullable().optional(),
  /** What a person sorts it under; has nothing to do with money or serving. */
  folder: z.string().trim().min(1).max(60).optional(),
  /** The country it sells in, as an ISO 3166 code; left out: wherever the channel does. */
  country: z
    .string()
    .regex(/^[A-Z]{2}$/, "a code of two capital letters, such as DE")
    .optional(),
  /** First and last day it runs, or always. */
  startsOn: daySchema.nullable().optional(),
  endsOn: daySchema.nullable().optional(),
});

export type Campaign = z.infer<typeof campaignSchema>;

export const campaignKind = defineKind<Campaign>({
  schema: campaignSchema,
  label: ["campaign", "campaigns"],
  place: 0,
  parents: ({ pool }) => (pool ? [{ key: pool, types: ["pool"], bond: "draws on" }] : []),
  fields: {
    name: { label: "name" },
    kind: { label: "kind" },
    purpose: { label: "purpose" },
    bidding: { label: "bidding", decides: "spending", untold: true },
    goal: { label: "goal return", decides: "spending", untold: true },
    dailyBudget: { label: "daily budget", money: true, decides: "spending", untold: true },
    status: { label: "status", byHand: true, decides: "serving" },
    pausedFor: { label: "why it is paused", byHand: true },
    reviewOn: { label: "day to look again", byHand: true },
    serveOrder: { label: "serve order", decides: "serving", untold: true },
    inStockOnly: { label: "stock", decides: "serving" },
    origin: { label: "planogram" },
    flex: { label: "auction flex", byHand: true, decides: "spending", untold: true },
    slots: { label: "slot factors", byHand: true, decides: "spending", untold: true },
    hours: { label: "hour factors", byHand: true, decides: "spending", untold: true },
    pool: { label: "budget pool", byHand: true, decides: "spending", untold: true },
    folder: { label: "folder", byHand: true },
    country: { label: "country", byHand: true, decides: "serving", untold: true },
    startsOn: { label: "first day", byHand: true, decides: "serving", untold: true },
    endsOn: { label: "last day", byHand: true, decides: "serving", untold: true },
  },
  name: ({ name }) => name,
  isNamed: true,
  budget: ({ dailyBudget }) => dailyBudget,
  switched: switchedWithReason,
  added: ({ dailyBudget }, { name, money }) => `New campaign "${name}" with ${money(dailyBudget)} a day`,
  changed: {
    inStockOnly: (_, after) =>
      after ? "sold-out items served too → left out" : "sold-out items left out → served too",
    slots: (_, after) => `slot factors ${factorWords(after)}`,
    hours: (_, after) => `hour factors ${after ? "set" : "none"}`,
    flex: (_, after) => `auction flex ${flexWords(after ?? HELD)}`,
    country: (_, after) => `sells ${after ? `in ${countryName(after)}` : "wherever the channel does"}`,
    folder: (_, after) => (after ? `sorted under “${after}”` : "taken out of its folder"),
    origin: () => null,
    pool: (_, after, { nameOf }) => (after ? `draws on the pool "${nameOf(after) ?? after}"` : "draws on no pool"),
  },
  reads: {
    campaign: readName(),
    campaign_status: readStatus(),
    daily_budget: readAmount("dailyBudget"),
    country: readOptional("country", (cell) =>
      cell === "" || COUNTRIES.includes(cell) ? null : `“${cell}” is no country's code such as DE.`,
    ),
    first_day: readDay("startsOn"),
    last_day: readDay("endsOn"),
    folder: readOptional("folder", (cell) => (cell.length > 60 ? "A folder's name has 60 characters at most." : null)),
    serve_order: (record, cell) => {
      const order = Number(cell);
      const isOrder = Number.isInteger(order) && order >= 1 && order <= 9;
      return isOrder ? { ...record, serveOrder: order } : `“${cell}” is no serve order from 1 to 9.`;
    },
  },
  cells: (campaign) => ({
    campaign: campaign.name,
    purpose: campaign.purpose,
    campaign_status: campaign.status,
    daily_budget: millsToDecimal(campaign.dailyBudget),
    bidding: campaign.bidding,
    goal_return: campaign.goal,
    serve_order: campaign.serveOrder,
    kind: campaign.kind,
    auction_flex: flexWords(campaign.flex ?? HELD),
    slot_factors: Object.keys(campaign.slots ?? {}).length > 0 ? factorWords(campaign.slots) : "",
    country: campaign.country ?? "",
    first_day: campaign.startsOn ?? "",
    last_day: campaign.endsOn ?? "",
    folder: campaign.folder ?? "",
  }),
});

function factorWords(slots: Campaign["slots"]): string {
  const list = Object.entries(slots ?? {}).map(([slot, factor]) => `${slot.replace("-", " ")} × ${factor}`);
  return list.length === 0 ? "none" : list.join(", ");
}

/** A range in words: how far below and above the bid. */
export function flexWords({ below, above }: Flex): string {
  const percent = (share: number) => `${Math.round(share * 100)} %`;
  if (below === 0 && above === 0) return "held";
  return `−${percent(below)} to +${percent(above)}`;
}
