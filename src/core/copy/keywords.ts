import { cleanedKeyword, keywordFault } from "../channel/keyword-fault";
import { comparedWords, QueryIndex, stem } from "../channel/matching";
import type { MatchType } from "../channel/match-types";
import type { Columns } from "../kit/columns";
import { categoryLevels } from "../kit/categories";
import type { KeywordDesign } from "./copy-plan";
import { BUYS_FIRST, type Language } from "./languages";
import { compileLine } from "./line";
import { TitleWords } from "./title-keywords";
import type { Units } from "./units";
import { cleanedValue } from "./clean";
import type { CopyValues } from "./values";

/** What a keyword was made of. */
export type KeywordOrigin = "pattern" | "title";

export interface MadeKeyword {
  text: string;
  origin: KeywordOrigin;
  /** Times a month it is searched for, as far as the channel tells; null where nobody said. */
  searches: number | null;
}

/** Why a text became no keyword of an ad group. */
export const DROPPED = {
  gap: "a field says nothing",
  unfit: "the channel does not take it",
  never: "has a word that is left out",
  unheard: "nobody searches for it",
  taken: "another ad group has it",
  most: "more than the ad group is to have",
} as const;
export type Dropped = keyof typeof DROPPED;

export interface MadeKeywords {
  /** By ad group. */
  keywords: MadeKeyword[][];
  dropped: Record<Dropped, number>;
  /** Terms that an ad group is kept out of, since another has them as exact keywords. */
  negatives: string[][];
}

export interface KeywordSettings {
  language: Language;
  /** Searches a month of an exact keyword; null where the channel tells nothing of it, 0 where it knows of none. */
  searches: (text: string) => number | null;
  /** By ad group: what decides who keeps a keyword that several would have; the larger keeps it. */
  claim: ArrayLike<number>;
}

/** Makes the keywords of all ad groups of a plan. */
export function makeKeywords(
  design: KeywordDesign,
  units: Units,
  values: CopyValues,
  catalogue: Columns,
  settings: KeywordSettings,
): MadeKeywords {
  const dropped = Object.fromEntries(Object.keys(DROPPED).map((why) => [why, 0])) as Record<Dropped, number>;
  const never = new Set(design.never.flatMap((entry) => comparedWords(entry)));
  const patterns = design.patterns.map((pattern) => compileLine(pattern, values));
  const titles = design.fromTitles ? titleForms(design, catalogue) : null;
  const known = new Map<string, number | null>();
  const searches = (text: string) => {
    let found = known.get(text);
    if (found === undefined) known.set(text, (found = settings.searches(text)));
    return found;
  };
  const withBuying = (text: string) =>
    design.buyWords.map((word) => (BUYS_FIRST[settings.language] ? `${word} ${text}` : `${text} ${word}`));
  const keywords: MadeKeyword[][] = [];
  const owner = new Map<string, number>();
  for (let unit = 0; unit < units.count; unit++) {
    const own = new Map<string, MadeKeyword>();
    const take = (text: string, origin: KeywordOrigin) => {
      if (own.has(text)) return;
      if (text === "" || keywordFault(text) !== null) dropped.unfit++;
      else if (never.size > 0 && comparedWords(text).some((word) => never.has(word))) dropped.never++;
      else if (searches(text) === 0) dropped.unheard++;
      else if (own.size >= design.most) dropped.most++;
      else own.set(text, { text, origin, searches: searches(text) });
    };
    for (const pattern of patterns) {
      const put = pattern.write(unit);
      if (put.gap !== null) {
        dropped.gap++;
        continue;
      }
      const text = (put.keyword ??= cleanedKeyword(put.text));
      take(text, "pattern");
      for (const buying of withBuying(text)) take(buying, "pattern");
    }
    if (titles) {
      const isHeard = (text: string) => (searches(text) ?? 0) > 0;
      for (let i = units.start[unit]!; i < units.start[unit + 1]! && own.size < design.most; i++) {
        const row = units.rows[i]!;
        if (!units.sellable[row]) continue;
        const form = titles(row, isHeard);
        if (form === undefined || own.has(form)) continue;
        take(form, "title");
        for (const text of withBuying(form)) take(text, "title");
      }
    }
    keywords.push([...own.values()]);
    for (const text of own.keys()) {
      const other = owner.get(text);
      if (other === undefined || settings.claim[unit]! > settings.claim[other]!) owner.set(text, unit);
    }
  }
  const kept = keywords.map((list, unit) => {
    const mine = list.filter(({ text }) => owner.get(text) === unit);
    dropped.taken += list.length - mine.length;
    return mine;
  });
  return { keywords: kept, dropped, negatives: design.apart ? apartNegatives(kept, design) : kept.map(() => []) };
}

/** Of a row's title the longest form that people search for; where nobody tells, the shortest. */
function titleForms({ titleWords }: KeywordDesign, { columns, length }: Columns) {
  const [title, category] = [columns["title"], columns["category"]];
  if (title?.kind !== "text") return null;
  const kinds = category?.kind === "text" ? category.codes : new Uint32Array(length);
  const words = new TitleWords(title, kinds);
  const nounsOf = new Map<number, ReadonlySet<string>>();
  const nouns = (row: number) => {
    const kind = kinds[row]!;
    let found = nounsOf.get(kind);
    if (!found) {
      const path = category?.kind === "text" ? (categoryLevels(category.values[kind]!).at(-1) ?? "") : "";
      nounsOf.set(kind, (found = new Set(comparedWords(cleanedValue(path)).map(stem))));
    }
    return found;
  };
  return (row: number, isHeard: (text: string) => boolean): string | undefined =>
    words.shortened(row, nouns(row), titleWords, isHeard).at(-1);
}

/** Match types by how far they reach. */
const WIDER: Record<MatchType, number> = { exact: 0, phrase: 1, broad: 2 };

/** The match type that reaches furthest of those that a design has. */
export function widestMatch({ matches }: Pick<KeywordDesign, "matches">): MatchType {
  return matches.map(({ match }) => match).reduce((a, b) => (WIDER[b] > WIDER[a] ? b : a));
}

/** An ad group is kept out of so many terms of others at most; with more, its keywords are too wide for this plan. */
export const MOST_NEGATIVES = 200;

/**
 * What each ad group is kept out of: exact keywords of other ad groups that its own wider keywords would match too.
 * @returns by ad group
 */
export function apartNegatives(keywords: readonly (readonly MadeKeyword[])[], { matches }: KeywordDesign): string[][] {
  const none = keywords.map((): string[] => []);
  if (!matches.some(({ match }) => match === "exact")) return none;
  const widest = widestMatch({ matches });
  if (widest === "exact") return none;
  const all = keywords.flatMap((list, unit) => list.map(({ text }) => ({ text, unit })));
  const index = new QueryIndex(all.map(({ text }, id) => ({ id, label: text })));
  return keywords.map((list, unit) => {
    const found = new Set<string>();
    for (const { text } of list) {
      for (const id of index.find(text, widest)) {
        const other = all[id]!;
        if (other.unit !== unit && other.text !== text) found.add(other.text);
        if (found.size >= MOST_NEGATIVES) return [...found];
      }
    }
    return [...found];
  });
}
