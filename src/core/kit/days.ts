/** A calendar day as the count of days since 1970-01-01, in the workspace's own time zone. */
export type Day = number;

const MS_PER_DAY = 86_400_000;

/** `YYYY-MM-DD` to a day number. @throws RangeError when the text is no calendar day. */
export function parseDay(text: string): Day {
  const found = /^(\d{4})-(\d{2})-(\d{2})$/.exec(text);
  const time = found ? Date.UTC(Number(found[1]), Number(found[2]) - 1, Number(found[3])) : NaN;
  const day = time / MS_PER_DAY;
  if (!Number.isInteger(day) || formatDay(day) !== text) throw new RangeError(`not a calendar day: ${text}`);
  return day;
}

/** A day number as `YYYY-MM-DD`. */
export function formatDay(day: Day): string {
  return new Date(day * MS_PER_DAY).toISOString().slice(0, 10);
}

/** A day number as a short label such as `29 Oct`. */
export function dayLabel(day: Day): string {
  return new Date(day * MS_PER_DAY).toLocaleDateString("en-GB", { day: "numeric", month: "short", timeZone: "UTC" });
}

/** 0 = Monday … 6 = Sunday. */
export function weekday(day: Day): number {
  return (((day + 3) % 7) + 7) % 7;
}

/** The day of the year, 0 to 365; used for seasons. */
export function dayOfYear(day: Day): number {
  const year = new Date(day * MS_PER_DAY).getUTCFullYear();
  return day - Date.UTC(year, 0, 1) / MS_PER_DAY;
}

/** Months since year 0, so that days of one month have the same number. */
export function monthOf(day: Day): number {
  const date = new Date(day * MS_PER_DAY);
  return date.getUTCFullYear() * 12 + date.getUTCMonth();
}

/** The same date a year earlier; 29 February becomes 1 March. */
export function yearBefore(day: Day): Day {
  const date = new Date(day * MS_PER_DAY);
  return Date.UTC(date.getUTCFullYear() - 1, date.getUTCMonth(), date.getUTCDate()) / MS_PER_DAY;
}

/** The calendar day at an instant (ms since 1970) in an IANA time zone. */
export function dayAt(instant: number, timeZone: string): Day {
  const text = new Intl.DateTimeFormat("en-CA", { timeZone, year: "numeric", month: "2-digit", day: "2-digit" }).format(
    instant,
  );
  return parseDay(text);
}

/** A span of days, both ends included. */
export interface Window {
  from: Day;
  to: Day;
}

/** The calendar month that a day lies in. */
export function monthAround(day: Day): Window {
  const date = new Date(day * MS_PER_DAY);
  const first = (months: number) => Date.UTC(date.getUTCFullYear(), date.getUTCMonth() + months, 1) / MS_PER_DAY;
  return { from: first(0), to: first(1) - 1 };
}

/** The last `length` days ending on `to`. */
export function windowEnding(to: Day, length: number): Window {
  return { from: to - length + 1, to };
}

/** The span of the same length just before. */
export function windowBefore(window: Window): Window {
  return windowEnding(window.from - 1, windowLength(window));
}

/** How many days a window has; at least one when `from <= to`. */
export function windowLength(window: Window): number {
  return window.to - window.from + 1;
}
