import type { TextColumn } from "../kit/columns";
import { comparedWords, stem } from "../channel/matching";
import { cleanedValue } from "./clean";

interface Kind {
  titles: number;
  /** In how many titles of the kind each word stands. */
  counts: Map<string, number>;
}

const NUMBER = /^\d+$/;
const MOST_SHARE = 0.7;

/**
 * What the words of titles tell within their kind of thing, by which long titles are made shorter: a word that no other title of its
 * kind has is too narrow, one that half of them have says what it is, and what lies between tells items apart as people search.
 */
export class TitleWords {
  private readonly kinds = new Map<number, Kind>();
  /** The words of each title, once each, in their order. */
  private readonly words: string[][];

  /** @param kinds a code a row, such as that of the category */
  constructor(
    { codes, values }: TextColumn,
    private readonly kindOf: ArrayLike<number>,
  ) {
    const known: (string[] | undefined)[] = [];
    this.words = Array.from(codes, (code, row) => {
      const words = (known[code] ??= [...new Set(comparedWords(cleanedValue(values[code]!)))]);
      const kind = this.kind(row);
      kind.titles++;
      for (const word of words) kind.counts.set(word, (kind.counts.get(word) ?? 0) + 1);
      return words;
    });
  }

  private kind(row: number): Kind {
    const code = this.kindOf[row]!;
    let found = this.kinds.get(code);
    if (!found) this.kinds.set(code, (found = { titles: 0, counts: new Map() }));
    return found;
  }

  /** How much a word helps to be found; what helps least is left out first. */
  private worth(word: string, { titles, counts }: Kind): number {
    if (NUMBER.test(word)) return 0;
    const count = counts.get(word) ?? 0;
    if (count <= 1 && titles > 2) return 1;
    // What nearly all of a kind have tells none of them apart.
    return count > titles * MOST_SHARE && titles > 2 ? 1.5 : 2 + count / titles;
  }

  /**
   * A row's title made shorter word by word, the longest first: each time the word that helps least goes, of alike ones the last.
   * @param nouns stems of words that always stay, such as those of the category
   * @param isRight stops at the first form that is; left out gives all
   * @returns texts of `most` to `least` words, in the order of the title
   */
  shortened(
    row: number,
    nouns: ReadonlySet<string>,
    { least, most }: { least: number; most: number },
    isRight: (form: string) => boolean = () => false,
  ): string[] {
    const kept = this.words[row]!.slice();
    const kind = this.kind(row);
    const worth = kept.map((word) => this.worth(word, kind) + (nouns.has(stem(word)) ? 10 : 0));
    const forms: string[] = [];
    while (kept.length >= least && kept.length > 0) {
      if (kept.length <= most) {
        const form = kept.join(" ");
        forms.push(form);
        if (isRight(form)) break;
      }
      let worst = 0;
      for (let i = 1; i < kept.length; i++) if (worth[i]! <= worth[worst]!) worst = i;
      kept.splice(worst, 1);
      worth.splice(worst, 1);
    }
    return forms;
  }
}
