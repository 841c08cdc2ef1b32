import { diffSize, sameValue, type Diff } from "@/core/kit/diff";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Cause } from "@/core/account/cause";
import { Draft } from "@/core/account/draft";
import { recordName } from "@/core/account/names";
import type { AccountRecord } from "@/core/account/records";
import type { Database } from "@/db/client";
import { basket, channelAnswers, dispatchChanges, records } from "@/db/schema";
import { bulkInsert } from "../bulk";
import { packPlan, unpackPlan } from "./packed-plan";
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

/** A change of the account as the channel has it. */
export interface Sent {
  /** What stands there now otherwise than before, as it answered. */
  diff: Diff<AccountRecord>;
  /** What was meant, where it did not take all of it. */
  meant?: Diff<AccountRecord>;
  /** Records whose change it did not take, with why: it waits in the basket again, from what stands now. */
  left?: ReadonlyMap<string, string>;
  /** Records of which something else stands now than was meant, with why where it said so. */
  otherwise?: ReadonlyMap<string, string>;
  channel?: "market" | "files" | "http";
  /** The job that sends it, by which it is recognised when the job runs again. */
  job: string;
  /** The dispatch that it takes back; null where it is what was sealed in the basket. */
  takesBack: number | null;
  /** Whether it is what was found at the channel, and nothing was sent. */
  isFound?: boolean;
  /** The day from which the channel works with it. */
  fromDay: number | null;
  words: string[];
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

type Transaction = Awaited<ReturnType<Database["$client"]["transaction"]>>;

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

const asJson = (value: unknown) => (value === null ? null : JSON.stringify(value));

/** The numbers under which reasons of one cause are kept; new ones are made. */
async function causeNumbers(tx: Transaction, { kind, id }: Cause, reasons: Set<string>): Promise<Map<string, number>> {
  const asked = JSON.stringify([...reasons]);
  await tx.execute({
    sql: "INSERT INTO causes (kind, of, reason) SELECT ?, ?, value FROM json_each(?) WHERE true ON CONFLICT DO NOTHING",
    args: [kind, id, asked],
  });
  const { rows } = await tx.execute({
    sql: "SELECT reason, id FROM causes WHERE kind = ? AND of = ? AND reason IN (SELECT value FROM json_each(?))",
    args: [kind, id, asked],
  });
  return new Map(rows.map((row) => [String(row[0]), Number(row[1])]));
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

/** Moves changes into the account and the history. What was sealed in the basket goes from there. */
async function sendChanges(tx: Transaction, who: string, at: AccountAt, sent: Sent, version: number): Promise<number> {
  const { diff, job, takesBack, fromDay, words, channel = "market", isFound = false } = sent;
  const rows = diffRows(diff);
  const now = Date.now();
  const { rows: made } = await tx.execute({
    sql: `INSERT INTO dispatches (job, state, created_at, sent_at, from_day, who, size, words, takes_back, channel)
          VALUES (?, 'sent', ?, ?, ?, ?, ?, ?, ?, ?) RETURNING id`,
    args: [job, now, now, fromDay, who, rows.length, JSON.stringify(words), takesBack, channel],
  });
  const dispatch = Number(made[0]![0]);
  const isBasket = takesBack === null && !isFound;
  if (diff === at.sealed && isOneEach(at)) await moveSealed(tx, at, dispatch, version);
  else await writeChanges(tx, rows, dispatch, version, isBasket ? lastCauses(at) : new Map());
  if (isBasket) {
    await tx.execute({ sql: "DELETE FROM basket WHERE part <= ?", args: [at.sealedPart] });
    await tx.execute("UPDATE account_state SET sealed_part = NULL, sealed_by = NULL WHERE id = 1");
    await tx.execute({
      sql: `INSERT INTO plans_replaced (dispatch, planogram, plan) SELECT ?, key, last_plan FROM planograms WHERE waiting_part <= ?`,
      args: [dispatch, at.sealedPart],
    });
    await tx.execute({
      sql: `UPDATE planograms SET last_plan = waiting_plan, waiting_plan = NULL, waiting_part = NULL WHERE waiting_part <= ?`,
      args: [at.sealedPart],
    });
    await forgetOldPlans(tx, dispatch);
  } else if (takesBack !== null && rows.length > 0) {
    await giveBackPlans(tx, takesBack, dispatch, new Set(rows.map(([key]) => key)));
    await tx.execute({ sql: "UPDATE dispatches SET taken_back_by = ? WHERE id = ?", args: [dispatch, takesBack] });
  }
  if (sent.meant) await noteAnswers(tx, who, at, sent.meant, sent, dispatch, version);
  return dispatch;
}

/** Keeps what a channel did not take as it was meant, and puts what it left back into the basket, from what stands now. */
async function noteAnswers(
  tx: Transaction,
  who: string,
  at: AccountAt,
  meant: Diff<AccountRecord>,
  { left = new Map(), otherwise = new Map(), diff, takesBack }: Sent,
  dispatch: number,
  version: number,
): Promise<void> {
  const wanted = new Map(diffRows(meant).map(([key, before, after]) => [key, { before, after }]));
  const moved = new Map(diffRows(diff).map(([key, , after]) => [key, after]));
  const told = [
    ...[...otherwise].map(([key, reason]) => [dispatch, key, "changed", reason, asJson(wanted.get(key)!.after)]),
    ...[...left].map(([key, reason]) => [dispatch, key, "refused", reason, asJson(wanted.get(key)!.after)]),
  ];
  await bulkInsert(tx, channelAnswers, ["dispatch", "key", "state", "reason", "meant"], told);
  // What was decided meanwhile stands on what was meant; it goes on from what stands, as does what is left.
  const open = new Map<string, AccountAt["rows"][number]>();
  for (const row of at.rows) if (row.part > at.sealedPart && !open.has(row.key)) open.set(row.key, row);
  const why = lastCauses(at);
  const by = new Map(at.rows.flatMap(({ key, part, who }) => (part <= at.sealedPart ? [[key, who] as const] : [])));
  const cells: unknown[][] = [];
  const gone: string[] = [];
  for (const key of [...left.keys(), ...otherwise.keys()]) {
    const stands = moved.has(key) ? moved.get(key)! : (wanted.get(key)!.before ?? null);
    const held = open.get(key);
    const after = held ? held.after : left.has(key) ? wanted.get(key)!.after : stands;
    if (held) gone.push(key);
    if (sameValue(stands, after)) continue;
    const cause = held?.cause.no ?? why.get(key) ?? (await takeBackCause(tx, takesBack));
    const decidedBy = held?.who ?? by.get(key) ?? who;
    const reason = left.get(key) ?? "";
    cells.push([key, at.part, asJson(stands), asJson(after), cause, decidedBy, Date.now(), version, reason]);
  }
  await tx.execute({
    sql: "DELETE FROM basket WHERE key IN (SELECT value FROM json_each(?))",
    args: [JSON.stringify(gone)],
  });
  const columns = ["key", "part", "before", "after", "cause", "who", "at", "version", "refused"] as const;
  await bulkInsert(tx, basket, [...columns], cells);
}

async function takeBackCause(tx: Transaction, takesBack: number | null): Promise<number> {
  const reason = `Takes back what dispatch ${takesBack} changed`;
  const numbers = await causeNumbers(tx, { kind: "take-back", id: String(takesBack) }, new Set([reason]));
  return numbers.get(reason)!;
}

/** Dispatches whose plans before are kept: older ones are hardly taken back, and a plan of a large account is megabytes. */
const KEPT_PLANS = 30;

async function forgetOldPlans(tx: Transaction, dispatch: number): Promise<void> {
  await tx.execute({ sql: "DELETE FROM plans_replaced WHERE dispatch <= ?", args: [dispatch - KEPT_PLANS] });
}

/**
 * Gives planograms the plan again that belongs to the records as they are once a dispatch is taken back: of its records that
 * of the plan before it, of all others the one they have. So what people set since is told from what a plan wanted.
 */
async function giveBackPlans(tx: Transaction, takesBack: number, dispatch: number, keys: ReadonlySet<string>) {
  const { rows } = await tx.execute({
    sql: `SELECT p.key, p.last_plan, r.plan FROM plans_replaced r JOIN planograms p ON p.key = r.planogram WHERE r.dispatch = ?`,
    args: [takesBack],
  });
  for (const row of rows) {
    const [key, last, before] = [String(row[0]), row[1] as ArrayBuffer | null, row[2] as ArrayBuffer | null];
    const then = before === null ? null : unpackPlan(before);
    const plan = new Map([...(last === null ? [] : unpackPlan(last))].filter(([record]) => !keys.has(record)));
    for (const [record, wanted] of then ?? []) if (keys.has(record)) plan.set(record, wanted);
    await tx.execute({
      sql: "INSERT INTO plans_replaced (dispatch, planogram, plan) VALUES (?, ?, ?)",
      args: [dispatch, key, last],
    });
    await tx.execute({
      sql: "UPDATE planograms SET last_plan = ? WHERE key = ?",
      args: [plan.size === 0 ? null : packPlan(plan), key],
    });
  }
}

/** Whether what is on its way are changes of different records, so that nothing needs to be put together. */
function isOneEach({ rows, sealed, sealedPart }: AccountAt): boolean {
  return rows.filter(({ part }) => part <= sealedPart).length === diffSize(sealed);
}

/** Moves what was sealed from the basket into the account and the history within the database. */
async function moveSealed(tx: Transaction, { sealedPart }: AccountAt, dispatch: number, version: number) {
  await tx.execute({
    sql: `INSERT INTO dispatch_changes (dispatch, key, before, after, cause)
          SELECT ?, key, before, after, cause FROM basket WHERE part <= ? ORDER BY part, id`,
    args: [dispatch, sealedPart],
  });
  await tx.execute({
    sql: "DELETE FROM records WHERE key IN (SELECT key FROM basket WHERE part <= ?)",
    args: [sealedPart],
  });
  await tx.execute({
    sql: `INSERT INTO records (key, type, body, version)
          SELECT key, after ->> 'type', after, ? FROM basket WHERE part <= ? AND after IS NOT NULL ORDER BY part, id`,
    args: [version, sealedPart],
  });
}

/** The cause of each sealed change; of several of one record the last, which settled what it is. */
function lastCauses({ rows, sealedPart }: AccountAt): Map<string, number> {
  return new Map(rows.flatMap(({ key, part, cause }) => (part <= sealedPart ? [[key, cause.no] as const] : [])));
}

/** Writes changes into the account and the history. */
async function writeChanges(
  tx: Transaction,
  rows: ReturnType<typeof diffRows>,
  dispatch: number,
  version: number,
  causes: ReadonlyMap<string, number>,
) {
  await bulkInsert(
    tx,
    dispatchChanges,
    ["dispatch", "key", "before", "after", "cause"],
    rows.map(([key, before, after]) => [dispatch, key, asJson(before), asJson(after), causes.get(key) ?? 0]),
  );
  await tx.execute({
    sql: "DELETE FROM records WHERE key IN (SELECT value FROM json_each(?))",
    args: [JSON.stringify(rows.map(([key]) => key))],
  });
  await bulkInsert(
    tx,
    records,
    ["key", "type", "body", "version"],
    rows.flatMap(([key, , after]) => (after ? [[key, after.type, JSON.stringify(after), version]] : [])),
  );
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
