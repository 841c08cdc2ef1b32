import type { z } from "zod";
import type { ClickWorth } from "../goals/click-worth";
import type { Outcome } from "../kit/outcome";
import type { Draft } from "./draft";

/** What an act may ask about an item. */
export interface ItemFacts {
  /** The group that serves it first, and what that bids; null for an item without a home. */
  home: { group: string; bid: number } | null;
  /** The family it belongs to, or "". */
  family: string;
  title: string;
  /** What a click on it is worth; null where nothing is known of it, and left out where no act of the edit asks. */
  worth?: ClickWorth | null;
}

/** Tells about an item by its ID; null for one that is not in the catalogue. */
export type FactsOf = (item: string) => ItemFacts | null;

/** What a person can pick and act on. */
export type ActLevel =
  "campaign" | "adGroup" | "productGroup" | "target" | "item" | "exclusion" | "negative" | "slot" | "hour";

/** What an act can change beside its own records: which group serves an item first, and what may be spent a day. */
export type Affected = "homes" | "budgets";

type Asked = z.ZodObject<{ action: z.ZodLiteral<string> }>;

/**
 * Everything that is known of one thing a person can do to an account, under the name by which forms, scripts and moves
 * ask for it.
 */
export interface Act<S extends Asked = Asked> {
  schema: S;
  /** What it is called on a button, and as the title of its dialog. */
  button: string;
  title: string;
  /** Where it can be picked. */
  fits: readonly ActLevel[];
  affects: readonly Affected[];
  /** What it asks of items beyond what is always told. */
  asks?: readonly "worth"[];
  /** What was done, as the basket tells it. */
  words(asked: z.output<S>, currency: string): string;
  /** Makes it on a draft, or says why it can't be made; the draft is thrown away then. */
  apply(draft: Draft, asked: z.output<S>, factsOf: FactsOf): Outcome<Draft>;
  /** What must hold once all of an edit has been made; asked once for all records that acts of this kind are about. */
  holds?(draft: Draft, keys: ReadonlySet<string>): Outcome<Draft>;
}

/** Checks an act where it is written down. */
export function defineAct<S extends Asked>(act: Act<S>): Act<S> {
  return act;
}
