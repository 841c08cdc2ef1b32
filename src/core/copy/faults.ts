import { parseMoneyBy } from "../kit/money";
import { wordsOf } from "../kit/words";
import { amountsIn } from "./awkward";
import { otherLanguage, type Language } from "./languages";

/** Why a line or an ad is held back until somebody has looked. */
export const CAUSES = {
  shouting: "Words in capitals",
  signs: "Unusual signs",
  banned: "A word that is not to be used",
  language: "Another language",
  "other-price": "An amount that is not the item's",
  plenty: "Says how many are left, and that is many",
  same: "The same ad on too many ad groups",
  page: "Its page is missing, or another item's",
} as const;
export type Cause = keyof typeof CAUSES;

/** More than this left is no reason to hurry. */
export const PLENTY_LEFT = 20;

/** Signs that text is usually made of. */
const USUAL = /^[\p{L}\p{M}\p{N}\s.,:;'’‘"“”„«»()/&+%°€$£¥·|–—!?#@×²³½¼¾®™*_-]*$/u;
const REPEATED = /[!?]{2,}|[*_~=]{2,}|\.{4,}/;
const CAPITAL_WORD = /^\p{Lu}{4,}$/u;

/** Short words of capitals are names of materials and standards; two long ones side by side, or one of eight letters, shout. */
const LONG_CAPITALS = 8;

/** Whether a line shouts. */
export function isShouting(text: string): boolean {
  if (!/\p{Lu}{4}/u.test(text)) return false;
  const capitals = wordsOf(text).filter((word) => CAPITAL_WORD.test(word));
  return capitals.length > 1 || capitals.some((word) => word.length >= LONG_CAPITALS);
}

/** Whether a line has signs that text is not usually made of, or too many of one. */
export function hasOddSigns(text: string): boolean {
  return !USUAL.test(text) || REPEATED.test(text);
}

/** What lies in a text whatever the item. */
export interface LineProof {
  causes: readonly Cause[];
  /** Amounts of money that it names, in mills; NaN where only a person can tell. */
  amounts: readonly number[];
}

export interface FaultSettings {
  language: Language;
  banned: readonly string[];
}

/** Finds what to hold a text back for. */
export class FaultFinder {
  private readonly banned: RegExp | null;

  constructor(private readonly settings: FaultSettings) {
    const words = settings.banned.map((word) => word.trim().replace(/[.*+?^${}()|[\]\\/-]/g, "\\$&"));
    this.banned =
      words.length === 0 ? null : new RegExp(`(?<![\\p{L}\\p{N}])(?:${words.join("|")})(?![\\p{L}\\p{N}])`, "iu");
  }

  /** What lies in a text whatever the item. */
  inText(text: string): LineProof {
    const { language } = this.settings;
    const causes: Cause[] = [];
    if (isShouting(text)) causes.push("shouting");
    if (hasOddSigns(text)) causes.push("signs");
    if (this.banned?.test(text)) causes.push("banned");
    if (otherLanguage(text.toLowerCase().split(" "), language) !== null) causes.push("language");
    const amounts = amountsIn(text).map((amount) => {
      const parsed = parseMoneyBy(amount, language === "en" ? "." : ",");
      return parsed.ok ? parsed.mills : NaN;
    });
    return { causes: causes.length === 0 ? NONE : causes, amounts };
  }
}

const NONE: readonly Cause[] = [];

/**
 * Whether amounts that a text names are none of what the items cost or are reduced by.
 * @param named mills; NaN is written so that only a person can tell what it means
 * @param known mills that can truly be said
 */
export function namesOtherPrice(named: readonly number[], known: readonly number[]): boolean {
  return named.some((amount) => !known.some((one) => Math.abs(one - amount) < 10 || isRounded(one, amount)));
}

/** Whether an amount is another one without its cents: "from €12" for 12.90 says less than it costs, so only down to the unit. */
function isRounded(mills: number, said: number): boolean {
  return said % 1000 === 0 && Math.floor(mills / 1000) * 1000 === said;
}
