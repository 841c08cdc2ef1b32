import type { Keyword } from "../account/records/keyword";
import { comparedWords, matches, QueryIndex } from "../channel/matching";
import type { MatchType } from "../channel/match-types";
import type { RowSums } from "../results/window-sums";
import { plainAddress, readAddress } from "./placements/address";

/** Past results by term, a line for each term in each ad group. */
export interface PastTerms {
  /** What was searched for, or the page that was shown on, by code. */
  labels: string[];
  /** Of each line: place in `labels`, and keys of its campaign, ad group and target. */
  term: Uint32Array;
  campaign: string[];
  adGroup: string[];
  target: string[];
  sums: Pick<RowSums, "impressions" | "clicks" | "cost" | "orders" | "revenue">;
}

/** A negative that is thought of. */
export interface ThoughtOf {
  what: "term" | "listing" | "placement";
  match: "exact" | "phrase";
  value: string;
  /** Key of a campaign or ad group; null is everywhere. */
  scope: string | null;
}

/** What negatives would have stopped in the past. Money in mills. */
export interface Replay {
  terms: number;
  impressions: number;
  clicks: number;
  cost: number;
  orders: number;
  revenue: number;
  /** How many of them were not named, and how many of those sold. */
  others: { terms: number; sold: number };
  /** Those not named, the ones with the most orders first; only so many as one looks through. */
  also: { label: string; cost: number; orders: number; revenue: number }[];
}

/** Terms told beside those named. */
const MOST_TOLD = 50;

/** Past terms to look negatives up in: by their words, and by what they are. */
export interface TermIndex {
  byWord: QueryIndex;
  /** Places of a page, or of an address however reports write it. */
  byLabel: Map<string, number[]>;
}

/** @param isPage whether a label is the page of a listing, which no word of a negative stops */
export function indexTerms(labels: string[], isPage: (label: string) => boolean = () => false): TermIndex {
  return {
    byWord: new QueryIndex(labels.flatMap((label, id) => (isPage(label) ? [] : [{ id, label }]))),
    byLabel: new Map(labels.map((label, place) => [label, [place]])),
  };
}

/** Past placements to look addresses up in. */
export function indexAddresses(labels: string[]): TermIndex {
  const byLabel = new Map<string, number[]>();
  labels.forEach((label, place) => {
    const address = plainAddress(label);
    const known = byLabel.get(address);
    if (known) known.push(place);
    else byLabel.set(address, [place]);
  });
  return { byWord: new QueryIndex([]), byLabel };
}

/** The places in the past's labels that a negative stops, by the matching that the channel uses. */
export function stoppedTerms({ what, match, value }: ThoughtOf, { byWord, byLabel }: TermIndex): number[] {
  if (what === "term") return byWord.find(value, match);
  return byLabel.get(what === "placement" ? plainAddress(value) : value) ?? [];
}

/** What some negatives would have stopped. A line that two of them stop counts once. */
export function replayNegatives(negatives: ThoughtOf[], past: PastTerms, index: TermIndex): Replay {
  const byTerm = scopesByTerm(negatives, index);
  const named = new Set(negatives.map(({ what, value }) => nameOf(what, value)));
  const what = negatives[0]?.what ?? "term";
  const stopped = new Map<number, { cost: number; orders: number; revenue: number }>();
  const all = { impressions: 0, clicks: 0, cost: 0, orders: 0, revenue: 0 };
  for (let line = 0; line < past.term.length; line++) {
    if (!isStopped(byTerm, past, line)) continue;
    const { impressions, clicks, cost, orders, revenue } = past.sums;
    all.impressions += impressions[line]!;
    all.clicks += clicks[line]!;
    all.cost += cost[line]!;
    all.orders += orders[line]!;
    all.revenue += revenue[line]!;
    const known = stopped.get(past.term[line]!) ?? { cost: 0, orders: 0, revenue: 0 };
    known.cost += cost[line]!;
    known.orders += orders[line]!;
    known.revenue += revenue[line]!;
    stopped.set(past.term[line]!, known);
  }
  const also = [...stopped]
    .map(([place, sums]) => ({ label: past.labels[place]!, ...sums }))
    .filter(({ label }) => !named.has(nameOf(what, label)))
    .sort((a, b) => b.orders - a.orders || b.cost - a.cost || (a.label < b.label ? -1 : 1));
  const others = { terms: also.length, sold: also.filter(({ orders }) => orders > 0).length };
  return { terms: stopped.size, ...all, others, also: also.slice(0, MOST_TOLD) };
}

/** What a text is known by, however it is written. */
const nameOf = (what: ThoughtOf["what"], text: string) =>
  what === "placement" ? plainAddress(text) : text.trim().toLowerCase();

/** Our own keywords that negatives would keep from ever showing: all that these keywords can reach is stopped, within the scope. */
export function silencedKeywords(
  negatives: ThoughtOf[],
  keywords: readonly Keyword[],
  campaignOf: (adGroup: string) => string | undefined,
): Keyword[] {
  const terms = negatives.filter(({ what }) => what === "term");
  const words = terms.map(({ value }) => comparedWords(value));
  return keywords.filter(({ text, match, adGroup }) => {
    const own = comparedWords(text);
    return terms.some(
      (negative, i) =>
        (negative.scope === null || negative.scope === adGroup || negative.scope === campaignOf(adGroup)) &&
        stopsAllOf(words[i]!, negative.match, own, match),
    );
  });
}

/**
 * Whether a negative stops every query that a keyword matches. An exact one stops no more than one query, so it silences exact
 * keywords alone; what a phrase in a keyword stops, every query with the keyword's words in one run has too.
 */
function stopsAllOf(negative: string[], how: "exact" | "phrase", keyword: string[], match: MatchType): boolean {
  if (how === "exact") return match === "exact" && matches(negative, keyword, "exact");
  if (match !== "broad") return matches(negative, keyword, "phrase");
  // Words of a broad keyword stand in any order, and of three or more one may be missing.
  return negative.length === 1 && keyword.length < 3 && matches(negative, keyword, "phrase");
}

/** A keyword that goes on, without some of the terms it has had. */
export interface CutKeyword {
  keyword: Keyword;
  /** Terms it had of late, and how many of those are stopped. */
  of: number;
  stopped: number;
}

/** Keywords of our own that lose terms they had, but not all that they can reach. */
export function cutKeywords(
  negatives: ThoughtOf[],
  keywords: readonly Keyword[],
  past: PastTerms,
  index: TermIndex,
): CutKeyword[] {
  const byTerm = scopesByTerm(negatives, index);
  const targets = new Map(keywords.map((keyword) => [keyword.key, keyword]));
  const had = new Map<string, { all: Set<number>; stopped: Set<number> }>();
  for (let line = 0; line < past.term.length; line++) {
    const key = past.target[line]!;
    if (!targets.has(key)) continue;
    const one = had.get(key) ?? { all: new Set(), stopped: new Set() };
    had.set(key, one);
    one.all.add(past.term[line]!);
    if (isStopped(byTerm, past, line)) one.stopped.add(past.term[line]!);
  }
  return [...had]
    .filter(([, { stopped }]) => stopped.size > 0)
    .map(([key, { all, stopped }]) => ({ keyword: targets.get(key)!, of: all.size, stopped: stopped.size }))
    .sort((a, b) => b.stopped - a.stopped || (a.keyword.key < b.keyword.key ? -1 : 1));
}

/** For each term that negatives stop, the scopes in which they do. */
function scopesByTerm(negatives: ThoughtOf[], index: TermIndex): Map<number, Set<string | null>> {
  const byTerm = new Map<number, Set<string | null>>();
  for (const negative of negatives) {
    for (const place of stoppedTerms(negative, index)) {
      const scopes = byTerm.get(place) ?? new Set();
      byTerm.set(place, scopes.add(negative.scope));
    }
  }
  return byTerm;
}

function isStopped(byTerm: Map<number, Set<string | null>>, past: PastTerms, line: number): boolean {
  const scopes = byTerm.get(past.term[line]!);
  return (
    scopes !== undefined && (scopes.has(null) || scopes.has(past.campaign[line]!) || scopes.has(past.adGroup[line]!))
  );
}

/** Why something can't be a negative, in a sentence; null when it can. */
export function negativeFault({ what, value }: Pick<ThoughtOf, "what" | "value">): string | null {
  if (value.trim() === "") return "There is nothing to keep out.";
  if (what === "term" && comparedWords(value).length === 0)
    return `“${value}” has no word in it, so it would match nothing.`;
  if (what === "placement" && /\s/.test(value.trim())) return `“${value}” has a space in it and is no address.`;
  if (what === "placement" && !readAddress(value)) return `“${value}” is no address.`;
  return null;
}
