import type { Account } from "../account/account";
import type { AccountRecord } from "../account/records";
import { sameValue } from "../kit/diff";
import type { TermOrListing } from "./place-kind";

/** What became of a term or listing that was considered; the first that is true of it counts. */
export const LEDGER_STATES = {
  "in use": "aimed at by name, and sent",
  waiting: "aimed at by name in the basket, not sent yet",
  paused: "aimed at by name, but paused",
  blocked: "kept out by a negative",
  dismissed: "somebody decided against it",
  elsewhere: "on a list of what is used elsewhere",
  retired: "was aimed at by name, and is not any more",
} as const;
export type LedgerState = keyof typeof LEDGER_STATES;

/** Where a term or listing stands. */
export interface LedgerEntry {
  state: LedgerState;
  /** The day it came to be so, `YYYY-MM-DD`; null where no dispatch tells. */
  since: string | null;
  /** Campaigns that aim at it or keep it out; empty for everywhere. */
  where: string[];
  /** Why, in somebody's words or by the reason of the negative. */
  reason: string;
  who: string;
}

/** A note that a person left: decided against, or used elsewhere. */
export interface LedgerNote {
  what: TermOrListing;
  text: string;
  state: "dismissed" | "elsewhere";
  reason: string;
  who: string;
  day: string;
}

/** A change that was sent: what stood before and after, and the day from which it held. */
export interface SentChange {
  before: AccountRecord | null;
  after: AccountRecord | null;
  day: string | null;
}

/** By what a term or listing is known in the ledger: terms whatever their case, listings by their code. */
export function ledgerKey(what: TermOrListing, text: string): string {
  return `${what}/${what === "term" ? text.trim().toLowerCase().replace(/\s+/g, " ") : text.trim()}`;
}

/** The key of what a record aims at or keeps out by name; null for all others. */
export function namedBy(record: AccountRecord): string | null {
  // Broad and phrase keywords reach for terms; only an exact one aims at its own by name.
  if (record.type === "keyword") return record.match === "exact" ? ledgerKey("term", record.text) : null;
  if (record.type === "listingTarget")
    return record.aim.by === "listing" ? ledgerKey("listing", record.aim.listing) : null;
  if (record.type !== "negative" || record.what === "placement") return null;
  return record.what === "term" && record.match === "phrase" ? null : ledgerKey(record.what, record.value);
}

const ORDER = Object.keys(LEDGER_STATES) as LedgerState[];

/**
 * Every term and listing that is or was aimed at or kept out by name, or that somebody noted, each once.
 * @param sent changes of keywords, listing targets and negatives, the oldest first
 * @param nameOf what a campaign or ad group is called
 */
export function ledgerOf(
  live: Account,
  planned: Account,
  notes: readonly LedgerNote[],
  sent: readonly SentChange[],
  nameOf: (key: string) => string,
): Map<string, LedgerEntry> {
  const since = new Map<string, string | null>();
  const found = new Map<string, LedgerEntry>();
  const put = (key: string, entry: LedgerEntry) => {
    const known = found.get(key);
    if (!known || ORDER.indexOf(entry.state) < ORDER.indexOf(known.state)) found.set(key, entry);
    else if (known.state === entry.state) {
      known.where = [...new Set([...known.where, ...entry.where])];
    }
  };
  for (const { before, after, day } of sent) {
    const [was, is] = [before && namedBy(before), after && namedBy(after)];
    if (after && is && (was !== is || !sameValue(before, after))) {
      // A change of a bid is no new use: only what began, or was switched on or off, has another day.
      const isOn = (record: AccountRecord | null) =>
        record !== null && (!("status" in record) || record.status === "on");
      if (was !== is || isOn(before) !== isOn(after)) since.set(after.key, day);
    }
    if (was && was !== is) {
      put(was, { state: "retired", since: day, where: [], reason: "", who: "" });
    }
  }
  const campaignOf = (adGroup: string) => planned.find("adGroup", adGroup)?.campaign ?? adGroup;
  for (const type of ["keyword", "listingTarget"] as const) {
    for (const target of planned.all(type)) {
      const key = namedBy(target);
      if (!key) continue;
      const adGroup = planned.find("adGroup", target.adGroup);
      const campaign = planned.find("campaign", adGroup?.campaign ?? null);
      const isOn = target.status === "on" && adGroup?.status === "on" && campaign?.status === "on";
      const state = !live.get(target.key) ? "waiting" : isOn ? "in use" : "paused";
      const where = [nameOf(campaignOf(target.adGroup))];
      put(key, { state, since: since.get(target.key) ?? null, where, reason: "", who: "" });
    }
  }
  for (const negative of planned.all("negative")) {
    const key = namedBy(negative);
    if (!key) continue;
    const { scope, reason } = negative;
    const state = live.get(negative.key) ? "blocked" : "waiting";
    const where = scope === null ? [] : [nameOf(scope)];
    put(key, { state, since: since.get(negative.key) ?? null, where, reason, who: "" });
  }
  for (const { what, text, state, reason, who, day } of notes) {
    put(ledgerKey(what, text), { state, since: day, where: [], reason, who });
  }
  return found;
}
