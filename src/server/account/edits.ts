import { z } from "zod";
import { editInWords, makeEdit, type Edit } from "@/core/account/acts";
import { leftBehind } from "@/core/account/checks";
import { Draft } from "@/core/account/draft";
import { recordName } from "@/core/account/names";
import { recordSchema, type AccountRecord } from "@/core/account/records";
import { diffOf, diffSize, invertDiff, sameValue, type Diff } from "@/core/kit/diff";
import { fail, ok, type Failure, type Outcome } from "@/core/kit/outcome";
import type { Account } from "@/core/account/account";
import type { Transaction } from "@libsql/client";
import type { Database } from "@/db/client";
import { commit } from "./commit";
import { itemFacts, type WorthsOf } from "./serving";
import { diffRows } from "./state";

/** The account's version that a person saw, sent along with a change. */
export const stampSchema = z.coerce.number().int().min(0).optional();

export interface Edited {
  /** How many records change. */
  changes: number;
  words: string;
  /** Items that were asked for and left out, since nothing serves them. */
  leftOut: number;
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
  edit: Edit,
  currency: string,
  worths?: WorthsOf,
): Promise<Outcome<Edited>> {
  const words = editInWords(edit, currency);
  return commit(db, who, stamp, async ({ planned, version }) => {
    const made = makeEdit(planned, edit, await itemFacts(db, planned, edit, worths), currency);
    if (!made.ok) return made;
    const draft = made.value;
    const diff = draft.diff();
    const into = { draft, cause: { kind: "act" as const, id: edit.action }, reason: words };
    const renames = (edit.action === "several" ? edit.acts.map(({ act }) => act) : [edit]).filter(
      (act) => act.action === "rename-value",
    );
    const also = async (tx: Transaction) => {
      for (const one of renames) await noteRename(tx, one);
    };
    const changes = diffSize(diff);
    const isNew = changes > 0 || renames.length > 0;
    const edited: Edited = {
      ...{ changes, words, leftOut: draft.leftOut.size },
      ...{ version: isNew ? version + 1 : version, diff },
    };
    return ok({ into, told: null, ...(renames.length > 0 && { also }), value: edited });
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
    const inverse = redraft(planned, invertDiff(diff), "Nothing was taken back.");
    if (!inverse.ok) return inverse;
    const into = { draft: inverse.value, cause: { kind: "undo" as const, id: "" }, reason: "Edit taken back" };
    return ok({ into, told: null, value: { changes: diffSize(inverse.value.diff()) } });
  });
}

/**
 * A draft that makes a change again that was decided before. Refused where one of its records was changed since, and where
 * others would be left without what they hang below.
 * @param kept what a person is told of a change that is overtaken, such as "Nothing was taken back."
 */
export function redraft(account: Account, diff: Diff<AccountRecord>, kept: string): Outcome<Draft> {
  const draft = new Draft(account);
  if (draft.redo(diff) !== null) return { ok: false, error: overtakenBy(account, diff, kept)! };
  const [left] = leftBehind(account, draft.diff());
  if (!left) return ok(draft);
  const name = recordName(account, left);
  return fail("change-holds-more", `"${name}" would hang in the air. ${kept}`, "Take back what hangs below as well.");
}

/** The part of a diff whose records are as they were before it, or as it made them: what others changed since is left out. */
export function partThatStands(
  account: Account,
  diff: Diff<AccountRecord>,
  as: "before" | "after",
): Diff<AccountRecord> {
  const standsSo = (key: string, wanted: AccountRecord | null) => sameValue(account.get(key) ?? null, wanted);
  return diffOf(diffRows(diff).filter(([key, before, after]) => standsSo(key, as === "before" ? before : after)));
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
