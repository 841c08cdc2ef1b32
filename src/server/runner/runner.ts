import { setTimeout as sleep } from "node:timers/promises";
import { eq } from "drizzle-orm";
import type { Failure } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { jobs } from "@/db/schema";
import { queueDueFetches } from "../catalogue/schedule";
import type { JobKind } from "../jobs/jobs";
import { claimJob, countAttempt, leaveJob, lostJobs, settleLost, type JobRow } from "../jobs/work";
import { freeBytes } from "../disk";
import { log } from "../log";
import { queueDuePlaces } from "../dispatch/channel-places";
import { queueDueReports } from "../dispatch/channel-reports";
import { queueDueShelves } from "../shelves/job";
import { workspaceSlugs } from "../registry";
import { findWorkspace, type WorkspaceInfo } from "../workspaces";
import type { Hands, Loss } from "./hands";

/** How often feeds, shelves and places are looked at for what is due, and the jobs for such as count as running and are not. */
const DUE_EVERY_MS = 5000;
const LOST_EVERY_MS = 15_000;
/** Workspaces whose jobs run at a time, and jobs that wait for other machines. A workspace has one of the former. */
const MOST_AT_ONCE = 8;
const MOST_BESIDE = 8;
const END_GRACE_MS = 3000;
/** After so many times broken off, a job is not even rolled back any more: that is what breaks. */
const HOPELESS = 6;
/** Room that rolling back a job needs at least, bytes. */
const LEAST_FREE = 20 * 1024 * 1024;

/** Why a job was ended, in words; null where it may run again. */
function lossFailure(loss: Loss, kind: JobKind): Failure | null {
  const taken = "What was half done was taken back.";
  const code = "job-ended";
  switch (loss) {
    case "memory":
      return {
        code,
        message: `This work needed more memory than one job may have, and was ended. ${taken}`,
        hint: "Give it less at a time, or raise HOTSHELF_JOB_MEMORY_MB.",
      };
    case "quiet":
      return {
        code,
        message: `This work gave no sign of life for minutes and was ended. ${taken}`,
        hint: kind.endsWith("import") ? "The file may be damaged; export it again." : "Try again.",
      };
    case "deadline":
      return {
        code,
        message: `This work took longer than any such work may, and was ended. ${taken}`,
        hint: "Give it less at a time.",
      };
    default:
      return null;
  }
}

/** The runner of all workspaces: sees to it that jobs are taken up, done in other processes, and ended; and what is due. */
export class Runner {
  private lastDue = -Infinity;
  private lastLost = -Infinity;
  /** Jobs of ours, by ID, and the workspaces that have one that is not beside the others. */
  private readonly own = new Set<string>();
  private readonly working = new Set<string>();
  private beside = 0;
  /** Workspaces that could not be opened, so that each is told once. */
  private readonly broken = new Set<string>();
  private readonly underWay = new Set<Promise<void>>();

  constructor(
    private readonly name: string,
    private readonly hands: Hands,
  ) {}

  /** Goes round all workspaces once. @returns whether something was taken up */
  async round(): Promise<boolean> {
    const now = performance.now();
    const isDueTime = now - this.lastDue >= DUE_EVERY_MS;
    const isLostTime = now - this.lastLost >= LOST_EVERY_MS;
    if (isDueTime) this.lastDue = now;
    if (isLostTime) this.lastLost = now;
    let worked = false;
    for (const slug of await workspaceSlugs()) {
      try {
        worked = (await this.lookAt(slug, isDueTime, isLostTime)) || worked;
        this.broken.delete(slug);
      } catch (error) {
        // One workspace that can't be opened keeps none of the others waiting.
        if (!this.broken.has(slug)) log.error({ err: error, slug }, "this workspace's jobs can't be run");
        this.broken.add(slug);
      }
    }
    return worked;
  }

  /** Lets short work come to its end, and breaks off the rest, which the next runner takes up. */
  async stop(): Promise<void> {
    await Promise.race([Promise.all(this.underWay), sleep(END_GRACE_MS)]);
    this.hands.close();
    await Promise.all(this.underWay);
  }

  private async lookAt(slug: string, isDueTime: boolean, isLostTime: boolean): Promise<boolean> {
    const found = await findWorkspace(slug);
    if (!found) return false;
    const { db, info } = found;
    // One job of a workspace at a time, and taking one back is work like any other.
    if (isLostTime && !this.working.has(slug)) {
      // Nobody else runs jobs of this folder, so what runs and is not ours was left by a runner that is gone.
      const lost = await lostJobs(db, this.own);
      if (lost.length > 0) {
        log.info({ slug, count: lost.length }, "takes up jobs that were broken off");
        this.begin(slug, lost, (job) => this.recover(slug, db, job, null));
      }
    }
    if (isDueTime) await this.queueDue(db, info);
    let worked = false;
    for (const waitsForOthers of [true, false]) {
      const hasRoom = waitsForOthers
        ? this.beside < MOST_BESIDE
        : !this.working.has(slug) && this.working.size < MOST_AT_ONCE;
      const job = hasRoom ? await claimJob(db, this.name, { waitsForOthers }) : null;
      if (!job) continue;
      log.info({ slug, job: job.id, kind: job.kind }, "job starts");
      this.begin(slug, [job], (held) => this.run(slug, db, held), waitsForOthers);
      worked = true;
    }
    return worked;
  }

  private async queueDue(db: Database, info: WorkspaceInfo): Promise<void> {
    for (const queue of [queueDueShelves, queueDueFetches, queueDuePlaces, queueDueReports]) {
      await queue(db, info).catch((error: unknown) =>
        log.error({ err: error, slug: info.slug }, "looking for what is due failed"),
      );
    }
  }

  /** Starts work on jobs, one after another, and sees that they count as ours until they ended. */
  private begin(slug: string, held: JobRow[], work: (job: JobRow) => Promise<void>, isBeside = false): void {
    for (const { id } of held) this.own.add(id);
    if (isBeside) this.beside++;
    else this.working.add(slug);
    const done = this.doEach(held, work).finally(() => {
      if (isBeside) this.beside--;
      else this.working.delete(slug);
      this.underWay.delete(done);
    });
    this.underWay.add(done);
  }

  private async doEach(held: JobRow[], work: (job: JobRow) => Promise<void>): Promise<void> {
    for (const job of held) {
      await work(job).catch((error: unknown) =>
        log.error({ err: error, job: job.id }, "a job's end could not be stored"),
      );
      this.own.delete(job.id);
    }
  }

  private async run(slug: string, db: Database, job: JobRow): Promise<void> {
    const kind = job.kind as JobKind;
    const isCancelled = async () => {
      const [row] = await db.select({ asked: jobs.cancelAsked }).from(jobs).where(eq(jobs.id, job.id));
      return row?.asked ?? false;
    };
    const loss = await this.hands.do({ slug, job: job.id, rollsBack: false, failure: null }, kind, isCancelled);
    if (loss === null) return;
    if (loss === "stopped") return leaveJob(db, job.id);
    log.warn({ slug, job: job.id, kind, loss }, "a job was broken off");
    await this.recover(slug, db, job, lossFailure(loss, kind));
  }

  private async recover(slug: string, db: Database, job: JobRow, failure: Failure | null): Promise<void> {
    // On a full disk nothing can be taken back; it is tried again once there is room, and that is no fault of the job.
    if ((await freeBytes()) < LEAST_FREE) return log.warn({ slug, job: job.id }, "no room to take a job back yet");
    const counted = await countAttempt(db, job);
    if (counted.attempts >= HOPELESS) {
      log.error({ slug, job: job.id }, "a job that can't be rolled back was given up");
      return settleLost(db, counted, failure);
    }
    const task = { slug, job: job.id, rollsBack: true, failure };
    const loss = await this.hands.do(task, job.kind as JobKind, async () => false);
    // It counts as running still, so it is found again as one that was lost.
    if (loss !== null) log.warn({ slug, job: job.id, loss }, "taking a job back was broken off");
  }
}
