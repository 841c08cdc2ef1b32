import { diffSize, sameValue } from "@/core/kit/diff";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Cause } from "@/core/account/cause";
import { Draft } from "@/core/account/draft";
import { recordName } from "@/core/account/names";
import type { AccountRecord } from "@/core/account/records";
import type { Database } from "@/db/client";
import { basket } from "@/db/schema";
import { bulkInsert } from "../bulk";
import { asJson, causeNumbers, type Transaction } from "./causes";
import { sendChanges, type Sent } from "./send-changes";
import { changedSince, diffRows, readAccount, readVersions, type AccountAt } from "./state";

/**
 * A change of the planned account that goes into the basket: a draft begun on the account as it was read here, so nothing
 * that was worked out before can be written over what others did since.
 */
export interface IntoBasket {
  draft: Draft;
  cause: Cause;
  /** Why, in words; records of the draft may have reasons of their own. */
  reason: string;
  /** Where single changes came from and who decided them, where that is known from before. */
  from?: ReadonlyMap<string, { cause: number; who: string }>;
}

/** What was decided about an account, to be written all at once or not at all. */
export interface Decision<T> {
  into?: IntoBasket;
  /** Keys whose changes are taken out of the basket again. */
  out?: Iterable<string>;
  /** Seals what lies in the basket for this job: what is decided from now on is not part of it. */
  seal?: { job: string };
  send?: Sent;
  /** For the change log. */
  told: { what: string; why?: string; place: string; about?: string } | null;
  /** Writes that belong to it, in the same transaction. */
  also?: (tx: Transaction, dispatch: number | null) => Promise<void>;
  value: T | ((dispatch: number | null) => T);
}

/** Decided again on the newer state this often, when others write at the same time. */
const MOST_TRIES = 5;

/**
 * The only writer of the account and its basket. Reads the account, has it decided, and writes in one transaction that holds
 * only if nobody wrote in between; otherwise it is decided again on the newer state. So no change is lost to another one
 * made at the same time, whether by a person, in another tab, or by a job.
 * @param who the person who decided, for the change log, the basket and history
 * @param stamp the version of the account that the person saw; records that changed after it keep the change from being
 * made. Null where what was decided does not rest on what somebody saw.
 */
export async function commit<T>(
  db: Database,
  who: string,
  stamp: number | null,
  decide: (at: AccountAt) => Promise<Outcome<Decision<T>>> | Outcome<Decision<T>>,
): Promise<Outcome<T>> {
  for (let tries = 0; tries < MOST_TRIES; tries++) {
    const at = await readAccount(db);
    const decided = await decide(at);
    if (!decided.ok) return decided;
    const decision = decided.value;
    if (decision.into && decision.into.draft.account !== at.planned) {
      throw new Error("A change was drafted on another account than the one it is written to.");
    }
    if (isNothing(decision)) return ok(valueOf(decision, null));
    const tx = await db.$client.transaction("write");
    try {
      const now = await readVersions(tx);
      if (now.version !== at.version || now.sealedPart !== at.sealedPart) continue;
      const conflict = stamp === null ? null : await conflictSince(tx, at, decision, stamp);
      if (conflict) return conflict;
      const dispatch = await write(tx, who, at, decision);
      await decision.also?.(tx, dispatch);
      await tx.commit();
      return ok(valueOf(decision, dispatch));
    } finally {
      tx.close();
    }
  }
  return fail(
    "account-busy",
    "Others keep changing the account at this moment. Nothing was changed.",
    "Try again in a moment.",
  );
}

/** Whether there is nothing to write, so that the account's version need not move. */
function isNothing<T>({ into, out, seal, send, told, also }: Decision<T>): boolean {
  return (!into || diffSize(into.draft.diff()) === 0) && !out && !seal && !send && !told && !also;
}

function valueOf<T>({ value }: Decision<T>, dispatch: number | null): T {
  return typeof value === "function" ? (value as (dispatch: number | null) => T)(dispatch) : value;
}

/** What the person did not see: changes of the same records by others. */
async function conflictSince<T>(tx: Transaction, at: AccountAt, { into, out }: Decision<T>, stamp: number) {
  if (stamp >= at.version) return null;
  const touched = [...(into ? diffRows(into.draft.diff()).map(([key]) => key) : []), ...(out ?? [])];
  if (touched.length === 0) return null;
  const changed = await changedSince(tx, touched, stamp);
  const [first] = changed;
  if (!first) return null;
  const record = at.planned.get(first.key) ?? at.live.get(first.key);
  const name = record ? `"${recordName(at.planned, record)}"` : "What you changed";
  const more = changed.length > 1 ? ` and ${changed.length - 1} more` : "";
  return fail(
    "account-moved",
    `${name}${more} ${changed.length > 1 ? "were" : "was"} changed meanwhile${first.who === "" ? "" : ` by ${first.who}`}. Nothing was changed.`,
    "Look at it as it is now, then change it again.",
  );
}

async function write<T>(tx: Transaction, who: string, at: AccountAt, decision: Decision<T>): Promise<number | null> {
  const { into, out, seal, send, told } = decision;
  const version = at.version + 1;
  let dispatch: number | null = null;
  if (into) await putIntoBasket(tx, who, at, into, version);
  if (out) {
    const keys = [...out];
    await noteTakenOut(tx, at, keys, who, version);
    await tx.execute({
      sql: "DELETE FROM basket WHERE part > ? AND key IN (SELECT value FROM json_each(?))",
      args: [at.sealedPart, JSON.stringify(keys)],
    });
    // Of a plan whose changes were all taken out nothing waits any more.
    await tx.execute({
      sql: `UPDATE planograms SET waiting_plan = NULL, waiting_part = NULL
            WHERE waiting_part > ?1 AND NOT EXISTS (SELECT 1 FROM basket WHERE part > ?1)`,
      args: [at.sealedPart],
    });
  }
  if (send) dispatch = await sendChanges(tx, who, at, send, version);
  await tx.execute({
    sql: "UPDATE account_state SET version = ?1, records_version = CASE WHEN ?2 THEN ?1 ELSE records_version END WHERE id = 1",
    args: [version, send ? 1 : 0],
  });
  if (seal) {
    await tx.execute({
      sql: "UPDATE account_state SET sealed_part = part, part = part + 1, sealed_by = ? WHERE id = 1",
      args: [seal.job],
    });
  }
  if (told) {
    const numbered = (text: string) => text.replace("{dispatch}", String(dispatch));
    await tx.execute({
      sql: "INSERT INTO change_log (at, who, what, why, place, about) VALUES (?, ?, ?, ?, ?, ?)",
      args: [...[Date.now(), who, numbered(told.what), told.why ?? "", told.place], numbered(told.about ?? "")],
    });
  }
  return dispatch;
}

/** Notes which waiting changes go, so that whoever saw them is told before they build on them. */
async function noteTakenOut(tx: Transaction, at: AccountAt, keys: string[], who: string, version: number) {
  if (keys.length === 0) return;
  await tx.execute({
    sql: `INSERT INTO taken_out (key, version, who)
          SELECT DISTINCT key, ?1, ?2 FROM basket WHERE part > ?3 AND key IN (SELECT value FROM json_each(?4))
          ON CONFLICT (key) DO UPDATE SET version = excluded.version, who = excluded.who`,
    args: [version, who, at.sealedPart, JSON.stringify(keys)],
  });
}

/** Changes of the same record become one, and changes that cancel out vanish; what is on its way stays as it is. */
async function putIntoBasket(
  tx: Transaction,
  who: string,
  at: AccountAt,
  { draft, cause, reason, from }: IntoBasket,
  version: number,
): Promise<void> {
  const open = new Map<string, AccountAt["rows"][number]>();
  for (const row of at.rows) if (row.part > at.sealedPart && !open.has(row.key)) open.set(row.key, row);
  const rows = diffRows(draft.diff());
  const now = Date.now();
  const causeNo = await causeNumbers(tx, cause, new Set([reason, ...draft.reasons.values()]));
  const cells: unknown[][] = [];
  const cancelled: string[] = [];
  for (const [key, before, after] of rows) {
    const held = open.get(key);
    const start = held ? held.before : before;
    if (sameValue(start, after)) {
      if (held) cancelled.push(key);
      continue;
    }
    const why = from?.get(key)?.cause ?? causeNo.get(draft.reasons.get(key) ?? reason);
    cells.push([key, at.part, asJson(start), asJson(after), why, from?.get(key)?.who ?? who, now, version]);
  }
  await noteTakenOut(tx, at, cancelled, who, version);
  await tx.execute({
    sql: "DELETE FROM basket WHERE part > ? AND key IN (SELECT value FROM json_each(?))",
    args: [at.sealedPart, JSON.stringify(rows.filter(([key]) => open.has(key)).map(([key]) => key))],
  });
  await bulkInsert(tx, basket, ["key", "part", "before", "after", "cause", "who", "at", "version"], cells);
}

/** For the demo, benches and tests: puts records into the basket as a change of nothing. */
export function addRecords(db: Database, added: Record<string, AccountRecord>, who: string, reason: string) {
  return commit(db, who, null, ({ planned }) => {
    const draft = new Draft(planned);
    for (const record of Object.values(added)) draft.put(record);
    const into = { draft, cause: { kind: "records" as const, id: "" }, reason };
    return ok({ into, told: null, value: Object.keys(added).length });
  });
}
