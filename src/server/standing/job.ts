import { sumExpected } from "@/core/moves/move";
import { stoppedBy, takeMoves } from "@/core/moves/standing-order";
import type { Database } from "@/db/client";
import { readAccount } from "../account/state";
import { approvalOf } from "../account/approval";
import { startDispatch } from "../dispatch/dispatches";
import { enqueueJob, isResting } from "../jobs/jobs";
import type { JobContext, JobHandler } from "../jobs/work";
import { acceptChosen } from "../moves/accept";
import { openMoves } from "../moves/moves";
import {
  dueOrders,
  hasOrders,
  keepRuns,
  lastDays,
  ordersOn,
  runInWords,
  switchOrder,
  type StandingRun,
} from "../moves/standing-orders";
import { NOBODY } from "../person";
import { resultDays } from "../results/load";
import { noteChange } from "../workspaces";

/** What a job of standing orders did. */
export interface StandingDone {
  sent: number;
  waits: number;
  stopped: string[];
}

type Where = Pick<JobContext, "db" | "info">;
type Due = Awaited<ReturnType<typeof dueOrders>>[number];
type Run = Omit<StandingRun, "id" | "order" | "at" | "day">;

const NOTHING: Run = { outcome: "nothing", moves: 0, changes: 0, spend: 0, left: 0, note: "" };

/**
 * Makes the standing orders that are due. Those that are on put their moves into the basket, and these are sent together, through
 * the same checks and the same writer as a person; where something else waits there, somebody has to approve, or a check holds
 * them up, they wait with it.
 * @param open works out the moves that are open
 */
export async function makeDueOrders({ db, info }: Where, open = openMoves): Promise<StandingDone> {
  const done: StandingDone = { sent: 0, waits: 0, stopped: [] };
  const span = await resultDays(db);
  if (!span) return done;
  const due = await dueOrders(db, span.to);
  const { waiting, version: before } = await readAccount(db);
  const runs: { order: Due; run: Run }[] = [];
  const held: string[] = waiting > 0 ? [OTHERS_WAIT] : [];
  let version = before;
  for (const order of due) {
    const one = await runOrder({ db, info }, order, open);
    runs.push({ order, run: one.run });
    if (one.holdsUp) held.push(`A check speaks against it: ${one.holdsUp}`);
    if (one.version === null) continue;
    // What somebody decided while this was worked out lies in the basket too, and nobody looked at it as a whole.
    if (one.version !== version + 1) held.push(OTHERS_WAIT);
    version = one.version;
  }
  const accepted = runs.filter(({ run }) => run.outcome === "waits");
  if (accepted.length > 0) {
    if (held.length === 0 && (await approvalOf(db)).isNeeded) held.push("Somebody has to approve what is sent.");
    const on = new Set((await ordersOn(db)).map(({ id }) => id));
    if (accepted.some(({ order }) => !on.has(order.id))) held.push("It was stopped while this was worked out.");
    const sent = held.length === 0 ? await startDispatch(db, NOBODY, version) : null;
    if (sent && !sent.ok) held.push(sent.error.message);
    for (const { order, run } of accepted) {
      run.outcome = held.length === 0 ? "sent" : "waits";
      run.note = held[0] ?? "";
      const words = runInWords(order.definition, run.moves, held.length === 0 ? "sent" : "put into the basket");
      await noteChange(db, words, run.note, "moves", `standing-order/${order.id}`);
    }
  }
  for (const { order, run } of runs) {
    if (run.outcome === "sent") done.sent += run.moves;
    if (run.outcome === "waits") done.waits += run.moves;
    if (run.outcome === "stopped") done.stopped.push(order.definition.name);
  }
  const at = Date.now();
  await keepRuns(
    db,
    span.to,
    runs.map(({ order, run }) => ({ ...run, order: order.id, at, day: span.to })),
  );
  return done;
}

const OTHERS_WAIT = "Something else waits in the basket, and goes out with it.";

/** Makes one: `waits` stands for moves that are in the basket now, and go out where nothing holds them up. */
async function runOrder(
  { db, info }: Where,
  { id, definition, state }: Due,
  open: typeof openMoves,
): Promise<{ run: Run; holdsUp: string | null; version: number | null }> {
  const plain = (run: Partial<Run>) => ({ run: { ...NOTHING, ...run }, holdsUp: null, version: null });
  const stops = stoppedBy(definition, await lastDays(db), info.currency);
  if (stops) {
    if (state !== "on") return plain({ outcome: "stopped", note: `It would stop: ${stops}` });
    await switchOrder(db, NOBODY, id, "stopped", `Its guard: ${stops}`);
    return plain({ outcome: "stopped", note: stops });
  }
  const found = await open(db, info);
  if (!found.ok) return plain({ outcome: "failed", note: found.error.message });
  const { all, moves } = found.value;
  const taken = takeMoves(definition, moves, info.currency);
  const left = Object.values(taken.left).reduce((sum, count) => sum + count, 0);
  const spend = Math.round(sumExpected(taken.moves.map(({ expected }) => expected)).cost);
  const told = { moves: taken.moves.length, spend, left };
  if (taken.moves.length === 0) return plain({ left });
  if (state !== "on") return plain({ ...told, outcome: "watched" });
  const who = `${NOBODY}, “${definition.name}”`;
  const accepted = await acceptChosen(db, info, who, null, { all, moves: taken.moves, changed: [] });
  if (!accepted.ok) return plain({ ...told, outcome: "failed", note: accepted.error.message });
  const { changes, newChecks, version } = accepted.value;
  const stop = newChecks.find(({ grave }) => grave);
  return { run: { ...NOTHING, ...told, changes, outcome: "waits" }, holdsUp: stop?.message ?? null, version };
}

/** Each order is kept as a whole or not at all, so there is nothing to roll back. */
export const standingOrdersJob: JobHandler = { run: (context) => makeDueOrders(context), rollBack: async () => {} };

/** Queues the standing orders once new results make one of them due. */
export async function queueDueOrders(db: Database): Promise<void> {
  // Asked every few seconds of every workspace: most have none.
  if (!(await hasOrders(db))) return;
  const span = await resultDays(db);
  if (!span || (await dueOrders(db, span.to)).length === 0) return;
  if (await isResting(db, "standing-orders")) return;
  await enqueueJob(db, "standing-orders", {});
}
