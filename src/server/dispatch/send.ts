import { and, eq, sql } from "drizzle-orm";
import { z } from "zod";
import { checkDiff } from "@/core/dispatch/checks";
import { describeDiff } from "@/core/dispatch/describe";
import { applyDiff, diffSize } from "@/core/kit/diff";
import { plural } from "@/core/kit/format";
import { giveUp } from "@/core/kit/outcome";
import { basket, dispatchChanges, dispatches, records } from "@/db/schema";
import { bulkInsert } from "../bulk";
import type { JobContext, JobHandler } from "../jobs/work";
import { resultDays } from "../results/load";
import { asDiff, diffRows, liveStructure } from "./structure";

export const dispatchJobSchema = z.object({
  /** The dispatch that this one takes back, or null for sending the basket. */
  takesBack: z.int().nullable(),
});

/**
 * Sends the basket to the channel: one transaction moves the changes from the basket into the account and the history,
 * so a kill at any moment leaves either all or nothing.
 */
async function run(context: JobContext, raw: unknown) {
  const { takesBack } = dispatchJobSchema.parse(raw);
  const { db, info } = context;
  const [sent] = await db.select().from(dispatches).where(eq(dispatches.job, context.id));
  if (sent) return { dispatch: sent.id, changes: sent.size };
  const live = await liveStructure(db);
  const held = await db.select().from(basket);
  const diff = asDiff(held);
  if (diffSize(diff) === 0) giveUp("basket-empty", "The basket is empty: there is nothing to send.");
  const faults = checkDiff(live, diff, info.currency).filter((check) => check.grave);
  if (faults.length > 0) {
    giveUp("dispatch-checks", faults.map((fault) => fault.message).join(" "), "Put it right in the basket, then send.");
  }
  await context.progress(0, diffSize(diff), "changes");
  const words = describeDiff(live, diff, info.currency);
  const rows = diffRows(diff);
  const days = await resultDays(db);
  const after = applyDiff(live, diff);
  const tx = await db.$client.transaction("write");
  try {
    const { rows: made } = await tx.execute({
      sql: `INSERT INTO dispatches (job, state, created_at, sent_at, from_day, size, words, takes_back)
            VALUES (?, 'sent', ?, ?, ?, ?, ?, ?) RETURNING id`,
      args: [
        context.id,
        Date.now(),
        Date.now(),
        days ? days.to + 1 : null,
        rows.length,
        JSON.stringify(words),
        takesBack,
      ],
    });
    const dispatch = Number(made[0]![0]);
    const json = (value: unknown) => (value === null ? null : JSON.stringify(value));
    await bulkInsert(
      tx,
      dispatchChanges,
      ["dispatch", "key", "before", "after"],
      rows.map(([key, before, next]) => [dispatch, key, json(before), json(next)]),
    );
    await tx.execute({
      sql: "DELETE FROM records WHERE key IN (SELECT value FROM json_each(?))",
      args: [JSON.stringify(rows.map(([key]) => key))],
    });
    const kept = rows.filter(([key]) => after[key]);
    await bulkInsert(
      tx,
      records,
      ["key", "type", "body"],
      kept.map(([key]) => [key, after[key]!.type, JSON.stringify(after[key])]),
    );
    await tx.execute("DELETE FROM basket");
    if (takesBack !== null) {
      await tx.execute({ sql: "UPDATE dispatches SET taken_back_by = ? WHERE id = ?", args: [dispatch, takesBack] });
    }
    await tx.execute({
      sql: "INSERT INTO change_log (at, who, what, why, place) VALUES (?, 'you', ?, '', 'dispatch')",
      args: [Date.now(), `Dispatch ${dispatch} sent: ${plural(rows.length, "change")}`],
    });
    await tx.commit();
    return { dispatch, changes: rows.length };
  } finally {
    tx.close();
  }
}

/** A dispatch is one transaction, so there is never half of one to undo. */
async function rollBack(): Promise<void> {}

export const dispatchJob: JobHandler = { run, rollBack };

/** Whether a dispatch is there and not taken back yet. */
export async function takeableDispatch(db: JobContext["db"], id: number) {
  const [found] = await db
    .select()
    .from(dispatches)
    .where(and(eq(dispatches.id, id), sql`${dispatches.takenBackBy} IS NULL`));
  return found ?? null;
}
