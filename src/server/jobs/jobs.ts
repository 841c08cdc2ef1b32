import { randomUUID } from "node:crypto";
import { and, desc, eq, inArray, sql } from "drizzle-orm";
import type { Failure } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { jobs } from "@/db/schema";
import { person } from "../person";

export const JOB_KINDS = [
  "feed-import",
  "feed-fetch",
  "catalogue-finish",
  "link-check",
  "planogram-apply",
  "copy-apply",
  "copy-keep-up",
  "dispatch",
  "market-run",
  "market-compare",
  "report-import",
  "report-undo",
  "account-edit",
  "account-edit-undo",
  "shelves",
  "planogram-steps",
  "channel-places",
  "channel-read",
  "channel-reports",
  "standing-orders",
  "experiments",
  "stocktake",
  "alerts",
  "alert-messages",
  "make-ready",
] as const;
export type JobKind = (typeof JOB_KINDS)[number];

/**
 * Work that runs beside the others of its workspace, so that it keeps them from nothing: it mostly waits for another machine,
 * or is a trial that stores nothing.
 */
export const BESIDE_KINDS: ReadonlySet<JobKind> = new Set([
  "feed-fetch",
  "link-check",
  "market-compare",
  "channel-places",
  "channel-reports",
  "alert-messages",
]);

export interface JobView {
  id: string;
  kind: JobKind;
  state: "waiting" | "running" | "done" | "failed" | "cancelled";
  progress: { done: number; total: number | null; unit: string };
  /** Milliseconds since a running job last gave a sign; null for one that does not run. */
  quietFor: number | null;
  result: unknown;
  error: Failure | null;
}

type JobRow = typeof jobs.$inferSelect;

function view(row: JobRow): JobView {
  return {
    id: row.id,
    kind: row.kind as JobKind,
    state: row.state,
    progress: { done: row.done, total: row.total, unit: row.unit },
    quietFor: row.state === "running" && row.heartbeat !== null ? Math.max(0, Date.now() - row.heartbeat) : null,
    result: row.result ?? null,
    error: row.error ?? null,
  };
}

export type NewJob = typeof jobs.$inferInsert & { id: string };

/** A job that is not queued yet, in the name of whoever asks for it. */
export function newJob(kind: JobKind, input: unknown): NewJob {
  return { id: randomUUID(), kind, input, who: person(), state: "waiting", createdAt: Date.now() };
}

/** Queues a job within a transaction, so that it is there exactly when what it works on is. */
export async function enqueueIn(tx: Pick<Database["$client"], "execute">, job: NewJob): Promise<void> {
  await tx.execute({
    sql: "INSERT INTO jobs (id, kind, input, who, state, created_at, not_before) VALUES (?, ?, ?, ?, 'waiting', ?, ?)",
    args: [job.id, job.kind, JSON.stringify(job.input), job.who ?? "", job.createdAt, job.notBefore ?? null],
  });
}

/** Puts a job in the queue; the runner takes it up within a quarter of a second. */
export async function enqueueJob(db: Database, kind: JobKind, input: unknown): Promise<JobView> {
  const [row] = await db.insert(jobs).values(newJob(kind, input)).returning();
  return view(row as JobRow);
}

/** A job, or null. */
export async function findJob(db: Database, id: string): Promise<JobView | null> {
  const [row] = await db.select().from(jobs).where(eq(jobs.id, id));
  return row ? view(row) : null;
}

/** Jobs under way, and the last few that ended. */
export async function listJobs(db: Database): Promise<JobView[]> {
  const rows = await db.select().from(jobs).orderBy(desc(jobs.createdAt)).limit(20);
  return rows.map(view);
}

/** Asks a job to stop. A waiting one ends at once; a running one at its next step, undoing what it did. */
export async function cancelJob(db: Database, id: string): Promise<JobView | null> {
  await db
    .update(jobs)
    .set({
      cancelAsked: true,
      state: sql`CASE WHEN ${jobs.state} = 'waiting' THEN 'cancelled' ELSE ${jobs.state} END`,
      endedAt: sql`CASE WHEN ${jobs.state} = 'waiting' THEN ${Date.now()} ELSE ${jobs.endedAt} END`,
    })
    .where(and(eq(jobs.id, id), inArray(jobs.state, ["waiting", "running"])));
  return findJob(db, id);
}

/** Queues a job without input, unless one of its kind waits already; one that runs may have passed by what changed. */
async function queueOnce(db: Database, kind: JobKind): Promise<void> {
  const [waiting] = await db
    .select({ id: jobs.id })
    .from(jobs)
    .where(and(eq(jobs.kind, kind), eq(jobs.state, "waiting")))
    .limit(1);
  if (!waiting) await enqueueJob(db, kind, {});
}

/** Queues a recompute of all shelves. */
export function queueShelves(db: Database): Promise<void> {
  return queueOnce(db, "shelves");
}

/** Has views made ready for what is in force now. */
export function queueMakeReady(db: Database): Promise<void> {
  return queueOnce(db, "make-ready");
}

/** Queues a look at what planograms would have otherwise since the catalogue or shelves changed. */
export function queuePlanogramSteps(db: Database): Promise<void> {
  return queueOnce(db, "planogram-steps");
}

/** Queues a look at which text ads say figures that changed with the catalogue. */
export function queueCopyKeepUp(db: Database): Promise<void> {
  return queueOnce(db, "copy-keep-up");
}

/** After a try that failed the next one waits so long, milliseconds. */
const REST_MS = 60 * 60_000;

/** Whether a kind of work that is done by itself has nothing to begin with now: it waits, runs, or failed within the hour. */
export async function isResting(db: Database, kind: JobKind): Promise<boolean> {
  const [last] = await db
    .select({ state: jobs.state, createdAt: jobs.createdAt })
    .from(jobs)
    .where(eq(jobs.kind, kind))
    .orderBy(desc(jobs.createdAt))
    .limit(1);
  if (last?.state === "waiting" || last?.state === "running") return true;
  return last?.state === "failed" && Date.now() - last.createdAt < REST_MS;
}
