import { and, asc, between, desc, eq, ne, sql } from "drizzle-orm";
import { z } from "zod";
import { changesInWords, type ChangeWords } from "@/core/account/words";
import { diffSize, invertDiff } from "@/core/kit/diff";
import { plural } from "@/core/kit/format";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { changeLog, channelAnswers, dispatchChanges, dispatches, jobs } from "@/db/schema";
import { commit } from "../account/commit";
import { redraft } from "../account/edits";
import { asDiff, causesOf, liveAccount, readAccount } from "../account/state";
import { enqueueIn, enqueueJob, findJob, newJob, type JobView } from "../jobs/jobs";
import type { WorkspaceInfo } from "../workspaces";
import { approvalOf } from "../account/approval";
import { effectOfDispatch, type DispatchEffect } from "./dispatch-effect";
import { inverseOf } from "./send";

/** How far ahead a dispatch may be set, milliseconds. */
const LATEST = 366 * 24 * 60 * 60 * 1000;

/**
 * Sends what lies in the basket at this moment: it is sealed and its sending queued in one step, so what is decided from
 * now on is not part of it and waits for the next time.
 * @param at when it shall go out, epoch milliseconds; null sends at once. Until then it can be called off like any job.
 * @param stamp the version of the account that the person saw; when the basket was changed since, nothing is sent. Null
 * sends whatever is there.
 */
export async function startDispatch(
  db: Database,
  who: string,
  stamp: number | null,
  at: number | null = null,
): Promise<Outcome<JobView>> {
  if (at !== null && (at <= Date.now() || at > Date.now() + LATEST)) {
    return fail("dispatch-when", "That moment lies in the past, or more than a year ahead.", "Choose another one.");
  }
  const approval = await approvalOf(db);
  const job = { ...newJob("dispatch", { takesBack: null }), notBefore: at };
  const sealed = await commit(db, who, null, ({ held, version, sealedPart }) => {
    if (sealedPart >= 0) {
      return fail(
        "dispatch-under-way",
        "A dispatch is on its way already.",
        "What was decided since waits in the basket; send it when that one has arrived.",
      );
    }
    if (diffSize(held) === 0) return fail("basket-empty", "The basket is empty: there is nothing to send.");
    if (stamp !== null && stamp !== version) {
      return fail(
        "basket-moved",
        "The basket was changed since you looked at it. Nothing was sent.",
        "Look at it again, then send.",
      );
    }
    if (approval.isNeeded && (approval.by === null || approval.version !== version)) {
      return fail(
        "approval-missing",
        "The basket waits for approval. Nothing was sent.",
        "Somebody who may send approves it under Dispatch.",
      );
    }
    return ok({ seal: { job: job.id }, also: (tx) => enqueueIn(tx, job), told: null, value: job.id });
  });
  return sealed.ok ? ok((await findJob(db, sealed.value))!) : sealed;
}

/** Dispatches, newest first. */
export async function listDispatches(db: Database) {
  return db.select().from(dispatches).orderBy(desc(dispatches.id)).limit(100);
}

/** A dispatch with its changes in words, what its weeks brought, and what else happened around it. */
export interface DispatchView {
  id: number;
  sentAt: number | null;
  who: string;
  size: number;
  words: string[];
  /** Changes that are told; a large dispatch has more. */
  changes: (ChangeWords & { reason: string })[];
  effect: DispatchEffect | null;
  /** Through which kind of channel it went, and what that did not take as it was meant. */
  channel: "market" | "files" | "http";
  answers: { key: string; state: "changed" | "refused"; reason: string; text: string }[];
  /** What the change log tells of the days around it. */
  around: { at: number; who: string; what: string }[];
}

/** Changes of a dispatch that are told. */
const MOST_TOLD = 1000;
/** What else happened is told from this long before a dispatch to this long after, milliseconds. */
const AROUND = 14 * 24 * 60 * 60 * 1000;
const MOST_AROUND = 30;

/** One dispatch with its changes, the weeks before and after it, and what else happened. */
export async function viewDispatch(db: Database, info: WorkspaceInfo, id: number): Promise<Outcome<DispatchView>> {
  const [row] = await db.select().from(dispatches).where(eq(dispatches.id, id));
  if (!row) return fail("dispatch-unknown", `There is no dispatch ${id}.`);
  const changes = await db.select().from(dispatchChanges).where(eq(dispatchChanges.dispatch, id)).limit(MOST_TOLD);
  const causes = new Map(changes.map(({ key, cause }) => [key, cause]));
  const causeOf = await causesOf(db.$client, causes.values());
  const sentAt = row.sentAt ?? row.createdAt;
  const around = await db
    .select({ at: changeLog.at, who: changeLog.who, what: changeLog.what })
    .from(changeLog)
    .where(and(between(changeLog.at, sentAt - AROUND, sentAt + AROUND), ne(changeLog.about, `dispatch/${id}`)))
    .orderBy(desc(changeLog.at))
    .limit(MOST_AROUND);
  return ok({
    ...{ id: row.id, sentAt: row.sentAt, who: row.who, size: row.size, words: row.words },
    changes: changesInWords(await liveAccount(db), asDiff(changes), info.currency).map((change) => ({
      ...change,
      reason: causeOf(causes.get(change.key) ?? 0).reason,
    })),
    channel: row.channel,
    answers: await notAsMeant(db, id, info),
    effect: row.fromDay === null ? null : await effectOfDispatch(db, row.fromDay, changes),
    around,
  });
}

/** What the channel did not take as it was meant, in words of what was meant. */
async function notAsMeant(db: Database, id: number, { currency }: WorkspaceInfo): Promise<DispatchView["answers"]> {
  const rows = await db.select().from(channelAnswers).where(eq(channelAnswers.dispatch, id)).limit(MOST_TOLD);
  const live = await liveAccount(db);
  const wanted = asDiff(rows.map(({ key, meant }) => ({ key, before: live.get(key) ?? null, after: meant })));
  const told = [...changesInWords(live, wanted, currency), ...changesInWords(live, wanted, currency, "scaffold")];
  const words = new Map(told.map(({ key, text }) => [key, text]));
  return rows.map(({ key, state, reason }) => ({ key, state, reason, text: words.get(key) ?? key }));
}

/**
 * Takes a dispatch back: its inverse is sent as a dispatch of its own, past the basket. Refused when one of its records was
 * changed since, by whatever way, or waits in the basket with another change: that would undo more than was asked. Where
 * somebody approves what is sent, nothing goes past that: it is taken back through the basket.
 */
export async function takeBackDispatch(db: Database, id: number): Promise<Outcome<JobView>> {
  const inverse = await inverseOf(db, await readAccount(db), id);
  if (!inverse.ok) return inverse;
  if ((await approvalOf(db)).isNeeded) {
    return fail(
      "approval-missing",
      "Whatever is sent here is approved first, and so is taking a dispatch back. Nothing was sent.",
      "Put its changes back into the basket; there they are approved and sent like any other.",
    );
  }
  return ok(await enqueueJob(db, "dispatch", { takesBack: id }));
}

export const takeBackChangesSchema = z.object({
  keys: z.union([z.literal("all"), z.array(z.string().min(1)).min(1).max(10_000)]),
});

/**
 * Takes some changes of a dispatch back, or all: their inverse goes into the basket, to be read through and sent like any other.
 * Refused where one of them was changed since.
 */
export function takeBackChanges(
  db: Database,
  who: string,
  id: number,
  { keys }: z.output<typeof takeBackChangesSchema>,
): Promise<Outcome<{ changes: number }>> {
  return commit(db, who, null, async ({ planned }) => {
    const rows = await db.select().from(dispatchChanges).where(eq(dispatchChanges.dispatch, id));
    const wanted = new Set(keys === "all" ? rows.map(({ key }) => key) : keys);
    const inverse = invertDiff(asDiff(rows.filter(({ key }) => wanted.has(key))));
    if (diffSize(inverse) === 0) return fail("dispatch-changes-unknown", `Dispatch ${id} has no such changes.`);
    const draft = redraft(planned, inverse, "Nothing was taken back.");
    if (!draft.ok)
      return { ok: false, error: { ...draft.error, code: `dispatch-${draft.error.code.slice("change-".length)}` } };
    const reason = `Takes back ${plural(diffSize(inverse), "change")} of dispatch ${id}`;
    const into = { draft: draft.value, cause: { kind: "take-back" as const, id: String(id) }, reason };
    return ok({ into, told: null, value: { changes: diffSize(inverse) } });
  });
}

/** A dispatch that is set for later, or null. */
export async function scheduledDispatch(db: Database): Promise<{ job: string; at: number } | null> {
  const [row] = await db
    .select({ job: jobs.id, at: jobs.notBefore })
    .from(jobs)
    .where(sql`${jobs.kind} = 'dispatch' AND ${jobs.state} = 'waiting' AND ${jobs.notBefore} IS NOT NULL`)
    .orderBy(asc(jobs.notBefore))
    .limit(1);
  return row?.at ? { job: row.job, at: row.at } : null;
}
