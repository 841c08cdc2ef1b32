import { plainText, readDigits, readMarked, type DecimalMark } from "./digits";
import { isCurrency, isSignOf, readAmountWords, saysNothing } from "./money-words";

export type { DecimalMark };

/** An amount of money: a whole number of mills, 1/1000 of the currency unit. */
export type Mills = number & { readonly __unit: "mills" };

export const MILLS_PER_UNIT = 1000;

/** Amounts above this are taken for a mistake: 10 million currency units. */
export const LARGEST_PRICE = 10_000_000 * MILLS_PER_UNIT;

/** Brands a whole number as mills. Rounds half away from zero so that a sum and its negation agree. */
export function mills(value: number): Mills {
  return (Math.sign(value) * Math.round(Math.abs(value))) as Mills;
}

/** Currency units (for example euros) to mills. */
export function fromUnits(units: number): Mills {
  return mills(units * MILLS_PER_UNIT);
}

/** Mills to currency units; for charts and exports, never for sums. */
export function toUnits(amount: number): number {
  return amount / MILLS_PER_UNIT;
}

export type MoneyFault = "empty" | "unreadable" | "open" | "negative" | "absurd" | "unknown-currency";

export type ParsedMoney =
  /** `sign` is the sign that named the currency where it stands for several, such as `$`. */
  { ok: true; mills: Mills; currency: string | null; sign?: string } | { ok: false; fault: MoneyFault };

const PLAIN = /^\d+(?:\.\d{1,2})?$/;
const USUAL = /^(\d+(?:\.\d{1,2})?) ([A-Z]{3})$/;
/** Digits with what groups and parts them; a mark before the first belongs to them where no word ends there. */
const DIGITS = /(?:(?<![\p{L}\d])[.,\u066b](?=\d)|\d)(?:[\d.,'\u066b ]*\d)?(?:[eE][+-]?\d{1,3}(?![\p{L}\d]))?/gu;
/** A number as programs write large and small ones. */
const POWER = /^(\d+)(?:[.,](\d+))?e([+-]?\d{1,3})$/i;
/** Shares of tax, and the dashes that stand for no cents, as in `12,-`; the amount is beside them. */
const SHARES = /\d{1,2}(?:[.,]\d{1,2})?\s*%/g;
const NO_CENTS = /(\d)[.,]\s?-{1,2}(?!\d)/;
const NOTHING: ReadonlySet<string> = new Set();

/**
 * Reads an amount of money as feeds write it: `12.90`, `1,234.56 EUR`, `€ 1.234,56`, `CHF 12`, `1 234,5`, `,99 €`, `12,-`,
 * `ab 12,90 € inkl. 19 % MwSt.`, `12.90€/Stk`, `1.5e1`, with the digits of any script. No amount is guessed: what can be
 * read as two amounts is "open" until `mark` says which, and what fits neither is unreadable; see `digits.ts`.
 * @param mark the decimal mark where the feed's own is known
 * @param largest mills above which an amount is absurd: that of a price, or more where sums are read
 * @param ignored words beside amounts that say nothing in this feed, in lower case
 * @returns mills and the ISO currency when the text names one, or the fault that kept it from being read.
 */
export function parseMoney(
  text: string,
  mark: DecimalMark = "auto",
  largest = LARGEST_PRICE,
  ignored: ReadonlySet<string> = NOTHING,
): ParsedMoney {
  if (mark !== "," && PLAIN.test(text)) return bounded(Number(text), null, largest);
  // How most feeds write it, such as "12.90 EUR": read without the general way's many steps.
  const usual = mark === "," ? null : USUAL.exec(text);
  if (usual && isCurrency(usual[2]!)) return bounded(Number(usual[1]), usual[2]!, largest);
  const trimmed = plainText(text);
  if (trimmed === "") return { ok: false, fault: "empty" };
  const plain = trimmed.replace(SHARES, " ").replace(NO_CENTS, "$1");
  const [digits, another] = plain.match(DIGITS) ?? [];
  // Of two amounts neither is known to be the one.
  if (digits === undefined || another !== undefined) return { ok: false, fault: "unreadable" };
  const at = plain.indexOf(digits);
  const [before, after] = [plain.slice(0, at), plain.slice(at + digits.length)];
  if (isBelowNothing(before, after)) return { ok: false, fault: /[1-9]/.test(digits) ? "negative" : "unreadable" };
  if (/^\s*-\s*$/.test(after)) return { ok: false, fault: "unreadable" };
  // "USD.90" can be ninety cents, or ninety after a point that ends the word.
  if (/[A-Z]{3}\.$/.test(before) && /^\d{1,2}$/.test(digits)) return { ok: false, fault: "open" };
  const value = valueOf(digits, mark);
  if (typeof value === "string") return { ok: false, fault: value };
  const { currency, sign, unknown } = readAmountWords(`${before} ${after}`, ignored);
  if (unknown.length > 0) return { ok: false, fault: isCode(unknown, trimmed) ? "unknown-currency" : "unreadable" };
  return bounded(value, currency, largest, sign);
}

/** Whether a minus, or the brackets of book-keepers, stand around digits. A dash within a word, or before one such as "from", is none. */
function isBelowNothing(before: string, after: string): boolean {
  const minus = /(^|.)-([^-]*)$/su.exec(before);
  const [, lead = "", rest = ""] = minus ?? [];
  if (minus && (rest.trim() === "" || (!/[\p{L}\p{N}]/u.test(lead) && !saysNothing(rest)))) return true;
  return before.lastIndexOf("(") > before.lastIndexOf(")") && after.includes(")");
}

function valueOf(digits: string, mark: DecimalMark): number | "unreadable" | "open" {
  const power = POWER.exec(digits);
  if (power) return Number(`${power[1]}.${power[2] ?? "0"}e${power[3]}`);
  if (mark !== "auto") return readMarked(digits, mark) ?? "unreadable";
  const read = readDigits(digits);
  return read.kind === "sure" ? read.value : read.kind === "open" ? "open" : "unreadable";
}

/**
 * Reads an amount where one of two ways of reading is the likelier, as in a file of our own that somebody may have changed.
 * @param preferred the decimal mark where an amount by itself does not tell
 */
export function parseMoneyBy(text: string, preferred: "." | ","): ParsedMoney {
  const parsed = parseMoney(text);
  return !parsed.ok && parsed.fault === "open" ? parseMoney(text, preferred) : parsed;
}

/** Whether an amount is of a currency, or says none. A sign that stands for several stands for the one that is asked for. */
export function isOf(parsed: { currency: string | null; sign?: string }, currency: string): boolean {
  return parsed.currency === null || parsed.currency === currency || isSignOf(parsed.sign, currency);
}

/** Whether the one word that is not known is written as a currency's code would be. */
function isCode(unknown: string[], text: string): boolean {
  const code = unknown.length === 1 ? unknown[0]!.toUpperCase() : "";
  return /^[A-Z]{3}$/.test(code) && text.includes(code);
}

/** An amount's way of being written, by which alike ones are counted together: `VK 12,90 netto` is `VK 9,9 netto`. */
export function moneyForm(text: string): string {
  return text
    .trim()
    .replace(/\p{Nd}+/gu, "9")
    .replace(/\s+/g, " ")
    .slice(0, 60);
}

/** The words of an amount that keep it from being read, and whether it would be read without them. */
export function wordsInTheWay(text: string, mark: DecimalMark): string[] {
  const { unknown } = readAmountWords(plainText(text).replace(SHARES, " "), NOTHING);
  return unknown.length > 0 && parseMoney(text, mark, LARGEST_PRICE, new Set(unknown)).ok ? unknown : [];
}

function bounded(units: number, currency: string | null, largest: number, sign?: string): ParsedMoney {
  if (!Number.isFinite(units) || units * MILLS_PER_UNIT > largest) return { ok: false, fault: "absurd" };
  const amount = fromUnits(units);
  // Parts of a cent that mills can't hold would change the amount by a share that shows.
  if (units > 0 && Math.abs(amount / MILLS_PER_UNIT / units - 1) > LEAST_SHARE)
    return { ok: false, fault: "unreadable" };
  return { ok: true, mills: amount, currency, ...(sign ? { sign } : {}) };
}

/** How much an amount may change by being kept in mills: dust of binary fractions, and thousandths of a cent of dear things. */
const LEAST_SHARE = 0.0005;

const formatters = new Map<string, Intl.NumberFormat>();

function formatter(currency: string, digits: number): Intl.NumberFormat {
  const key = `${currency}/${digits}`;
  let found = formatters.get(key);
  if (!found) {
    found = new Intl.NumberFormat("en-IE", {
      style: "currency",
      currency,
      minimumFractionDigits: digits,
      maximumFractionDigits: digits,
    });
    formatters.set(key, found);
  }
  return found;
}

/** Mills as text with the currency's symbol and two decimals, for example `€12.90`. */
export function formatMoney(amount: number, currency: string): string {
  return formatter(currency, 2).format(amount / MILLS_PER_UNIT);
}

/** A change of money with its sign, for example `+€1.20` or `−€0.30`. */
export function formatChange(amount: number, currency: string): string {
  return `${amount < 0 ? "−" : "+"}${formatMoney(Math.abs(amount), currency)}`;
}

/** Mills as text without decimals from 100 units up, for headlines and strips. */
export function formatMoneyShort(amount: number, currency: string): string {
  return formatter(currency, Math.abs(amount) >= 100 * MILLS_PER_UNIT ? 0 : 2).format(amount / MILLS_PER_UNIT);
}

/** Mills as text in whole units, for estimates. */
export function formatMoneyRound(amount: number, currency: string): string {
  return formatter(currency, 0).format(amount / MILLS_PER_UNIT);
}

/** Mills as a plain decimal such as `12.90` or `0.355`, for files, whose decimal mark is known. */
export function millsToDecimal(amount: number): string {
  const text = (amount / MILLS_PER_UNIT).toFixed(3);
  return text.endsWith("0") ? text.slice(0, -1) : text;
}

/**
 * Mills as they stand in an input field: read back by {@link parseMoney} as what they are. A fourth decimal tells `1.1250` from
 * eleven hundred and twenty-five, as which `1.125` could be meant.
 */
export function millsToField(amount: number): string {
  const text = millsToDecimal(amount);
  return /\.\d{3}$/.test(text) ? `${text}0` : text;
}

/** Mills rounded to a whole cent, which is how bids are thought of. */
export function wholeCents(mills: number): number {
  return 10 * Math.round(mills / 10);
}
