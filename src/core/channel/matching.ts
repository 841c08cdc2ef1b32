import { isOneSlip } from "../kit/words";
import type { MatchType } from "./match-types";

const FILLERS = new Set(["a", "an", "the", "for", "of", "to", "in", "with", "and"]);

/** Words of a query or keyword as they are compared: lower case, without fillers. */
export function comparedWords(text: string): string[] {
  const words = text.toLowerCase().match(/[\p{L}\p{M}\p{N}]+/gu) ?? [];
  const telling = words.filter((word) => !FILLERS.has(word));
  return telling.length > 0 ? telling : words;
}

/** A word without the endings of the plural: "hoses" and "hose", "berries" and "berry", "brushes" and "brush". */
export function stem(word: string): string {
  if (word.length > 4 && word.endsWith("ies")) return `${word.slice(0, -3)}y`;
  if (word.length > 4 && /(?:ss|x|zz|ch|sh)es$/.test(word)) return word.slice(0, -2);
  if (word.length > 3 && word.endsWith("s") && !word.endsWith("ss")) return word.slice(0, -1);
  return word;
}

/** Whether two words count as the same: alike but for the plural, or, in words of five letters and more, one slip. */
export function isSameWord(a: string, b: string): boolean {
  if (a === b) return true;
  const [x, y] = [stem(a), stem(b)];
  return x === y || (Math.min(x.length, y.length) >= 5 && isOneSlip(x, y));
}

/**
 * Whether a keyword matches a query.
 * - exact: the same words in the same order, but for plurals, small slips and fillers
 * - phrase: the keyword's words stand in the query in one run
 * - broad: they all stand in it in any order; one of three or more may be missing
 */
export function matches(keyword: string[], query: string[], match: MatchType): boolean {
  if (keyword.length === 0) return false;
  if (match === "exact" && keyword.length !== query.length) return false;
  if (match !== "broad") {
    for (let start = 0; start + keyword.length <= query.length; start++) {
      if (keyword.every((word, i) => isSameWord(word, query[start + i]!))) return true;
    }
    return false;
  }
  const found = keyword.filter((word) => query.some((other) => isSameWord(word, other))).length;
  return found === keyword.length || (keyword.length >= 3 && found >= keyword.length - 1);
}

/** How much closer an ad fits a query for having been aimed at it. */
export const MATCH_FIT: Record<MatchType, number> = { exact: 1.1, phrase: 1, broad: 0.9 };

/** Words shorter than this have no slips. */
const LEAST_FOR_SLIPS = 5;

/** A word with each of its letters left out in turn: two words that one slip tells apart share such a rest, or one is a rest of the other. */
function rests(word: string): string[] {
  return Array.from({ length: word.length }, (_, at) => word.slice(0, at) + word.slice(at + 1));
}

/**
 * Finds the queries that a keyword matches. Each must hold all of a keyword's words (of three or more in a broad match all but one),
 * so only the queries of its rarest words are compared.
 */
export class QueryIndex {
  private readonly words: string[][];
  private readonly byStem = new Map<string, number[]>();
  /** Stems that are long enough for slips, by themselves and by their rests. */
  private readonly byRest = new Map<string, string[]>();
  private readonly near = new Map<string, string[]>();

  constructor(private readonly labels: { id: number; label: string }[]) {
    this.words = labels.map(({ label }) => comparedWords(label));
    this.words.forEach((words, i) => {
      for (const word of new Set(words.map(stem))) {
        const list = this.byStem.get(word);
        if (list) list.push(i);
        else this.byStem.set(word, [i]);
      }
    });
    for (const word of this.byStem.keys()) {
      if (word.length < LEAST_FOR_SLIPS) continue;
      for (const rest of new Set([word, ...rests(word)])) {
        const list = this.byRest.get(rest);
        if (list) list.push(word);
        else this.byRest.set(rest, [word]);
      }
    }
  }

  /** The stems that count as a word: its own, and those that one slip tells apart. */
  private stemsLike(own: string): string[] {
    let found = this.near.get(own);
    if (found) return found;
    const like = new Set(this.byStem.has(own) ? [own] : []);
    if (own.length >= LEAST_FOR_SLIPS) {
      for (const rest of [own, ...rests(own)]) {
        for (const other of this.byRest.get(rest) ?? []) if (isOneSlip(own, other)) like.add(other);
      }
    }
    this.near.set(own, (found = [...like]));
    return found;
  }

  /** The numbers of the queries that a keyword matches. */
  find(text: string, match: MatchType): number[] {
    const words = comparedWords(text);
    const lists = [...new Set(words.map(stem))]
      .map((own) => this.stemsLike(own).map((like) => this.byStem.get(like) as number[]))
      .map((queries) => ({ queries, size: queries.reduce((sum, list) => sum + list.length, 0) }))
      .sort((a, b) => a.size - b.size);
    // One word may be missing from a broad match of three or more: what lacks the rarest holds the next.
    const needed = match === "broad" && words.length >= 3 ? 2 : 1;
    const found = new Set<number>();
    for (const { queries } of lists.slice(0, needed)) for (const list of queries) for (const i of list) found.add(i);
    return [...found]
      .sort((a, b) => a - b)
      .filter((i) => matches(words, this.words[i]!, match))
      .map((i) => this.labels[i]!.id);
  }
}
