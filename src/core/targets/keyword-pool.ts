import { comparedWords, stem } from "../channel/matching";
import type { Place } from "../channel/place";
import { keywordFault } from "../channel/keyword-fault";

/** Where a candidate comes from. */
export const POOL_ORIGINS = {
  channel: "told by the channel or a rate card",
  results: "people searched so and saw our ads",
  titles: "made of titles, brands and categories",
} as const;
export type PoolOrigin = keyof typeof POOL_ORIGINS;

/** Items whose keywords are looked for. */
export interface PoolItem {
  title: string;
  brand: string;
  category: string;
}

/** A candidate. Money in mills; null where it is not known. */
export interface PoolTerm {
  text: string;
  origins: PoolOrigin[];
  /** Share of the items that have each of its words in title, brand or category. */
  relevance: number;
  isOwnBrand: boolean;
  monthlyViews: number | null;
  low: number | null;
  typical: number | null;
  high: number | null;
}

/** Phrases made of titles at most; those that the most items share come first. */
const MOST_MADE = 60;
/** Words of a phrase made of titles. */
const MOST_WORDS = 4;

/**
 * Candidates for keywords of some items, each once however it is written, plurals included: searches told of their categories, terms that were
 * searched for and led to them, and phrases of their titles that end in what their category is called.
 * @param brands words of all brands of the shop
 */
export function keywordPool(
  items: readonly PoolItem[],
  told: readonly Place[],
  seen: readonly string[],
  brands: ReadonlySet<string>,
): PoolTerm[] {
  const words = items.map(
    ({ title, brand, category }) => new Set(comparedWords(`${title} ${brand} ${category}`).map(stem)),
  );
  const pool = new Map<string, PoolTerm>();
  const add = (text: string, origin: PoolOrigin, place: Place | null) => {
    if (keywordFault(text) !== null) return;
    // As the channel reads them: a plural is the same term.
    const key = comparedWords(text).map(stem).join(" ");
    let term = pool.get(key);
    if (!term) {
      const own = [...new Set(comparedWords(text).map(stem))];
      const having = words.filter((known) => own.every((word) => known.has(word))).length;
      pool.set(
        key,
        (term = {
          ...{ text: text.trim(), origins: [], relevance: items.length === 0 ? 0 : having / items.length },
          isOwnBrand: comparedWords(text).some((word) => brands.has(word)),
          ...{ monthlyViews: null, low: null, typical: null, high: null },
        }),
      );
    }
    if (!term.origins.includes(origin)) term.origins.push(origin);
    if (place && term.typical === null) {
      const { monthlyViews, low, typical, high } = place;
      Object.assign(term, { monthlyViews, low, typical, high });
    }
  };
  for (const place of told) if (place.kind === "query") add(place.name, "channel", place);
  for (const text of seen) add(text, "results", null);
  for (const text of titlePhrases(items)) add(text, "titles", null);
  return [...pool.values()];
}

/**
 * Phrases of titles and brands that end in the noun of the item's deepest category, from two words up, without numbers and sizes;
 * those that the most items share first.
 */
export function titlePhrases(items: readonly PoolItem[]): string[] {
  const counts = new Map<string, number>();
  for (const { title, brand, category } of items) {
    const noun = comparedWords(category.split(/\s*[>›|»]\s*/).at(-1) ?? "");
    if (noun.length === 0) continue;
    const plain = comparedWords(title).filter((word) => !/\d/.test(word) && word.length > 1);
    const at = plain.findLastIndex((word) => stem(word) === stem(noun.at(-1)!));
    // A title that does not name its category is followed by its noun: "Veldine Oak" of rakes is a "veldine oak rakes".
    const before = at < 0 ? plain : plain.slice(0, at + 1);
    const tail = at < 0 ? noun : [];
    const made = new Set<string>();
    for (let from = Math.max(0, before.length - MOST_WORDS + tail.length); from < before.length; from++) {
      const phrase = [...before.slice(from), ...tail];
      if (phrase.length >= 2) made.add(phrase.join(" "));
    }
    for (const word of comparedWords(brand).slice(0, 1)) made.add([word, ...noun].join(" "));
    for (const phrase of made) counts.set(phrase, (counts.get(phrase) ?? 0) + 1);
  }
  return [...counts]
    .sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1))
    .slice(0, MOST_MADE)
    .map(([phrase]) => phrase);
}
