import { and, asc, eq, inArray, isNull, lte, notInArray, or, sql } from "drizzle-orm";
import { FailureError, type Failure } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { jobs } from "@/db/schema";
import { isBusy } from "@/db/turns";
import { log } from "../log";
import { actAs } from "../person";
import { storageFailure } from "../disk";
import type { WorkspaceInfo } from "../workspaces";
import { queueMakeReady, queueShelves, BESIDE_KINDS, type JobKind } from "./jobs";
import { barred } from "./may-run";

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

export type JobRow = typeof jobs.$inferSelect;

/** Thrown out of a job when a person cancelled it. */
export class Cancelled extends Error {}

/** Thrown by a job that goes on later: until then it waits like any other, and keeps nobody from working. */
export class Later extends Error {
  /** @param after how long it waits, ms @param progress what stands as done meanwhile */
  constructor(
    readonly after: number,
    readonly progress: { done: number; total: number; unit: string },
  ) {
    super("goes on later");
  }
}

/** A job is taken up again after kills this often; then it fails. */
const MOST_ATTEMPTS = 3;
const PROGRESS_EVERY_MS = 200;

/** Work after which items may stand on other shelves. */
const MOVES_SHELVES = new Set<JobKind>([
  ...(["feed-import", "catalogue-finish", "market-run", "report-import", "report-undo"] as const),
]);

/** Which of the waiting jobs is wanted: that of an ID, or the first whose kind waits for other machines, or does not. */
export interface Claim {
  id?: string;
  waitsForOthers?: boolean;
}

/** Takes the oldest waiting job that is due, shelves after all that may move them, and views are made ready after those; null when none waits. Two runners can't take the same one. */
export async function claimJob(
  db: Database,
  runner: string,
  { id, waitsForOthers }: Claim = {},
): Promise<JobRow | null> {
  const waitingKinds = [...BESIDE_KINDS];
  const [next] = await db
    .select({ id: jobs.id })
    .from(jobs)
    .where(
      and(
        eq(jobs.state, "waiting"),
        or(isNull(jobs.notBefore), lte(jobs.notBefore, Date.now())),
        id === undefined ? undefined : eq(jobs.id, id),
        waitsForOthers === undefined ? undefined : (waitsForOthers ? inArray : notInArray)(jobs.kind, waitingKinds),
      ),
    )
    .orderBy(sql`${jobs.kind} = 'make-ready'`, sql`${jobs.kind} = 'shelves'`, asc(jobs.createdAt))
    .limit(1);
  if (!next) return null;
  const [claimed] = await db
    .update(jobs)
    .set({ state: "running", runner, heartbeat: Date.now() })
    .where(and(eq(jobs.id, next.id), eq(jobs.state, "waiting")))
    .returning();
  return claimed ?? null;
}

type Ended = "done" | "failed" | "cancelled";

function end(db: Database, id: string, state: Ended, result: unknown, error: Failure | null) {
  return db.update(jobs).set({ state, result, error, endedAt: Date.now() }).where(eq(jobs.id, id));
}

/** Runs one claimed job to its end and stores how it ended. Never throws for what the job did. */
export async function runJob(db: Database, info: WorkspaceInfo, handlers: JobHandlers, job: JobRow): Promise<void> {
  const handler = handlers[job.kind as JobKind];
  const context = makeContext(db, info, job);
  try {
    const failure = await barred(job, info.slug);
    if (failure) throw new FailureError(failure);
    const result = await actAs(job.who, () => handler.run(context, job.input));
    // Before it is told that it is done: whoever hears that and waits for the rest finds it queued.
    if (MOVES_SHELVES.has(job.kind as JobKind)) await queueWhatFollows(db, job.id);
    await end(db, job.id, "done", result, null);
  } catch (error) {
    if (error instanceof Later) {
      const notBefore = Date.now() + error.after;
      await db
        .update(jobs)
        .set({ state: "waiting", notBefore, ...error.progress })
        .where(eq(jobs.id, job.id));
      return;
    }
    await endBroken(context, handler, job, error);
    return;
  }
}

/** Queues what items, shelves and views need after new data. If that can't be done now, it follows after the next job of its kind. */
async function queueWhatFollows(db: Database, job: string): Promise<void> {
  await queueShelves(db).catch((error: unknown) => log.error({ err: error, job }, "shelves were not queued"));
  await queueMakeReady(db).catch((error: unknown) => log.error({ err: error, job }, "views are not made ready"));
}

/** Takes back what a job had half done, and stores why it ended. */
async function endBroken(context: JobContext, handler: JobHandler, job: JobRow, error: unknown): Promise<void> {
  let failure: Failure = {
    code: "unexpected",
    message: `Something unforeseen went wrong. What was half done was taken back. Reference ${job.id.slice(0, 8)}.`,
    hint: "Try again; if it happens again, the log has the details under that reference.",
  };
  const noRoom = storageFailure(error);
  if (error instanceof FailureError) failure = error.failure;
  else if (noRoom) failure = noRoom;
  else if (!(error instanceof Cancelled)) log.error({ err: error, job: job.id }, "job failed unexpectedly");
  try {
    await handler.rollBack(context, job.input);
  } catch (trouble) {
    // What could not be taken back now is when the next runner looks for lost jobs; the job counts as running till then.
    log.error({ err: trouble, job: job.id }, "a job could not be taken back");
    return;
  }
  if (error instanceof Cancelled) await end(context.db, job.id, "cancelled", null, null);
  else await end(context.db, job.id, "failed", null, failure);
}

function makeContext(db: Database, info: WorkspaceInfo, { id, who }: { id: string; who: string }): JobContext {
  // Not the clock of the day, which can be set back and would hold up all that is told until it has caught up.
  let last = -Infinity;
  return {
    id,
    db,
    info,
    who,
    async progress(done, total, unit) {
      const now = performance.now();
      if (now - last < PROGRESS_EVERY_MS) return;
      last = now;
      const told = db
        .update(jobs)
        .set({ done, total, unit, heartbeat: Date.now() })
        .where(eq(jobs.id, id))
        .returning({ cancelAsked: jobs.cancelAsked });
      // Where another process writes for long it is told next time: that is no reason to give the work up.
      const [row] = await told.catch((error: unknown) => {
        if (isBusy(error)) return [];
        throw error;
      });
      if (row?.cancelAsked) throw new Cancelled();
    },
  };
}

/** Jobs that count as running, but for those that the caller runs itself when it asks. */
export async function lostJobs(db: Database, own: ReadonlySet<string>): Promise<JobRow[]> {
  // As it is now: one that ends while the rows are read is still among them, and would be taken back once more.
  const held = new Set(own);
  const running = await db.select().from(jobs).where(eq(jobs.state, "running"));
  return running.filter(({ id }) => !held.has(id));
}

/** Counts one more time that a job was broken off, before anything is done about it. A runner's own orderly end counts as none. */
export async function countAttempt(db: Database, job: JobRow): Promise<JobRow> {
  const attempts = job.attempts + (job.runner === null ? 0 : 1);
  await db.update(jobs).set({ attempts }).where(eq(jobs.id, job.id));
  return { ...job, attempts };
}

/** Notes that a runner left a job on purpose, so that the next one takes it up without counting it as broken. */
export async function leaveJob(db: Database, id: string): Promise<void> {
  await db
    .update(jobs)
    .set({ runner: null })
    .where(and(eq(jobs.id, id), eq(jobs.state, "running")));
}

/**
 * Puts a job that was broken off back in the queue, its half-done work rolled back; or ends it.
 * @param job as {@link countAttempt} left it
 * @param failure why it is ended, where it must not run again
 */
export async function recoverJob(
  db: Database,
  info: WorkspaceInfo,
  handlers: JobHandlers,
  job: JobRow,
  failure: Failure | null = null,
): Promise<void> {
  await handlers[job.kind as JobKind].rollBack(makeContext(db, info, job), job.input);
  await settleLost(db, job, failure);
}

/** Stores what becomes of a job that was broken off and rolled back. */
export async function settleLost(db: Database, job: JobRow, failure: Failure | null): Promise<void> {
  const [now] = await db.select({ cancelAsked: jobs.cancelAsked }).from(jobs).where(eq(jobs.id, job.id));
  if (now?.cancelAsked) await end(db, job.id, "cancelled", null, null);
  else if (failure) await end(db, job.id, "failed", null, failure);
  else if (job.attempts >= MOST_ATTEMPTS) {
    await end(db, job.id, "failed", null, {
      code: "job-lost",
      message: "The work was broken off three times. What was half done was taken back.",
      hint: "Try again.",
    });
  } else await db.update(jobs).set({ state: "waiting", runner: null }).where(eq(jobs.id, job.id));
}
