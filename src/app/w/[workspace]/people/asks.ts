/** Lines of one page of the access log. */
export const PAGE = 100;

/** The path of a page of the access log. */
export const accessLogPath = (q: string, offset: number) =>
  `access-log?${new URLSearchParams({ q, offset: String(offset), limit: String(PAGE) })}`;
