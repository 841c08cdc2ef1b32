import { TZDate } from "@date-fns/tz";

/** The moment that a day and time of day, as `2026-11-30T06:00`, are in a time zone; NaN for what is none. */
export function momentIn(text: string, timeZone: string): number {
  const [year = NaN, month = NaN, day = NaN, hour = NaN, minute = NaN] = text.split(/\D/).map(Number);
  return new TZDate(year, month - 1, day, hour, minute, timeZone).getTime();
}
