import { replaceEqualDeep, type QueryClient } from "@tanstack/react-query";
import { ACCOUNT_VERSION } from "@/core/account/version-header";

const versions = new WeakMap<object, number>();

/** Notes the account's version that an answer was read at, where the server tells it. */
export function noteSeen(answer: unknown, { headers }: Pick<Response, "headers">): void {
  const version = headers.get(ACCOUNT_VERSION);
  if (version !== null) noteVersion(answer, Number(version));
}

/** Notes the account's version that an answer was read at. */
export function noteVersion(answer: unknown, version: number): void {
  if (typeof answer === "object" && answer !== null) versions.set(answer, version);
}

/** Keeps what did not change the same object, as the cache does by itself, and notes that it was read once more. */
export function shareSeen(before: unknown, after: unknown): unknown {
  const shared: unknown = replaceEqualDeep(before, after);
  const version = typeof after === "object" && after !== null ? versions.get(after) : undefined;
  if (version !== undefined) versions.set(shared as object, version);
  return shared;
}

/**
 * The account's version that is on screen in a workspace: the earliest of all answers that open views show. Null where none
 * is there yet.
 */
export function versionOnScreen(client: QueryClient, workspace: string): number | null {
  let earliest: number | null = null;
  for (const { queryKey, state } of client.getQueryCache().findAll({ queryKey: ["api"], type: "active" })) {
    if (!String(queryKey[1]).startsWith(`${workspace}/`)) continue;
    const version = versions.get(state.data as object);
    if (version !== undefined && (earliest === null || version < earliest)) earliest = version;
  }
  return earliest;
}
