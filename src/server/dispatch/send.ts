import { and, eq, isNull } from "drizzle-orm";
import { z } from "zod";
import { checkDiff, leftBehind } from "@/core/account/checks";
import { recordName } from "@/core/account/names";
import type { AccountRecord } from "@/core/account/records";
import { describeDiff } from "@/core/account/words";
import { diffOf, diffSize, invertDiff, sameValue, type Diff } from "@/core/kit/diff";
import { plural } from "@/core/kit/format";
import { fail, FailureError, giveUp, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { dispatchChanges, dispatches, experiments } from "@/db/schema";
import { commit } from "../account/commit";
import { overtakenBy, partThatStands } from "../account/edits";
import { asDiff, diffRows, readAccount, type AccountAt } from "../account/state";
import { carriedBy } from "../channel/carried";
import { Cancelled, type JobContext, type JobHandler } from "../jobs/work";
import { resultDays } from "../results/load";
import type { WorkspaceInfo } from "../workspaces";
import { channelOf } from "./channel-of";
import { deliver, type Delivered } from "./deliver";

export const dispatchJobSchema = z.object({
  /** The dispatch that this one takes back, or null for sending the basket. */
  takesBack: z.int().nullable(),
  /** The experiment whose change it makes or takes back past the basket, as was agreed when that was begun. */
  switches: z.object({ experiment: z.int(), isOn: z.boolean() }).nullable().default(null),
});
type Switches = z.output<typeof dispatchJobSchema>["switches"];

/** How a dispatch ended, for whoever asked for it. */
export interface SentResult {
  dispatch: number | null;
  /** Records that stand otherwise at the channel now. */
  changes: number;
  /** Changes that it did not take, which wait in the basket again, and of those taken the ones of which something else stands. */
  refused: number;
  otherwise: number;
}

/**
 * Sends the sealed part of the basket to the channel, or takes a dispatch back. First the channel takes it and answers for
 * each record; then what stands there now is written in one transaction. A kill in between leaves the channel ahead of what is
 * known here: run again, the same messages go under the same keys, and what stands as it was meant is taken once.
 */
async function run(context: JobContext, raw: unknown): Promise<SentResult> {
  const { takesBack, switches } = dispatchJobSchema.parse(raw);
  const { db, info } = context;
  const [sent] = await db.select().from(dispatches).where(eq(dispatches.job, context.id));
  if (sent) {
    await lookAtArrival(db, info, sent.id);
    return { dispatch: sent.id, changes: sent.size, refused: 0, otherwise: 0 };
  }
  if (takesBack === null && !switches) await sealFor(context);
  const days = await resultDays(db);
  const { kind, channel } = await channelOf(db, info);
  const find = async (at: AccountAt) => {
    if (switches) return switchOf(db, at, switches);
    return takesBack === null ? sealedDiff(at) : inverseOf(db, at, takesBack);
  };
  const meant = await checked(context, await readAccount(db), find);
  let isStopped = false;
  const delivered = await deliver(channel, context.id, meant, async (done) => {
    if (isStopped) return;
    try {
      await context.progress(done, diffSize(meant), "changes");
    } catch (error) {
      if (!(error instanceof Cancelled) || done === 0) throw error;
      // What the channel took can't be called back by stopping; the rest is not sent.
      isStopped = true;
      giveUp("dispatch-stopped", "It was stopped before all of it was sent.");
    }
  });
  if (delivered.answers.size === 0 && delivered.brokeOff) throw new FailureError(delivered.brokeOff);
  const done = await commit(db, context.who, null, async (at) => {
    const found = await find(at);
    if (!found.ok) return found;
    const all = found.value;
    const { diff, left, otherwise } = whatStands(at, all, delivered);
    const isWhole = left.size === 0 && otherwise.size === 0;
    const changes = diffSize(diff);
    const value = { changes, refused: left.size, otherwise: otherwise.size };
    return ok({
      send: {
        ...{ diff: isWhole ? all : diff, job: context.id, takesBack, channel: kind },
        ...(switches && { switches: await causeOfSwitch(db, switches) }),
        ...{ fromDay: days ? days.to + 1 : null, words: describeDiff(at.live, diff, info.currency) },
        ...(isWhole ? {} : { meant: all, left, otherwise }),
      },
      told: {
        what: `Dispatch {dispatch} sent: ${plural(changes, "change")}${left.size > 0 ? `, ${left.size} not taken` : ""}`,
        ...{ place: "dispatch", about: "dispatch/{dispatch}" },
      },
      value: (dispatch: number | null): SentResult => ({ dispatch, ...value }),
    });
  });
  if (!done.ok) throw new FailureError(done.error);
  if (done.value.dispatch !== null) await lookAtArrival(db, info, done.value.dispatch);
  return done.value;
}

/** What is about to go out, where nothing speaks against it. */
async function checked(
  { db, info }: JobContext,
  at: AccountAt,
  find: (at: AccountAt) => Promise<Outcome<Diff<AccountRecord>>>,
): Promise<Diff<AccountRecord>> {
  const found = await find(at);
  if (!found.ok) throw new FailureError(found.error);
  const grave = checkDiff(at.live, found.value, info.currency, (await carriedBy(db)).limits).filter(
    (check) => check.grave,
  );
  if (grave.length === 0) return found.value;
  const message = grave.map((fault) => fault.message).join(" ");
  return giveUp("dispatch-checks", message, "Put it right in the basket, then send.");
}

/** What of a diff stands at the channel by its answers: what moved, what it left with why, and what it made otherwise. */
function whatStands({ live }: AccountAt, meant: Diff<AccountRecord>, { answers, brokeOff }: Delivered) {
  const moved: [string, AccountRecord | null, AccountRecord | null][] = [];
  const left = new Map<string, string>();
  const otherwise = new Map<string, string>();
  for (const [key, , after] of diffRows(meant)) {
    const answer = answers.get(key);
    const stands = answer === undefined ? undefined : answer.state === "taken" ? after : answer.stands;
    if (answer === undefined) left.set(key, `It was not sent: ${brokeOff?.message ?? "the channel did not answer."}`);
    else if (answer.state === "refused") left.set(key, answer.reason);
    else if (answer.state === "changed") otherwise.set(key, answer.reason);
    const before = live.get(key) ?? null;
    if (stands !== undefined && !sameValue(before, stands)) moved.push([key, before, stands]);
  }
  return { diff: diffOf(moved), left, otherwise };
}

/** Keys that are looked at in one go. */
const LOOKED_AT_ONCE = 2000;

/**
 * Reads back what the channel has of a dispatch, and notes how much of it is as it was meant.
 * @param isTold whether it is known what stands at a channel of files, since a file from there was read
 */
export async function lookAtArrival(
  db: Database,
  info: WorkspaceInfo,
  dispatch: number,
  isTold = false,
): Promise<void> {
  const { kind, channel } = await channelOf(db, info);
  if (kind === "files" && !isTold) return;
  // Books beside the account are held against it within the database: nearly always all is there to the letter.
  if (kind !== "http" && (await isThereToTheLetter(db, dispatch))) return;
  const changes = await db
    .select({ key: dispatchChanges.key, after: dispatchChanges.after })
    .from(dispatchChanges)
    .where(eq(dispatchChanges.dispatch, dispatch));
  let asMeant = 0;
  try {
    for (let from = 0; from < changes.length; from += LOOKED_AT_ONCE) {
      const part = changes.slice(from, from + LOOKED_AT_ONCE);
      const stands = await channel.look(part.map(({ key }) => key));
      asMeant += part.filter(({ key, after }) => sameValue(stands.get(key) ?? null, after)).length;
    }
  } catch (error) {
    // It was sent whether it can be looked at now or not.
    if (error instanceof FailureError) return;
    throw error;
  }
  await db.update(dispatches).set({ asMeant }).where(eq(dispatches.id, dispatch));
}

/** Notes that all of a dispatch stands in the channel's books as it was sent, where it does. */
async function isThereToTheLetter(db: Database, dispatch: number): Promise<boolean> {
  const { rowsAffected } = await db.$client.execute({
    sql: `UPDATE dispatches SET as_meant = size WHERE id = ?1 AND NOT EXISTS (
        SELECT 1 FROM dispatch_changes c LEFT JOIN channel_books b ON b.key = c.key
        WHERE c.dispatch = ?1 AND CASE WHEN c.after IS NULL THEN b.key IS NOT NULL ELSE b.body IS NULL OR b.body <> c.after END)`,
    args: [dispatch],
  });
  return rowsAffected === 1;
}

/** What waits is sealed when a person sends it; a job that was queued another way seals what there is when it starts. */
async function sealFor({ db, id, who }: JobContext): Promise<void> {
  await commit(db, who, null, ({ sealedPart }) =>
    sealedPart >= 0 ? fail("sealed", "It is sealed already.") : ok({ seal: { job: id }, told: null, value: null }),
  );
}

/** What lies in the sealed part of the basket. */
function sealedDiff({ sealed }: AccountAt): Outcome<Diff<AccountRecord>> {
  return diffSize(sealed) > 0 ? ok(sealed) : fail("basket-empty", "The basket is empty: there is nothing to send.");
}

/** What takes a dispatch back in the account as it is, or why that can't be done. */
export async function inverseOf(db: Database, at: AccountAt, id: number): Promise<Outcome<Diff<AccountRecord>>> {
  const [found] = await db
    .select()
    .from(dispatches)
    .where(and(eq(dispatches.id, id), isNull(dispatches.takenBackBy)));
  if (!found) return fail("dispatch-not-takeable", "That dispatch is not there, or was taken back already.");
  const changes = await db.select().from(dispatchChanges).where(eq(dispatchChanges.dispatch, id));
  const inverse = invertDiff(asDiff(changes));
  const overtaken = overtakenBy(at.live, inverse, "Nothing was taken back.");
  if (overtaken) return { ok: false, error: { ...overtaken, code: "dispatch-overtaken" } };
  return pastBasket(at, inverse, "Nothing was taken back.");
}

/** Whether a change can go out past the basket: nothing would hang in the air, and the basket holds nothing of the same records. */
function pastBasket(at: AccountAt, diff: Diff<AccountRecord>, kept: string): Outcome<Diff<AccountRecord>> {
  // What the basket hangs below it counts too: it could not be sent any more.
  const [left] = [...leftBehind(at.live, diff), ...leftBehind(at.planned, diff)];
  if (left) {
    return fail(
      "dispatch-holds-more",
      `"${recordName(at.planned, left)}" would hang in the air. ${kept}`,
      "Take back what hangs below as well, or take it out of the basket.",
    );
  }
  const keys = new Set(diffRows(diff).map(([key]) => key));
  const waiting = at.rows.find(({ key }) => keys.has(key));
  if (waiting) {
    const record = waiting.after ?? waiting.before;
    return fail(
      "basket-in-use",
      `The basket holds a change of ${record ? `"${recordName(at.planned, record)}"` : "the same record"} that was not sent.`,
      "Send it or take it out of the basket first.",
    );
  }
  return ok(diff);
}

/**
 * The change of an experiment, where all of its records are as they were; or what takes it back, of what still stands as it was
 * made: what somebody changed since is theirs.
 */
async function switchOf(
  db: Database,
  at: AccountAt,
  { experiment, isOn }: NonNullable<Switches>,
): Promise<Outcome<Diff<AccountRecord>>> {
  const [row] = await db.select().from(experiments).where(eq(experiments.id, experiment));
  if (!row) return fail("experiment-unknown", `There is no experiment ${experiment}.`);
  // It may have been ended while the switch waited.
  if (isOn && row.endedDay !== null)
    return fail("experiment-ended", "The experiment was ended before it was switched.");
  const diff = isOn ? row.diff : invertDiff(partThatStands(at.live, row.diff, "after"));
  if (diffSize(diff) === 0) return fail("experiment-as-it-was", "Nothing of the experiment stands any more.");
  const kept = "The experiment was not switched.";
  const overtaken = overtakenBy(at.live, diff, kept);
  return overtaken ? { ok: false, error: overtaken } : pastBasket(at, diff, kept);
}

/** Where a switch comes from, in words. */
async function causeOfSwitch(db: Database, { experiment, isOn }: NonNullable<Switches>) {
  const [row] = await db.select().from(experiments).where(eq(experiments.id, experiment));
  const reason = `Experiment “${row?.definition.name ?? experiment}”: ${isOn ? "a day with the change" : "back to how it was"}`;
  return { experiment, reason: reason.slice(0, 300) };
}

/** What the channel took is taken once when the same is sent again, and here all is written at once: there is nothing to undo. */
async function rollBack(): Promise<void> {}

export const dispatchJob: JobHandler = { run, rollBack };
