/** Windows of days that every screen can look at, and the one that it looks at first. */
export const WINDOW_CHOICES = [7, 14, 30, 60, 90, 120] as const;
export const DEFAULT_DAYS = 30;

/** The window that an address asks for. */
export function daysOf(search: URLSearchParams): number {
  const asked = Number.parseInt(search.get("days") ?? "", 10);
  return Number.isNaN(asked) ? DEFAULT_DAYS : asked;
}

/** Rows of one page of a long list. */
export const PAGE_ROWS = 200;
