import { diffSize, sameValue, type Diff } from "@/core/kit/diff";
import type { AccountRecord } from "@/core/account/records";
import { basket, channelAnswers, dispatchChanges, records } from "@/db/schema";
import { bulkInsert } from "../bulk";
import { asJson, causeNumbers, type Transaction } from "./causes";
import { packPlan, unpackPlan } from "./packed-plan";
import { diffRows, type AccountAt } from "./state";

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
  /** The experiment that it switches past the basket, and why in words. */
  switches?: { experiment: number; reason: string };
  /** Whether it is what was found at the channel, and nothing was sent. */
  isFound?: boolean;
  /** The day from which the channel works with it. */
  fromDay: number | null;
  words: string[];
}

/** Moves changes into the account and the history. What was sealed in the basket goes from there. */
export async function sendChanges(
  tx: Transaction,
  who: string,
  at: AccountAt,
  sent: Sent,
  version: number,
): Promise<number> {
  const { diff, job, takesBack, fromDay, words, channel = "market", isFound = false, switches } = sent;
  const rows = diffRows(diff);
  const now = Date.now();
  const { rows: made } = await tx.execute({
    sql: `INSERT INTO dispatches (job, state, created_at, sent_at, from_day, who, size, words, takes_back, channel)
          VALUES (?, 'sent', ?, ?, ?, ?, ?, ?, ?, ?) RETURNING id`,
    args: [job, now, now, fromDay, who, rows.length, JSON.stringify(words), takesBack, channel],
  });
  const dispatch = Number(made[0]![0]);
  const isBasket = takesBack === null && !isFound && !switches;
  if (diff === at.sealed && isOneEach(at)) await moveSealed(tx, at, dispatch, version);
  else
    await writeChanges(
      tx,
      rows,
      dispatch,
      version,
      isBasket ? lastCauses(at) : await causesOfSwitch(tx, rows, switches),
    );
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

/** The cause of every change that an experiment's switch makes; none where it is no switch. */
async function causesOfSwitch(
  tx: Transaction,
  rows: ReturnType<typeof diffRows>,
  switches: Sent["switches"],
): Promise<Map<string, number>> {
  if (!switches) return new Map();
  const { experiment, reason } = switches;
  const numbers = await causeNumbers(tx, { kind: "experiment", id: String(experiment) }, new Set([reason]));
  return new Map(rows.map(([key]) => [key, numbers.get(reason)!]));
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
