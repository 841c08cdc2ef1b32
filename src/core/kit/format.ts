import { METRICS, orderOf, valueOf, type MetricKey, type MetricKind, type Sums } from "./metrics";
import { formatMoney } from "./money";

/** Shown where a value does not exist. */
export const NO_VALUE = "–";

const whole = new Intl.NumberFormat("en-GB", { maximumFractionDigits: 0 });
const oneDigit = new Intl.NumberFormat("en-GB", { minimumFractionDigits: 1, maximumFractionDigits: 1 });
const twoDigits = new Intl.NumberFormat("en-GB", { minimumFractionDigits: 2, maximumFractionDigits: 2 });

/** A count with thousands marks. */
export function formatCount(value: number): string {
  return whole.format(value);
}

/** A share as percent with one decimal, for example `14.2 %`. */
export function formatShare(share: number | null): string {
  return share === null ? NO_VALUE : `${oneDigit.format(share * 100)} %`;
}

/** A gap in points with its sign, for example `+15.4` or `−23.2`. */
export function formatGap(gap: number | null): string {
  if (gap === null) return NO_VALUE;
  const points = Math.round(gap * 1000) / 10;
  return `${points > 0 ? "+" : points < 0 ? "−" : ""}${oneDigit.format(Math.abs(points))}`;
}

/** A value of a given kind as text; null as an en dash. */
export function formatKind(kind: MetricKind, value: number | null, currency: string): string {
  if (value === null || Number.isNaN(value)) return NO_VALUE;
  switch (kind) {
    case "count":
      // Orders can be shared out in parts; what is whole but for the last bit is whole.
      return Math.abs(value - Math.round(value)) < 1e-6 ? whole.format(value) : oneDigit.format(value);
    case "money":
      return formatMoney(value, currency);
    case "percent":
      return formatShare(value);
    case "ratio":
      return twoDigits.format(value);
  }
}

/** A metric's value as text, worked from nothing but its definition. */
export function formatMetric(key: MetricKey, value: number | null, currency: string): string {
  return formatKind(METRICS[key].kind, value, currency);
}

/** A metric of some sums as text: a dash where a report does not tell it, words where money bought nothing. */
export function formatOf(key: MetricKey, sums: Sums, missing: readonly (keyof Sums)[], currency: string): string {
  const value = valueOf(key, sums, missing);
  if (value === null && orderOf(key, sums, missing) !== null) return key === "cpo" ? "no orders" : "no sales";
  return formatMetric(key, value, currency);
}

/** `1 item`, `3 items`; an irregular plural may be given. */
export function plural(count: number, one: string, many = `${one}s`): string {
  return `${whole.format(count)} ${count === 1 ? one : many}`;
}

const moments = new Map<string, Intl.DateTimeFormat>();

/** A moment (milliseconds since 1970) as day and time in a time zone, for example `25 Nov 2026, 06:00`. */
export function formatMoment(at: number, timeZone: string): string {
  let found = moments.get(timeZone);
  if (!found) {
    found = new Intl.DateTimeFormat("en-GB", {
      timeZone,
      ...{ day: "numeric", month: "short", year: "numeric", hour: "2-digit", minute: "2-digit" },
    });
    moments.set(timeZone, found);
  }
  return found.format(at);
}
