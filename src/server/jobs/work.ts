import { and, asc, eq, sql } from "drizzle-orm";
import { FailureError, type Failure } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { jobs } from "@/db/schema";
import { log } from "../log";
import { actAs } from "../person";
import type { WorkspaceInfo } from "../workspaces";
import { queueShelves, type JobKind } from "./jobs";

/** What a running job is given. */
export interface JobContext {
  id: string;
  db: Database;
  info: WorkspaceInfo;
  /** Who asked for it. */
  who: string;
  /** Reports progress, at most a few times a second. @throws Cancelled when a person asked it to stop. */
  progress(done: number, total: number | null, unit: string): Promise<void>;
}

/** How a kind of job is run, and how a half-done run is undone (after a kill, a failure or a cancel). Both may repeat. */
export interface JobHandler {
  run(context: JobContext, input: unknown): Promise<unknown>;
  rollBack(context: JobContext, input: unknown): Promise<void>;
}

export type JobHandlers = Record<JobKind, JobHandler>;

/** Thrown out of a job when a person cancelled it. */
export class Cancelled extends Error {}

/** A job is taken up again after kills this often; then it fails. */
const MOST_ATTEMPTS = 3;
const PROGRESS_EVERY_MS = 200;

/** Work after which items may stand on other shelves. */
const MOVES_SHELVES = new Set<JobKind>([
  ...(["feed-import", "catalogue-finish", "market-run", "report-import", "report-undo"] as const),
]);

/** Takes the oldest waiting job, shelves after all that may move them, or that of an ID; null when none waits. Two runners can't take the same one. */
export async function claimJob(db: Database, runner: string, id?: string) {
  const waits = eq(jobs.state, "waiting");
  const [next] = await db
    .select({ id: jobs.id })
    .from(jobs)
    .where(id === undefined ? waits : and(waits, eq(jobs.id, id)))
    .orderBy(sql`${jobs.kind} = 'shelves'`, asc(jobs.createdAt))
    .limit(1);
  if (!next) return null;
  const [claimed] = await db
    .update(jobs)
    .set({ state: "running", runner, heartbeat: Date.now() })
    .where(and(eq(jobs.id, next.id), eq(jobs.state, "waiting")))
    .returning();
  return claimed ?? null;
}

/** Runs one claimed job to its end and stores how it ended. Never throws for what the job did. */
export async function runJob(
  db: Database,
  info: WorkspaceInfo,
  handlers: JobHandlers,
  job: typeof jobs.$inferSelect,
): Promise<void> {
  const handler = handlers[job.kind as JobKind];
  const context = makeContext(db, info, job);
  const end = (state: "done" | "failed" | "cancelled", result: unknown, error: Failure | null) =>
    db.update(jobs).set({ state, result, error, endedAt: Date.now() }).where(eq(jobs.id, job.id));
  try {
    if (job.attempts > 0) await handler.rollBack(context, job.input);
    const result = await actAs(job.who, () => handler.run(context, job.input));
    await end("done", result, null);
  } catch (error) {
    await handler.rollBack(context, job.input);
    if (error instanceof Cancelled) {
      await end("cancelled", null, null);
    } else if (error instanceof FailureError) {
      await end("failed", null, error.failure);
    } else {
      log.error({ err: error, job: job.id }, "job failed unexpectedly");
      await end("failed", null, {
        code: "unexpected",
        message: `Something unforeseen went wrong. Nothing was changed. Reference ${job.id.slice(0, 8)}.`,
        hint: "Try again; if it happens again, the log has the details under that reference.",
      });
    }
    return;
  }
  if (!MOVES_SHELVES.has(job.kind as JobKind)) return;
  // What is done stays done: if shelves can't be queued now, they follow after the next job that moves them.
  await queueShelves(db).catch((error: unknown) => log.error({ err: error, job: job.id }, "shelves were not queued"));
}

function makeContext(db: Database, info: WorkspaceInfo, { id, who }: { id: string; who: string }): JobContext {
  let last = 0;
  return {
    id,
    db,
    info,
    who,
    async progress(done, total, unit) {
      const now = Date.now();
      if (now - last < PROGRESS_EVERY_MS) return;
      last = now;
      const [row] = await db
        .update(jobs)
        .set({ done, total, unit, heartbeat: now })
        .where(eq(jobs.id, id))
        .returning({ cancelAsked: jobs.cancelAsked });
      if (row?.cancelAsked) throw new Cancelled();
    },
  };
}

/**
 * Puts jobs whose runner died back in the queue; their half-done work is rolled back before they run again.
 * @param own jobs that the caller runs itself at this moment
 */
export async function recoverJobs(
  db: Database,
  info: WorkspaceInfo,
  handlers: JobHandlers,
  own: ReadonlySet<string> = new Set(),
): Promise<number> {
  const running = await db.select().from(jobs).where(eq(jobs.state, "running"));
  const lost = running.filter(({ id }) => !own.has(id));
  for (const job of lost) {
    const attempts = job.attempts + 1;
    await handlers[job.kind as JobKind].rollBack(makeContext(db, info, job), job.input);
    if (job.cancelAsked || attempts >= MOST_ATTEMPTS) {
      const error = job.cancelAsked
        ? null
        : {
            code: "job-lost",
            message: "The work was broken off three times. Nothing was changed.",
            hint: "Try again.",
          };
      const state = job.cancelAsked ? "cancelled" : "failed";
      await db.update(jobs).set({ state, error, attempts, endedAt: Date.now() }).where(eq(jobs.id, job.id));
    } else {
      await db.update(jobs).set({ state: "waiting", attempts, runner: null }).where(eq(jobs.id, job.id));
    }
  }
  return lost.length;
}
