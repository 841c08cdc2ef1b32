import { isCurrency } from "../kit/money-words";
import { giveUp } from "../kit/outcome";
import type { GrowingColumns } from "./growing-columns";
import { LIMITS } from "./limits";

/** A value as a cell's text; null and values that say nothing become "". */
function scalarText(value: unknown): string {
  if (value === null || value === undefined) return "";
  // A null character would cut the text short wherever it is kept.
  if (typeof value === "string") return value.replaceAll("\u0000", "").trim();
  if (typeof value === "number") return Number.isFinite(value) ? numberText(value) : "";
  if (value instanceof Date) return Number.isNaN(value.getTime()) ? "" : isoText(value);
  if (value instanceof Uint8Array) return "";
  return String(value);
}

/** A number as text, without the dust that binary fractions leave: 12.899999999999999 was 12.9. */
export function numberText(value: number): string {
  return unmistakable(Number.isSafeInteger(value) ? String(value) : String(Number(value.toPrecision(15))));
}

/**
 * What a file gives as a number, written so that its point can't be taken for one that groups thousands: as the text 1.299
 * it could be both, as a number it is the one. A nought behind it changes nothing and says which.
 */
export function unmistakable(written: string): string {
  return /^-?\d{1,3}\.\d{3}$/.test(written) ? `${written}0` : written;
}

function isoText(date: Date): string {
  const text = date.toISOString();
  return text.endsWith("T00:00:00.000Z") ? text.slice(0, 10) : text;
}

/** Names, folded, under which an amount, how many of its digits are behind the point, and its currency are given. */
const AMOUNT_NAMES = new Set(["amount", "value", "centamount", "minoramount", "units"]);
const EXPONENT_NAMES = new Set(["exponent", "scale", "fractiondigits", "decimals", "decimalplaces", "precision"]);
const CURRENCY_NAMES = new Set(["currency", "currencycode", "code", "iso", "unit"]);

/**
 * An amount that is given in its smallest units with how many of them make a whole one, such as `{ amount: 1290, exponent: 2 }`,
 * as text: `12.90`; null for anything else.
 */
function minorAmount(value: object): string | null {
  const by = (names: ReadonlySet<string>) =>
    Object.entries(value).find(([name]) => names.has(name.toLowerCase().replace(/[^a-z]/g, "")))?.[1] as unknown;
  const amount = scalarText(by(AMOUNT_NAMES));
  const exponent = scalarText(by(EXPONENT_NAMES));
  if (!/^-?\d{1,15}$/.test(amount) || !/^-?[0-6]$/.test(exponent)) return null;
  const digits = Math.abs(Number(exponent));
  const [, sign, whole] = /^(-?)(\d+)$/.exec(amount)!;
  const padded = whole!.padStart(digits + 1, "0");
  const currency = scalarText(by(CURRENCY_NAMES)).toUpperCase();
  const point = padded.length - digits;
  const text = digits === 0 ? padded : `${padded.slice(0, point)}.${padded.slice(point)}`;
  return `${sign}${unmistakable(text)}${isCurrency(currency) ? ` ${currency}` : ""}`;
}

/**
 * Spreads a nested value over named cells: an inner object's fields are named with a dot (`offers.price`), the members
 * of a list share one name and are joined. So nothing nested or repeated is lost.
 */
export function flattenInto(columns: GrowingColumns, row: string[], value: unknown, name = "", depth = 0): void {
  if (depth > LIMITS.depth) {
    giveUp("feed-deep", `The feed nests deeper than ${LIMITS.depth} levels.`, "A product feed is flat.");
  }
  if (Array.isArray(value)) {
    for (const member of value) flattenInto(columns, row, member, name, depth + 1);
    return;
  }
  if (value !== null && typeof value === "object" && !(value instanceof Date) && !(value instanceof Uint8Array)) {
    const amount = name === "" ? null : minorAmount(value);
    if (amount !== null) columns.put(row, name, amount);
    for (const [key, inner] of Object.entries(value)) {
      flattenInto(columns, row, inner, name === "" ? key : `${name}.${key}`, depth + 1);
    }
    return;
  }
  const text = scalarText(value);
  if (text !== "") columns.put(row, name === "" ? "value" : name, text);
}
