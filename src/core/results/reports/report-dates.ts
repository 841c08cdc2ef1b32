import { dayAt, parseDay, type Day } from "../../kit/days";
import type { DATE_ORDERS } from "./report-kinds";

export type DateOrder = (typeof DATE_ORDERS)[number];

/** Beginnings of month names in the languages that exports come in: English, German, French, Spanish, Italian, Dutch. */
const MONTHS: string[][] = [
  ["jan", "gen", "ene"],
  ["feb", "fév", "fev"],
  ["mar", "mär", "maer", "mrz", "maa", "mrt"],
  ["apr", "avr", "abr"],
  ["may", "mai", "mei", "mag"],
  ["jun", "juin", "giu"],
  ["jul", "juil", "lug"],
  ["aug", "aoû", "aou", "ago"],
  ["sep", "set"],
  ["oct", "okt", "ott"],
  ["nov"],
  ["dec", "dez", "déc", "dic"],
];

function monthOf(name: string): number | null {
  const lower = name.toLowerCase();
  // "juin" and "juil" begin alike, so the longest beginning decides.
  let found: { month: number; length: number } | null = null;
  MONTHS.forEach((begins, i) => {
    for (const begin of begins) {
      if (lower.startsWith(begin) && begin.length > (found?.length ?? 0))
        found = { month: i + 1, length: begin.length };
    }
  });
  return (found as { month: number } | null)?.month ?? null;
}

function dayOf(year: number, month: number, day: number): Day | null {
  const full = year < 100 ? year + 2000 : year;
  const text = `${String(full).padStart(4, "0")}-${String(month).padStart(2, "0")}-${String(day).padStart(2, "0")}`;
  try {
    return parseDay(text);
  } catch {
    return null;
  }
}

const WITH_ZONE = /^\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}(?::\d{2}(?:\.\d+)?)?\s?(?:Z|UTC|[+-]\d{2}:?\d{2})$/i;
const YEAR_FIRST = /^(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})(?:[T ,].*)?$/;
const COMPACT = /^(20\d{2})(\d{2})(\d{2})$/;
const SHORT = /^(\d{1,2})[-/.](\d{1,2})[-/.](\d{4}|\d{2})(?:[T ,].*)?$/;
const DAY_NAMED =
  /^(?:[\p{L}.]+,?\s+)?(\d{1,2})(?:st|nd|rd|th|\.|er|º)?[\s-]+(?:de\s+)?([\p{L}]{3,})\.?,?[\s-]+(?:de\s+)?(\d{4}|\d{2})(?:\s.*)?$/u;
const MONTH_NAMED = /^(?:[\p{L}.]+,\s+)?([\p{L}]{3,})\.?[\s-]+(\d{1,2})(?:st|nd|rd|th)?,?[\s-]+(\d{4})(?:\s.*)?$/u;
const SERIAL = /^(\d{5})(?:\.\d+)?$/;
const SECONDS = /^1\d{9}$/;
const MILLISECONDS = /^1\d{12}$/;

/** Days from 1899-12-30, from which spreadsheets count, to 1970-01-01. */
const SERIAL_OFFSET = 25_569;
/** Serial numbers of 2000 to 2099. */
const SERIALS = [36_526, 73_050] as const;

/**
 * Reads a calendar day as reports write it: 2026-03-04, 20260304, 4.3.2026, 3/4/26, 4 Mar 2026, March 4, 2026, a
 * spreadsheet's serial number, seconds since 1970, or a time with its zone, which is turned into the workspace's day.
 * @param order which comes first where a date has two short numbers
 * @returns null when it is no calendar day, as "March 2026" or "week 12"
 */
export function readDay(text: string, order: DateOrder, timeZone: string): Day | null {
  const trimmed = text.trim();
  if (WITH_ZONE.test(trimmed)) {
    const instant = Date.parse(
      trimmed
        .replace(" ", "T")
        .replace(/\s?utc$/i, "Z")
        .replace(/T(.*) ([+-])/, "T$1$2"),
    );
    return Number.isNaN(instant) ? null : dayAt(instant, timeZone);
  }
  let found = YEAR_FIRST.exec(trimmed) ?? COMPACT.exec(trimmed);
  if (found) return dayOf(Number(found[1]), Number(found[2]), Number(found[3]));
  found = SHORT.exec(trimmed);
  if (found) {
    const [first, second] = [Number(found[1]), Number(found[2])];
    const [day, month] = order === "day-month" ? [first, second] : [second, first];
    return dayOf(Number(found[3]), month, day);
  }
  found = DAY_NAMED.exec(trimmed);
  if (found) {
    const month = monthOf(found[2]!);
    return month === null ? null : dayOf(Number(found[3]), month, Number(found[1]));
  }
  found = MONTH_NAMED.exec(trimmed);
  if (found) {
    const month = monthOf(found[1]!);
    return month === null ? null : dayOf(Number(found[3]), month, Number(found[2]));
  }
  if (MILLISECONDS.test(trimmed)) return dayAt(Number(trimmed), timeZone);
  if (SECONDS.test(trimmed)) return dayAt(Number(trimmed) * 1000, timeZone);
  found = SERIAL.exec(trimmed);
  if (found && Number(found[1]) >= SERIALS[0] && Number(found[1]) <= SERIALS[1]) {
    return Number(found[1]) - SERIAL_OFFSET;
  }
  return null;
}

/** Which of two short numbers is the day: told by a number above 12, or by a step that only one order makes. */
export function detectDateOrder(samples: string[]): { order: DateOrder; isSure: boolean } {
  let dayFirst = 0;
  let monthFirst = 0;
  let hasShort = false;
  for (const text of samples) {
    const found = SHORT.exec(text.trim());
    if (!found) continue;
    hasShort = true;
    if (Number(found[1]) > 12) dayFirst++;
    if (Number(found[2]) > 12) monthFirst++;
  }
  if (dayFirst !== monthFirst) return { order: dayFirst > monthFirst ? "day-month" : "month-day", isSure: true };
  if (!hasShort) return { order: "day-month", isSure: true };
  // Days of a report stand close together: the order that spans fewer days is the likelier.
  const spanOf = (order: DateOrder) => {
    const days = samples.map((text) => readDay(text, order, "UTC")).filter((day) => day !== null);
    return Math.max(...days) - Math.min(...days);
  };
  const [a, b] = [spanOf("day-month"), spanOf("month-day")];
  if (a !== b) return { order: a < b ? "day-month" : "month-day", isSure: Math.max(a, b) > 3 * Math.min(a, b) };
  return { order: samples.some((text) => text.includes("/")) ? "month-day" : "day-month", isSure: false };
}

/** Hour of the day as reports write it: `14`, `14:00`, `2 PM`, `14-15`, or a time of day. Null when it is none. */
export function readHour(text: string): number | null {
  const trimmed = text.trim().toLowerCase();
  const found =
    /^(\d{1,2})(?:[:.h]\d{2}(?::\d{2})?)?\s*(am|pm|uhr|h)?(?:\s*[-–].*)?$/.exec(trimmed) ??
    /^\d{4}-\d{2}-\d{2}[t ](\d{2}):\d{2}(?::\d{2})?()$/.exec(trimmed);
  if (!found) return null;
  let hour = Number(found[1]);
  if (found[2] === "pm" && hour < 12) hour += 12;
  if (found[2] === "am" && hour === 12) hour = 0;
  return hour >= 0 && hour <= 23 ? hour : null;
}
