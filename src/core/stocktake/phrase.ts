import { formatCount, formatShare } from "../kit/format";
import { formatMoney, formatMoneyRound } from "../kit/money";

/** What a stocktake names. Each kind has aliases of its own where names are masked. */
export const REF_KINDS = [
  "campaign",
  "ad group",
  "target",
  "item",
  "brand",
  "term",
  "listing",
  "placement",
  "category",
  "shop",
] as const;
export type RefKind = (typeof REF_KINDS)[number];

/** One thing that is named: what it is, what tells it apart from its like, and what it is called. */
export interface Ref {
  kind: RefKind;
  key: string;
  name: string;
}

/** A part of a sentence. Names and amounts stay apart from the words, so that they can be masked. */
export type Part = string | { ref: Ref } | { money: number } | { share: number; of: string } | { ratio: number };
export type Phrase = Part[];

/** How names and amounts are written: as they are, or masked. */
export interface Spelling {
  name(ref: Ref): string;
  /** Mills as text, to the cent as tables have them, and rounded as sentences have them. */
  money(mills: number): string;
  about(mills: number): string;
}

/** Names and amounts as they are. */
export function plainSpelling(currency: string): Spelling {
  return {
    name: ({ name, key }) => name || key,
    money: (mills) => formatMoney(mills, currency),
    about: (mills) => formatMoneyRound(mills, currency),
  };
}

/** A sentence from its words and what stands between them. */
export function say(
  words: TemplateStringsArray,
  ...between: (Exclude<Part, string> | string | number | Phrase)[]
): Phrase {
  return words.flatMap((text, at): Phrase => {
    const part = between[at];
    const after: Phrase =
      part === undefined ? [] : Array.isArray(part) ? part : [typeof part === "number" ? String(part) : part];
    return text === "" ? after : [text, ...after];
  });
}

/** Names one after another, the first few of many, the rest as a number. */
export function listOf(refs: readonly Ref[], most = 3): Phrase {
  const shown = refs.slice(0, most).flatMap((ref, at): Phrase => (at === 0 ? [{ ref }] : [", ", { ref }]));
  const rest = refs.length - most;
  return rest > 0 ? [...shown, ` and ${formatCount(rest)} more`] : shown;
}

/** The form of a verb that goes with one name or with several. */
export function verb(refs: readonly Ref[], one: string, several: string): string {
  return refs.length === 1 ? one : several;
}

/** A sentence as text. A share always names what it is a share of. */
export function phraseText(phrase: Phrase, spelling: Spelling): string {
  return phrase
    .map((part) => {
      if (typeof part === "string") return part;
      if ("ref" in part) return spelling.name(part.ref);
      if ("money" in part) return spelling.about(part.money);
      if ("share" in part) return `${formatShare(part.share)} of ${part.of}`;
      return part.ratio.toFixed(2);
    })
    .join("");
}
