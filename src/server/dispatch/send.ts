import { and, eq, isNull } from "drizzle-orm";
import { z } from "zod";
import { checkDiff, leftBehind } from "@/core/account/checks";
import { recordName } from "@/core/account/names";
import type { AccountRecord } from "@/core/account/records";
import { describeDiff } from "@/core/account/words";
import { diffSize, invertDiff, type Diff } from "@/core/kit/diff";
import { plural } from "@/core/kit/format";
import { fail, FailureError, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { dispatchChanges, dispatches } from "@/db/schema";
import { commit } from "../account/commit";
import { overtakenBy } from "../account/edits";
import { asDiff, type AccountAt } from "../account/state";
import type { JobContext, JobHandler } from "../jobs/work";
import { resultDays } from "../results/load";

export const dispatchJobSchema = z.object({
  /** The dispatch that this one takes back, or null for sending the basket. */
  takesBack: z.int().nullable(),
});

/**
 * Sends the sealed part of the basket to the channel, or takes a dispatch back: checked and written in one transaction, so
 * a kill at any moment leaves either all or nothing.
 */
async function run(context: JobContext, raw: unknown) {
  const { takesBack } = dispatchJobSchema.parse(raw);
  const { db, info } = context;
  const [sent] = await db.select().from(dispatches).where(eq(dispatches.job, context.id));
  if (sent) {
    await lookAtArrival(db, sent.id);
    return { dispatch: sent.id, changes: sent.size };
  }
  if (takesBack === null) await sealFor(context);
  const days = await resultDays(db);
  const done = await commit(db, context.who, null, async (at) => {
    const found = takesBack === null ? sealedDiff(at) : await inverseOf(db, at, takesBack);
    if (!found.ok) return found;
    const diff = found.value;
    const grave = checkDiff(at.live, diff, info.currency).filter((check) => check.grave);
    if (grave.length > 0) {
      const message = grave.map((fault) => fault.message).join(" ");
      return fail("dispatch-checks", message, "Put it right in the basket, then send.");
    }
    await context.progress(0, diffSize(diff), "changes");
    const words = describeDiff(at.live, diff, info.currency);
    const changes = diffSize(diff);
    return ok({
      send: { diff, job: context.id, takesBack, fromDay: days ? days.to + 1 : null, words },
      told: {
        what: `Dispatch {dispatch} sent: ${plural(changes, "change")}`,
        ...{ place: "dispatch", about: "dispatch/{dispatch}" },
      },
      value: (dispatch: number | null) => ({ dispatch, changes }),
    });
  });
  if (!done.ok) throw new FailureError(done.error);
  if (done.value.dispatch !== null) await lookAtArrival(db, done.value.dispatch);
  return done.value;
}

/** Reads back what the channel has of a dispatch, and notes how much of it is as it was meant. */
export async function lookAtArrival(db: Database, dispatch: number): Promise<void> {
  await db.$client.execute({
    sql: `UPDATE dispatches SET as_meant = (
        SELECT count(*) FROM dispatch_changes c LEFT JOIN records r ON r.key = c.key
        WHERE c.dispatch = ?1 AND (CASE WHEN c.after IS NULL THEN r.key IS NULL ELSE c.after = r.body OR json(c.after) = json(r.body) END)
      ) WHERE id = ?1`,
    args: [dispatch],
  });
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
  // What the basket hangs below it counts too: it could not be sent any more.
  const [left] = [...leftBehind(at.live, inverse), ...leftBehind(at.planned, inverse)];
  if (left) {
    return fail(
      "dispatch-holds-more",
      `"${recordName(at.planned, left)}" would hang in the air. Nothing was taken back.`,
      "Take back what hangs below as well, or take it out of the basket.",
    );
  }
  const keys = new Set(changes.map(({ key }) => key));
  const waiting = at.rows.find(({ key }) => keys.has(key));
  if (waiting) {
    const record = waiting.after ?? waiting.before;
    return fail(
      "basket-in-use",
      `The basket holds a change of ${record ? `"${recordName(at.planned, record)}"` : "the same record"} that was not sent.`,
      "Send it or take it out of the basket first.",
    );
  }
  return ok(inverse);
}

/** A dispatch is one transaction, so there is never half of one to undo. */
async function rollBack(): Promise<void> {}

export const dispatchJob: JobHandler = { run, rollBack };
