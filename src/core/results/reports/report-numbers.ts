import { parseMoney } from "../../kit/money";
import { isCurrency } from "../../kit/money-words";
import type { ReportMapping } from "./report-kinds";

/** What stands for nothing. */
const NOTHING = new Set(["", "-", "–", "—", "--", "n/a", "na", "null", "none", "nan", "(not set)"]);

export type ReadNumber = { ok: true; value: number; currency: string | null } | { ok: false };

/**
 * Mills that a sum in a report can come to: a hundred billion units, as a month in a small currency does. Beyond it sums
 * of many rows would lose their last mills.
 */
const LARGEST_AMOUNT = 1e14;

/** Parts a minus from an amount: "-12", "12-", "−12", "(12.30)". */
function signed(text: string): { sign: number; rest: string } {
  const trimmed = text.trim();
  const brackets = /^\((.*)\)$/.exec(trimmed);
  if (brackets) return { sign: -1, rest: brackets[1]! };
  if (/^[-−]/.test(trimmed)) return { sign: -1, rest: trimmed.slice(1) };
  if (/^\D+[-−]\s?\d/.test(trimmed)) return { sign: -1, rest: trimmed.replace(/[-−]\s?/, "") };
  return /[-−]$/.test(trimmed) ? { sign: -1, rest: trimmed.slice(0, -1) } : { sign: 1, rest: trimmed };
}

/** Reads an amount of money in mills; empty cells are nought, corrections can be below it. */
export function readAmount(text: string, decimal: ReportMapping["decimal"]): ReadNumber {
  if (NOTHING.has(text.trim().toLowerCase())) return { ok: true, value: 0, currency: null };
  const { sign, rest } = signed(text);
  const found = parseMoney(rest, decimal, LARGEST_AMOUNT);
  if (!found.ok) return { ok: false };
  return { ok: true, value: found.mills === 0 ? 0 : sign * found.mills, currency: found.currency };
}

/**
 * Reads a count: `1,234`, `1.234`, `12`, `3.0`. A fraction is kept, since some reports share orders out; a percentage is
 * no count.
 */
export function readCounted(text: string, decimal: ReportMapping["decimal"]): ReadNumber {
  if (NOTHING.has(text.trim().toLowerCase())) return { ok: true, value: 0, currency: null };
  const { sign, rest } = signed(text);
  const found = /^[\d.,'\s\u00a0\u202f]+$/.test(rest)
    ? parseMoney(rest, decimal, LARGEST_AMOUNT)
    : { ok: false as const };
  if (!found.ok) return { ok: false };
  const value = found.mills / 1000;
  return { ok: true, value: value === 0 ? 0 : sign * value, currency: null };
}

/** The decimal mark of a report's amounts, told by amounts that can be read only one way; a dot when nothing tells. */
export function detectDecimalMark(samples: string[]): ReportMapping["decimal"] {
  let comma = 0;
  let dot = 0;
  for (const text of samples) {
    const digits = text.replace(/[^\d.,]/g, "");
    if (/^\d{1,3}(?:\.\d{3})+,\d+$|^\d+,\d{1,2}$|^\d+,\d{4,}$/.test(digits)) comma++;
    if (/^\d{1,3}(?:,\d{3})+\.\d+$|^\d+\.\d{1,2}$|^\d+\.\d{4,}$/.test(digits)) dot++;
  }
  return comma > dot ? "," : ".";
}

/** The currency that a heading or cell names, such as "Cost (USD)" or "€ 12.30"; null when it names none. */
export function currencyIn(text: string): string | null {
  const code = /\b([A-Z]{3})\b/.exec(text)?.[1];
  if (code && isCurrency(code)) return code;
  const symbol = /[€$£¥]|zł/.exec(text)?.[0];
  return symbol ? ({ "€": "EUR", $: "USD", "£": "GBP", "¥": "JPY", zł: "PLN" }[symbol] ?? null) : null;
}
