/** What the API answers to a question that a page is made with. */
export interface OwnAnswer {
  body: unknown;
  /** The account's version that it was read at; null for what hangs on no account. */
  version: number | null;
}

/**
 * Asks the API as the page that is being made would, in the name of whoever wants the page.
 * @param path below `/api/v1/`, with its query
 * @param signal ends the wait; the work itself goes on, and whoever asks next finds it done
 * @returns null for whatever is no success: the page asks again itself, and says what is wrong
 */
export type AskOwn = (path: string, headers: Headers, signal: AbortSignal) => Promise<OwnAnswer | null>;

/** Pages are bundled apart from the web process that makes them, so what it offers them is handed over here. */
const shared = globalThis as { __hotShelfAskOwn?: AskOwn };

/** Lets pages ask. */
export function offerToPages(ask: AskOwn): void {
  shared.__hotShelfAskOwn = ask;
}

/** Asks for a page; null where nothing can be asked. */
export const askOwn: AskOwn = async (...asked) => (await shared.__hotShelfAskOwn?.(...asked)) ?? null;
