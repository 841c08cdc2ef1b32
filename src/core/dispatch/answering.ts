import { kindOf, type AccountRecord } from "../account/records";
import { sameValue } from "../kit/diff";
import type { Answer, Change } from "./contract";

/** Why a channel does not take a record, in words; null where it does. */
export type Refusing = (record: AccountRecord) => string | null;

/**
 * What a plain channel makes of changes, in their order, and what stands after them: it takes a change from what it has, and
 * one that stands as it was meant already, so the same message does nothing the second time. What it has otherwise than it was
 * thought to, it leaves.
 * @param stands what it has under a key now
 * @returns the answers, and what changed: a record, or null where it is gone
 */
export function answerAll(
  stands: (key: string) => AccountRecord | undefined,
  changes: readonly Change[],
  refusing: Refusing = () => null,
): { answers: Answer[]; moved: Map<string, AccountRecord | null> } {
  const moved = new Map<string, AccountRecord | null>();
  const now = (key: string) => (moved.has(key) ? (moved.get(key) ?? null) : (stands(key) ?? null));
  const answers = changes.map(({ key, before, after }): Answer => {
    const has = now(key);
    if (sameValue(has, after)) return { key, state: "taken" };
    if (!sameValue(has, before)) {
      const reason = has === null ? "It is not there any more." : "Something else stands there than it changes.";
      return { key, state: "refused", stands: has, reason };
    }
    const reason = after === null ? null : (homeless(after, now) ?? refusing(after));
    if (reason !== null) return { key, state: "refused", stands: has, reason };
    moved.set(key, after);
    return { key, state: "taken" };
  });
  return { answers, moved };
}

function homeless(record: AccountRecord, now: (key: string) => AccountRecord | null): string | null {
  const missing = kindOf(record.type)
    .parents(record)
    .some(({ key }) => now(key) === null);
  return missing ? "What it hangs below or draws on is not there." : null;
}
