import type { Keyword } from "../account/records/keyword";
import { comparedWords, matches, QueryIndex } from "../channel/matching";
import type { RowSums } from "../results/window-sums";

/** Past results by term, a line for each term in each ad group. */
export interface PastTerms {
  /** What was searched for, or the page that was shown on, by code. */
  labels: string[];
  /** Of each line: place in `labels`, and keys of its campaign, ad group and target. */
  term: Uint32Array;
  campaign: string[];
  adGroup: string[];
  target: string[];
  sums: Pick<RowSums, "clicks" | "cost" | "orders" | "revenue">;
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
  byLabel: Map<string, number>;
}

export function indexTerms(labels: string[]): TermIndex {
  return {
    byWord: new QueryIndex(labels.map((label, id) => ({ id, label }))),
    byLabel: new Map(labels.map((label, place) => [label, place])),
  };
}

/** The places in the past's labels that a negative stops, by the matching that the channel uses. */
export function stoppedTerms({ what, match, value }: ThoughtOf, { byWord, byLabel }: TermIndex): number[] {
  if (what === "term") return byWord.find(value, match);
  const place = byLabel.get(value);
  return place === undefined ? [] : [place];
}

/** What some negatives would have stopped. A line that two of them stop counts once. */
export function replayNegatives(negatives: ThoughtOf[], past: PastTerms, index: TermIndex): Replay {
  const byTerm = new Map<number, Set<string | null>>();
  for (const negative of negatives) {
    for (const place of stoppedTerms(negative, index)) {
      const scopes = byTerm.get(place) ?? new Set();
      byTerm.set(place, scopes.add(negative.scope));
    }
  }
  const named = new Set(negatives.map(({ value }) => value.trim().toLowerCase()));
  const stopped = new Map<number, { cost: number; orders: number; revenue: number }>();
  const all = { clicks: 0, cost: 0, orders: 0, revenue: 0 };
  for (let line = 0; line < past.term.length; line++) {
    const scopes = byTerm.get(past.term[line]!);
    if (!scopes || !(scopes.has(null) || scopes.has(past.campaign[line]!) || scopes.has(past.adGroup[line]!))) continue;
    const { clicks, cost, orders, revenue } = past.sums;
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
    .filter(({ label }) => !named.has(label.toLowerCase()))
    .sort((a, b) => b.orders - a.orders || b.cost - a.cost || (a.label < b.label ? -1 : 1));
  const others = { terms: also.length, sold: also.filter(({ orders }) => orders > 0).length };
  return { terms: stopped.size, ...all, others, also: also.slice(0, MOST_TOLD) };
}

/** Our own keywords that a negative would keep from ever showing: those whose very words it stops, within its scope. */
export function stoppedKeywords(
  negatives: ThoughtOf[],
  keywords: readonly Keyword[],
  campaignOf: (adGroup: string) => string | undefined,
): Keyword[] {
  const terms = negatives.filter(({ what }) => what === "term");
  const words = terms.map(({ value }) => comparedWords(value));
  return keywords.filter(({ text, adGroup }) => {
    const own = comparedWords(text);
    return terms.some(
      ({ match, scope }, i) =>
        (scope === null || scope === adGroup || scope === campaignOf(adGroup)) && matches(words[i]!, own, match),
    );
  });
}

/** Why something can't be a negative, in a sentence; null when it can. */
export function negativeFault({ what, value }: Pick<ThoughtOf, "what" | "value">): string | null {
  if (value.trim() === "") return "There is nothing to keep out.";
  if (what === "term" && comparedWords(value).length === 0)
    return `“${value}” has no word in it, so it would match nothing.`;
  if (what === "placement" && /\s/.test(value.trim())) return `“${value}” has a space in it and is no address.`;
  return null;
}

/** An address as placements are known by: without scheme, leading www and closing slash, in small letters. */
export function plainAddress(text: string): string {
  return text
    .trim()
    .toLowerCase()
    .replace(/^[a-z][a-z0-9+.-]*:\/\//, "")
    .replace(/^www\./, "")
    .replace(/\/+$/, "");
}
