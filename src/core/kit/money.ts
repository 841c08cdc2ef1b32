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

const SYMBOLS: Record<string, string> = { "€": "EUR", $: "USD", "£": "GBP", "¥": "JPY", zł: "PLN" };

/** ISO 4217 codes this runtime knows, from the standard library's own table. */
const KNOWN_CURRENCIES = new Set(Intl.supportedValuesOf("currency"));

/** Whether a text is the ISO 4217 code of a currency. */
export function isCurrency(code: string): boolean {
  return KNOWN_CURRENCIES.has(code);
}

const PLAIN = /^\d+(?:\.\d{1,6})?$/;
const USUAL = /^(\d+(?:\.\d{1,2})?) ([A-Z]{3})$/;
const AMOUNT_IN_TEXT = /^([^\d,.'+-]*)\s*([-+]?)\s*(\d[\d.,'\s\u00a0\u202f]*)\s*([^\d]*)$/;

/** The decimal mark of amounts, or "auto" to tell it from each amount. */
export type DecimalMark = "auto" | "." | ",";

/**
 * Reads an amount of money as feeds write it: `12.90`, `1,234.56 EUR`, `€ 1.234,56`, `CHF 12`, `1 234,5`.
 * Which separator is the decimal one is told by `decimalPosition`, or by `mark` where the feed's own is known.
 * @param largest mills above which an amount is absurd: that of a price, or more where sums are read
 * @returns mills and the ISO currency when the text names one, or the fault that kept it from being read.
 */
export function parseMoney(text: string, mark: DecimalMark = "auto", largest = LARGEST_PRICE): ParsedMoney {
  if (mark !== "," && PLAIN.test(text)) return bounded(Number(text), null, largest);
  // How most feeds write it, such as "12.90 EUR": read without the general way's many steps.
  const usual = mark === "," ? null : USUAL.exec(text);
  if (usual && KNOWN_CURRENCIES.has(usual[2]!)) return bounded(Number(usual[1]), usual[2]!, largest);
  const trimmed = text.trim();
  if (trimmed === "") return { ok: false, fault: "empty" };
  const found = AMOUNT_IN_TEXT.exec(trimmed);
  if (!found) return { ok: false, fault: "unreadable" };
  const [, before = "", sign, digits = "", after = ""] = found;
  const value = parseDigits(digits.trim(), mark);
  if (value === null) return { ok: false, fault: "unreadable" };
  const minus = sign === "-" || before.trim().endsWith("-");
  const word = (before.replace(/[-\s]/g, "") || after.trim()).trim();
  let currency: string | null = null;
  if (word !== "") {
    currency = SYMBOLS[word.toLowerCase()] ?? word.toUpperCase();
    if (!KNOWN_CURRENCIES.has(currency)) return { ok: false, fault: "unknown-currency" };
  }
  if (minus && value !== 0) return { ok: false, fault: "negative" };
  return bounded(value, currency, largest);
}

function bounded(units: number, currency: string | null, largest: number): ParsedMoney {
  if (units * MILLS_PER_UNIT > largest) return { ok: false, fault: "absurd" };
  return { ok: true, mills: fromUnits(units), currency };
}

const WHOLE = /^\d+$|^\d{1,3}([.,])\d{3}(?:\1\d{3})*$/;

function parseDigits(digits: string, mark: DecimalMark): number | null {
  const compact = digits.replace(/[\s\u00a0\u202f']/g, "");
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
