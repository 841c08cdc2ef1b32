import { formatDay, parseDay } from "./days";

const MONTHS = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];

/** A month as people name it: its English name or at least three letters of it. */
function monthOf(name: string): number | null {
  const at = MONTHS.indexOf(name.slice(0, 3).toLowerCase());
  return at < 0 ? null : at + 1;
}

/** A day of the calendar as `YYYY-MM-DD`, or null for one that there is not. */
function dayOf(year: number, month: number, day: number): string | null {
  const text = `${year}-${String(month).padStart(2, "0")}-${String(day).padStart(2, "0")}`;
  try {
    parseDay(text);
    return text;
  } catch {
    return null;
  }
}

/** Of the years around it the one in which a day of the month lies nearest to `near`. */
function nearestYear(month: number, day: number, near: string): string | null {
  const year = Number(near.slice(0, 4));
  const found = [year - 1, year, year + 1].flatMap((one) => dayOf(one, month, day) ?? []);
  const distance = (one: string) => Math.abs(parseDay(one) - parseDay(near));
  return found.sort((a, b) => distance(a) - distance(b))[0] ?? null;
}

/**
 * The day that somebody typed: `2026-10-29`, `29 Oct 2026`, `Oct 29`, `29.10.2026`, `29.10.`, or `29/10/2026` where that
 * can be read in one way only. Without a year it is the one nearest to `near`.
 * @param near `YYYY-MM-DD`
 * @returns `YYYY-MM-DD`; null for what is no day, and for what can be read as two
 */
export function readTypedDay(text: string, near: string): string | null {
  const typed = text.trim().replace(/\s+/g, " ");
  const iso = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(typed);
  if (iso) return dayOf(Number(iso[1]), Number(iso[2]), Number(iso[3]));
  const named =
    /^(?<day>\d{1,2})\.? ?(?<month>[a-z]{3,9})\.?,?(?: (?<year>\d{4}))?$/i.exec(typed) ??
    /^(?<month>[a-z]{3,9})\.? (?<day>\d{1,2}),?(?: (?<year>\d{4}))?$/i.exec(typed);
  if (named?.groups) {
    const month = monthOf(named.groups["month"]!);
    return month === null ? null : inYear(named.groups["year"], month, Number(named.groups["day"]), near);
  }
  const dotted = /^(\d{1,2})\. ?(\d{1,2})\.?(?: ?(\d{4}))?$/.exec(typed);
  if (dotted) return inYear(dotted[3], Number(dotted[2]), Number(dotted[1]), near);
  const slashed = /^(\d{1,2})\/(\d{1,2})\/(\d{4})$/.exec(typed);
  if (!slashed) return null;
  const [a, b, year] = [Number(slashed[1]), Number(slashed[2]), Number(slashed[3])];
  const ways = new Set([dayOf(year, b, a), dayOf(year, a, b)].filter((one) => one !== null));
  return ways.size === 1 ? [...ways][0]! : null;
}

function inYear(year: string | undefined, month: number, day: number, near: string): string | null {
  return year === undefined ? nearestYear(month, day, near) : dayOf(Number(year), month, day);
}

/** A day as people read it, with its year: `29 Oct 2026`. */
export function dayWithYear(iso: string): string {
  const date = new Date(`${iso}T00:00:00Z`);
  return date.toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric", timeZone: "UTC" });
}

/** The day of a date that a calendar shows in this machine's own time. */
export function dayOfDate(date: Date): string {
  return formatDay(Date.UTC(date.getFullYear(), date.getMonth(), date.getDate()) / 86_400_000);
}

/** A day as the date that a calendar of this machine shows. */
export function dateOfDay(iso: string): Date {
  const [year, month, day] = iso.split("-").map(Number) as [number, number, number];
  return new Date(year, month - 1, day);
}
