import { formatCount } from "../kit/format";
import { groupBy } from "../kit/group-by";
import type { Ref, RefKind, Spelling } from "./phrase";

/** What aliases of a kind begin with. */
const LABEL: Record<RefKind, string> = {
  campaign: "Campaign",
  "ad group": "Ad group",
  target: "Target",
  item: "Item",
  brand: "Brand",
  term: "Term",
  listing: "Listing",
  placement: "Placement",
  category: "Category",
  shop: "Shop",
};

/** A, B, … Z, AA, AB, … */
function letters(no: number): string {
  return no <= 26 ? String.fromCharCode(64 + no) : letters(Math.floor((no - 1) / 26)) + letters(((no - 1) % 26) + 1);
}

const aliasAt = (kind: RefKind, no: number) => `${LABEL[kind]} ${kind === "brand" ? letters(no) : no}`;

/** What stands for which thing, by kind and key. */
export class Aliases {
  private readonly next = new Map<RefKind, number>();
  private readonly names: ReadonlySet<string>;
  /** What was given out beyond what was known. */
  readonly fresh: { kind: RefKind; key: string; no: number }[] = [];

  /**
   * @param known numbers given out before, by `kind` and `key`, which are kept
   * @param real names and keys that are real: no alias is one of them, or it would give a name away
   */
  constructor(
    private readonly known: Map<string, number>,
    real: Iterable<string>,
  ) {
    this.names = new Set([...real].map((name) => name.toLowerCase()));
    for (const [name, no] of known) {
      const kind = name.slice(0, name.indexOf("\n")) as RefKind;
      this.next.set(kind, Math.max(this.next.get(kind) ?? 0, no));
    }
  }

  of({ kind, key }: Ref): string {
    const name = `${kind}\n${key}`;
    let no = this.known.get(name);
    if (no === undefined || this.names.has(aliasAt(kind, no).toLowerCase())) {
      no = (this.next.get(kind) ?? 0) + 1;
      while (this.names.has(aliasAt(kind, no).toLowerCase())) no++;
      this.next.set(kind, no);
      this.known.set(name, no);
      this.fresh.push({ kind, key, no });
    }
    return aliasAt(kind, no);
  }
}

/** All that was spent is this much where amounts are masked. */
export const SCALED_TO = 100_000;

/** Words that anybody could have written: they tell whose account it is only where they hold a brand. */
const COMMON: ReadonlySet<RefKind> = new Set(["category", "term", "target"]);

/** Whether a name tells whose account it is. */
export function isMasked({ kind, name, key }: Ref, hasBrand: (term: string) => boolean): boolean {
  return !COMMON.has(kind) || hasBrand(name || key);
}

/**
 * Names as aliases, amounts on a scale on which all that was spent is 100,000.
 * @param spent all that was spent in the window, mills
 * @param hasBrand whether a term holds a brand
 */
export function maskedSpelling(aliases: Aliases, spent: number, hasBrand: (term: string) => boolean): Spelling {
  const scaled = (mills: number) => (spent > 0 ? formatCount((mills / spent) * SCALED_TO) : "–");
  return {
    name: (ref) => (isMasked(ref, hasBrand) ? aliases.of(ref) : ref.name || ref.key),
    money: scaled,
    about: scaled,
  };
}

const tokensOf = (text: string) => text.toLowerCase().match(/[\p{L}\p{N}]+/gu) ?? [];

/**
 * Looks for masked names in a finished text, word by word.
 * @param secrets names and keys that must not be in it
 * @param harmless a text that is the same for every account, such as an empty report: what stands there gives nothing away
 * @returns the names that were found
 */
export function findUnmasked(text: string, secrets: Iterable<string>, harmless: string): string[] {
  const usual = new Set(sequences(tokensOf(harmless)));
  const wanted = [...secrets].map(tokensOf).filter((tokens) => canTell(tokens) && !usual.has(tokens.join(" ")));
  const byFirst = groupBy(wanted, ([first]) => first!);
  const words = tokensOf(text);
  const found = new Set<string>();
  words.forEach((word, at) => {
    for (const tokens of byFirst.get(word) ?? []) {
      if (tokens.every((token, i) => words[at + i] === token)) found.add(tokens.join(" "));
    }
  });
  return [...found].sort();
}

/** Digits in a row that no figure of a report has: thousands are parted. */
const LONG_NUMBER = 4;

/** Whether a name can be told from what stands in every report: short numbers and single letters can't. */
function canTell(tokens: readonly string[]): boolean {
  const [first] = tokens;
  if (first === undefined) return false;
  return tokens.length > 1 || (/^\d+$/.test(first) ? first.length > LONG_NUMBER : first.length > 1);
}

/** Runs of up to six words. */
function* sequences(tokens: readonly string[]): Generator<string> {
  for (let at = 0; at < tokens.length; at++) {
    for (let length = 1; length <= 6 && at + length <= tokens.length; length++) {
      yield tokens.slice(at, at + length).join(" ");
    }
  }
}
