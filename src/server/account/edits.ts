import { z } from "zod";
import { edit } from "@/core/account/edits";
import { intentInWords, type Intent } from "@/core/account/intents";
import { recordName } from "@/core/account/names";
import { recordSchema, type AccountRecord } from "@/core/account/records";
import { diffSize, invertDiff, sameValue, type Diff } from "@/core/kit/diff";
import { fail, ok, type Failure, type Outcome } from "@/core/kit/outcome";
import type { Account } from "@/core/account/account";
import type { Transaction } from "@libsql/client";
import type { Database } from "@/db/client";
import { commit } from "./commit";
import { itemFacts } from "./serving";
import { diffRows } from "./state";

/** The account's version that a person saw, sent along with a change. */
export const stampSchema = z.coerce.number().int().min(0).optional();

export interface Edited {
  /** How many records change. */
  changes: number;
  words: string;
  /** The version of the account that has them. */
  version: number;
  /** The change itself, so that it can be taken back. */
  diff: Diff<AccountRecord>;
}

/** Puts an edit into the basket. */
export function editAccount(
  db: Database,
  who: string,
  stamp: number | null,
  intent: Intent,
  currency: string,
): Promise<Outcome<Edited>> {
  const words = intentInWords(intent, currency);
  return commit(db, who, stamp, async ({ planned, version }) => {
    const made = edit(planned, intent, await itemFacts(db, planned));
    if (!made.ok) return made;
    const diff = made.value.diff();
    const into = { diff, source: "by hand", reason: words, reasons: made.value.reasons };
    const also = intent.action === "rename-value" ? (tx: Transaction) => noteRename(tx, intent) : undefined;
    const changes = diffSize(diff);
    const edited: Edited = { changes, words, version: changes > 0 || also ? version + 1 : version, diff };
    return ok({ into, told: null, ...(also && { also }), value: edited });
  });
}

/** Planograms that split by a field remember what its values were called, so that a new plan is of the same groups. */
async function noteRename(tx: Transaction, { by, from, to }: { by: string; from: string; to: string }): Promise<void> {
  await tx.execute({
    sql: `UPDATE planograms SET definition = json_set(definition, '$.renamed',
        json_insert(coalesce(json_extract(definition, '$.renamed'), '[]'), '$[#]', json(?1)))
      WHERE EXISTS (SELECT 1 FROM json_each(definition, '$.ladder') WHERE json_extract(value, '$.by') = ?2)`,
    args: [JSON.stringify({ by, from, to }), by],
  });
}

export const editDiffSchema = z.object({
  added: z.record(z.string(), recordSchema),
  changed: z.record(z.string(), z.tuple([recordSchema, recordSchema])),
  removed: z.record(z.string(), recordSchema),
});

/** Takes an edit back that was not sent yet: its inverse goes into the basket, where the two cancel out. */
export function takeBackEdit(
  db: Database,
  who: string,
  diff: Diff<AccountRecord>,
): Promise<Outcome<{ changes: number }>> {
  return commit(db, who, null, ({ planned }) => {
    const inverse = invertDiff(diff);
    const overtaken = overtakenBy(planned, inverse, "Nothing was taken back.");
    if (overtaken) return { ok: false, error: overtaken };
    const into = { diff: inverse, source: "by hand", reason: "Edit taken back" };
    return ok({ into, told: null, value: { changes: diffSize(inverse) } });
  });
}

/** Why a diff can't be made on an account: a record is no longer as the diff begins. Null when it can. */
export function overtakenBy(account: Account, diff: Diff<AccountRecord>, kept: string): Failure | null {
  for (const [key, before] of diffRows(diff)) {
    const now = account.get(key) ?? null;
    if (sameValue(now, before)) continue;
    const record = now ?? before;
    const name = record ? `"${recordName(account, record)}"` : "A record of it";
    const failed = fail(
      "change-overtaken",
      `${name} was changed again since. ${kept}`,
      "Take the later change back first.",
    );
    return failed.ok ? null : failed.error;
  }
  return null;
}
