import type { Asks } from "../../../_lib/first-answers";

/** Lines of one page of the log. */
export const PAGE = 100;

/** The path of a page of the log. */
export const logPath = (q: string, offset: number) =>
  `change-log?${new URLSearchParams({ q, offset: String(offset), limit: String(PAGE) })}`;

/** What the log asks first. */
export const asks: Asks = (search) => [logPath(search.get("q") ?? "", Number(search.get("from") ?? 0) || 0)];
