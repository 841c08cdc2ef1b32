import { isCurrency, readAmountWords } from "./money-words";

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

export type MoneyFault = "empty" | "unreadable" | "negative" | "absurd" | "unknown-currency";

export type ParsedMoney = { ok: true; mills: Mills; currency: string | null } | { ok: false; fault: MoneyFault };

const PLAIN = /^\d+(?:\.\d{1,6})?$/;
const USUAL = /^(\d+(?:\.\d{1,2})?) ([A-Z]{3})$/;
/** Digits with what groups and parts them. */
const DIGITS = /\d(?:[\d.,'’\s\u00a0\u202f]*\d)?/g;
/** Shares of tax, and the dashes that stand for no cents, as in `12,-`; the amount is beside them. */
const SHARES = /\d{1,2}(?:[.,]\d{1,2})?\s*%/g;
const NO_CENTS = /(\d)[.,]\s?[-–—]{1,2}(?!\d)/;
const NOTHING: ReadonlySet<string> = new Set();

/** The decimal mark of amounts, or "auto" to tell it from each amount. */
export type DecimalMark = "auto" | "." | ",";

/**
 * Reads an amount of money as feeds write it: `12.90`, `1,234.56 EUR`, `€ 1.234,56`, `CHF 12`, `1 234,5`, `12,-`,
 * `ab 12,90 € inkl. 19 % MwSt.`, `12.90€/Stk`. Which separator is the decimal one is told by `decimalPosition`, or by
 * `mark` where the feed's own is known.
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
  const trimmed = text.trim();
  if (trimmed === "") return { ok: false, fault: "empty" };
  const plain = trimmed.replace(SHARES, " ").replace(NO_CENTS, "$1");
  const [digits, another] = plain.match(DIGITS) ?? [];
  // Of two amounts neither is known to be the one.
  if (digits === undefined || another !== undefined) return { ok: false, fault: "unreadable" };
  const at = plain.indexOf(digits);
  const [before, after] = [plain.slice(0, at), plain.slice(at + digits.length)];
  const value = parseDigits(digits, mark);
  if (value === null || /^\s*[-−]\s*$/.test(after)) return { ok: false, fault: "unreadable" };
  const { currency, unknown } = readAmountWords(`${before} ${after}`, ignored);
  if (unknown.length > 0) return { ok: false, fault: isCode(unknown, trimmed) ? "unknown-currency" : "unreadable" };
  if (/[-−]\s*(?:\p{Sc}\s*)?$/u.test(before) && value !== 0) return { ok: false, fault: "negative" };
  return bounded(value, currency, largest);
}

/** Whether the one word that is not known is written as a currency's code would be. */
function isCode(unknown: string[], text: string): boolean {
  const code = unknown.length === 1 ? unknown[0]!.toUpperCase() : "";
  return /^[A-Z]{3}$/.test(code) && text.includes(code);
}

/** An amount's way of being written, by which alike ones are counted together: `VK 12,90 netto` is `VK 9,9 netto`. */
export function moneyForm(text: string): string {
  return text.trim().replace(/\d+/g, "9").replace(/\s+/g, " ").slice(0, 60);
}

/** The words of an amount that keep it from being read, and whether it would be read without them. */
export function wordsInTheWay(text: string, mark: DecimalMark): string[] {
  const { unknown } = readAmountWords(text.replace(SHARES, " "), NOTHING);
  return parseMoney(text, mark, LARGEST_PRICE, new Set(unknown)).ok ? unknown : [];
}

function bounded(units: number, currency: string | null, largest: number): ParsedMoney {
  if (units * MILLS_PER_UNIT > largest) return { ok: false, fault: "absurd" };
  return { ok: true, mills: fromUnits(units), currency };
}

const WHOLE = /^\d+$|^\d{1,3}([.,])\d{3}(?:\1\d{3})*$/;

function parseDigits(digits: string, mark: DecimalMark): number | null {
  const compact = digits.replace(/[\s\u00a0\u202f'’]/g, "");
  const at = mark === "auto" ? decimalPosition(compact) : compact.lastIndexOf(mark);
  const whole = at < 0 ? compact : compact.slice(0, at);
  const fraction = at < 0 ? "" : compact.slice(at + 1);
  if (!WHOLE.test(whole) || !/^\d*$/.test(fraction)) return null;
  return Number(`${whole.replace(/[.,]/g, "")}.${fraction || "0"}`);
}

/**
 * Where the decimal separator stands, or -1 when every separator groups thousands. With both marks the later one is
 * decimal. A mark that repeats groups. A single dot is decimal, as machines write it; a single comma is decimal too
 * unless exactly three digits follow ("1,234").
 */
function decimalPosition(text: string): number {
  const lastDot = text.lastIndexOf(".");
  const lastComma = text.lastIndexOf(",");
  if (lastDot >= 0 && lastComma >= 0) return Math.max(lastDot, lastComma);
  const at = Math.max(lastDot, lastComma);
  if (at < 0 || text.indexOf(text[at]!) !== at) return -1;
  return lastComma === at && text.length - at - 1 === 3 ? -1 : at;
}

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

/** Mills as text without decimals from 100 units up, for headlines and strips. */
export function formatMoneyShort(amount: number, currency: string): string {
  return formatter(currency, Math.abs(amount) >= 100 * MILLS_PER_UNIT ? 0 : 2).format(amount / MILLS_PER_UNIT);
}

/** Mills as text in whole units, for estimates. */
export function formatMoneyRound(amount: number, currency: string): string {
  return formatter(currency, 0).format(amount / MILLS_PER_UNIT);
}

/** Mills as a plain decimal such as `12.90` or `0.355`, for files and input fields. */
export function millsToDecimal(amount: number): string {
  const text = (amount / MILLS_PER_UNIT).toFixed(3);
  return text.endsWith("0") ? text.slice(0, -1) : text;
}
