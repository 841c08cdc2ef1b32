import { isOneSlip } from "../kit/words";
import type { MatchType } from "../account/records/keyword";

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

/** Finds the queries that share a word with a keyword, so that not every pair is compared. */
export class QueryIndex {
  private readonly words: string[][];
  private readonly byStem = new Map<string, number[]>();
  /** Stems by how long they are: one slip changes a length by one at most. */
  private readonly byLength = new Map<number, string[]>();

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
      const list = this.byLength.get(word.length);
      if (list) list.push(word);
      else this.byLength.set(word.length, [word]);
    }
  }

  /** The numbers of the queries that a keyword matches. */
  find(text: string, match: MatchType): number[] {
    const words = comparedWords(text);
    const near = new Set<number>();
    for (const word of words) {
      const own = stem(word);
      for (const i of this.byStem.get(own) ?? []) near.add(i);
      if (own.length < 5) continue;
      for (let length = Math.max(5, own.length - 1); length <= own.length + 1; length++) {
        for (const other of this.byLength.get(length) ?? []) {
          if (isOneSlip(own, other)) for (const i of this.byStem.get(other) as number[]) near.add(i);
        }
      }
    }
    return [...near]
      .sort((a, b) => a - b)
      .filter((i) => matches(words, this.words[i]!, match))
      .map((i) => this.labels[i]!.id);
  }
}
