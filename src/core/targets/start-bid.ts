import { holdBid, type HeldBid } from "../bids/item-bids";
import type { RateCard } from "../channel/rate-card";
import type { HouseRules } from "../moves/house-rules";

/** What a first bid is begun from. */
export const START_FROM = {
  paid: "what was paid there",
  home: "what its home bids now",
  typical: "the rate card's typical price",
  blind: "nothing is known of it",
} as const;
export type StartFrom = keyof typeof START_FROM;

/** What is known of a place before anything is aimed at it. Money in mills; null where it is not known. */
export interface StartGround {
  /** What a click there is worth to the items shown, at the price of money. */
  worth: number | null;
  /** Clicks that ads of ours got there, and what they cost. */
  paid: { clicks: number; cost: number } | null;
  /** The dearest bid under which the items shown serve there now. */
  home: number | null;
  card: Pick<RateCard, "low" | "typical"> | null;
}

export interface StartBid extends Pick<HeldBid, "limitedBy"> {
  bid: number;
  from: StartFrom;
  worth: number | null;
  /** Mills a click, in the mean. */
  paid: number | null;
  home: number | null;
  /** Whether it lies below what a fifth of the auctions take, so that it will hardly show. */
  isBelowLow: boolean;
}

/** Clicks from which what was paid says more than a rate card. */
const TOLD_BY_CLICKS = 3;
/** A bid over the mean price of its clicks: a click costs about what the next one offered. */
export const BID_OVER_CPC = 1.3;
/** Mills a click where nothing at all is known. */
const BLIND_BID = 300;

/**
 * The first bid of a target: what a click there is worth (`docs/formulas.md` 7), held to one step of the house rules from what
 * such clicks were paid with, or, where none were, from the dearer of its home's bid and the rate card's typical price. A lower
 * one would show the items less than they show now.
 */
export function startBid({ worth, paid, home, card }: StartGround, rules: HouseRules): StartBid {
  const cpc = paid && paid.clicks >= TOLD_BY_CLICKS ? paid.cost / paid.clicks : null;
  const typical = card?.typical ?? null;
  const [from, anchor]: [StartFrom, number] =
    cpc !== null
      ? ["paid", cpc * BID_OVER_CPC]
      : home !== null && home > (typical ?? 0)
        ? ["home", home]
        : typical !== null
          ? ["typical", typical]
          : ["blind", worth ?? BLIND_BID];
  const held = holdBid(worth ?? anchor, anchor, rules);
  const low = card?.low ?? null;
  return { ...held, from, worth, paid: cpc, home, isBelowLow: low !== null && held.bid < low };
}
