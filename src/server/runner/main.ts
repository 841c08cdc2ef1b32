import { setTimeout as sleep } from "node:timers/promises";
import { log } from "../log";
import { findWorkspace, workspaceSlugs } from "../workspaces";
import { queueDueFetches } from "../catalogue/schedule";
import { queueDueShelves } from "../shelves/job";
import { jobHandlers } from "./handlers";
import type { JobKind } from "../jobs/jobs";
import { takeLock } from "./lock";
import { claimJob, recoverJobs, runJob } from "../jobs/work";

const POLL_MS = 250;
/** How often feeds are looked at for one that is due. */
const DUE_EVERY_MS = 5000;
/** Work that mostly waits for another machine: it runs beside the others and keeps nobody waiting. */
const WAITING_KINDS = new Set<JobKind>(["feed-fetch", "link-check"]);

/** Jobs that this runner does not run and that yet count as running are looked for this often. */
const LOST_EVERY_MS = 15_000;

/** The runner of all workspaces: their jobs one after another, and feeds that are due. */
class Runner {
  private lastDue = 0;
  private lastLost = 0;
  /** Jobs of ours that run beside the others. */
  private readonly beside = new Set<string>();
  /** Workspaces that could not be opened, so that each is told once. */
  private readonly broken = new Set<string>();

  constructor(private readonly name: string) {}

  /** Goes round all workspaces once. @returns whether there was work */
  async round(): Promise<boolean> {
    const now = Date.now();
    const isDueTime = now - this.lastDue >= DUE_EVERY_MS;
    const isLostTime = now - this.lastLost >= LOST_EVERY_MS;
    if (isDueTime) this.lastDue = now;
    if (isLostTime) this.lastLost = now;
    let worked = false;
    for (const slug of await workspaceSlugs()) {
      try {
        worked = (await this.work(slug, isDueTime, isLostTime)) || worked;
        this.broken.delete(slug);
      } catch (error) {
        // One workspace that can't be opened keeps none of the others waiting.
        if (!this.broken.has(slug)) log.error({ err: error, slug }, "this workspace's jobs can't be run");
        this.broken.add(slug);
      }
    }
    return worked;
  }

  private async work(slug: string, isDueTime: boolean, isLostTime: boolean): Promise<boolean> {
    const found = await findWorkspace(slug);
    if (!found) return false;
    const { db, info } = found;
    if (isLostTime) {
      // Nobody else runs jobs of this folder, so what runs and is not ours was left by a runner that is gone.
      const count = await recoverJobs(db, info, jobHandlers, this.beside);
      if (count > 0) log.info({ slug, count }, "took up jobs that a stopped runner left");
    }
    if (isDueTime) {
      await queueDueShelves(db, info).catch((error: unknown) =>
        log.error({ err: error, slug }, "looking for due shelves failed"),
      );
      await queueDueFetches(db, info).catch((error: unknown) =>
        log.error({ err: error, slug }, "looking for due feeds failed"),
      );
    }
    const job = await claimJob(db, this.name);
    if (!job) return false;
    log.info({ slug, job: job.id, kind: job.kind }, "job starts");
    if (!WAITING_KINDS.has(job.kind as JobKind)) {
      await runJob(db, info, jobHandlers, job);
      return true;
    }
    this.beside.add(job.id);
    runJob(db, info, jobHandlers, job)
      .catch((error: unknown) => log.error({ err: error, job: job.id }, "a job beside the others broke"))
      .finally(() => this.beside.delete(job.id));
    return true;
  }
}

/** Runs jobs until told to stop. */
async function main(): Promise<void> {
  const lock = await takeLock();
  let stopping = false;
  for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => (stopping = true));
  // When the start script goes, its pipe closes and so does the runner.
  process.stdin.on("end", () => (stopping = true)).resume();
  const runner = new Runner(`${process.pid}`);
  while (!stopping) {
    const worked = await runner.round().catch((error: unknown) => {
      log.error({ err: error }, "the list of workspaces can't be read");
      return false;
    });
    if (!worked) await sleep(POLL_MS);
  }
  await lock.release();
  process.exit(0);
}

main().catch((error: unknown) => {
  log.error({ err: error }, "the runner stopped");
  process.exit(1);
});
