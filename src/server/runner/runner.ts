import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import { eq } from "drizzle-orm";
import type { Failure } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { jobs } from "@/db/schema";
import { queueDueAlerts } from "../alerts/look";
import { queueDueMessages } from "../alerts/messages";
import { queueDueFetches } from "../catalogue/schedule";
import type { JobKind } from "../jobs/jobs";
import { claimJob, countAttempt, leaveJob, lostJobs, settleLost, type JobRow } from "../jobs/work";
import { freeBytes } from "../disk";
import { log } from "../log";
import { queueDuePlaces } from "../dispatch/channel-places";
import { queueDueReports } from "../dispatch/channel-reports";
import { queueDueOrders } from "../standing/job";
import { queueDueExperiments } from "../experiments/job";
import { queueDueShelves } from "../shelves/job";
import { workspaceSlugs } from "../registry";
import { ACCOUNTS_FILE } from "../installation";
import { dataDir } from "../settings";
import { databaseFile, findWorkspace, type WorkspaceInfo } from "../workspaces";
import { Changes } from "./changes";
import type { Hands, Loss } from "./hands";

/** A workspace in which something happened is looked at for what is due this often, and for jobs that count as running and are not. */
const DUE_EVERY_MS = 5000;
const LOST_EVERY_MS = 15_000;
/** What is due is not looked for oftener than this. */
const DUE_AGAIN_MS = 250;
/** One in which nothing happened is looked at this often: a new day alone makes shelves and reports due. */
const QUIET_EVERY_MS = 5 * 60_000;
/** The list of workspaces is read this often where nobody wrote to it. */
const LIST_EVERY_MS = 5000;
/** After a write it is looked once more after so long. */
const ECHO_MS = 40;
/** The runner goes round this often where nothing happens, and where databases lie on a server. */
const IDLE_MS = 1000;
const SERVER_EVERY_MS = 250;
/** A workspace that can't be opened is tried again after so long. */
const BROKEN_EVERY_MS = 5000;
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

/** A time to wait, ms, within what is waited at most. */
const atMost = (ms: number) => Math.max(0, Math.min(ms, QUIET_EVERY_MS));

/** When a workspace is looked at next, by the process's clock, ms. */
interface Look {
  /** The file of its database; null for one on a server. */
  file: string | null;
  /** For jobs that wait. */
  work: number;
  /** For them once more after a write: that it was written is told a moment before it can be read. */
  echo: number;
  /** For what is due. */
  due: number;
  /** For jobs that were left. */
  lost: number;
}

/** The runner of all workspaces: sees to it that jobs are taken up, done in other processes, and ended; and what is due. */
export class Runner {
  private readonly changes = new Changes(dataDir());
  private readonly listFile = path.join(dataDir(), ACCOUNTS_FILE);
  private slugs: string[] = [];
  private lastList = -Infinity;
  private readonly looks = new Map<string, Look>();
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

  /** Goes once round the workspaces in which something happened or is due. @returns whether something was taken up */
  async round(): Promise<boolean> {
    const now = performance.now();
    this.changes.look(now);
    if (this.changes.take(this.listFile) || now - this.lastList >= LIST_EVERY_MS) {
      this.lastList = now;
      this.slugs = await workspaceSlugs();
      for (const slug of this.looks.keys()) if (!this.slugs.includes(slug)) this.looks.delete(slug);
    }
    let worked = false;
    for (const slug of this.slugs) {
      const look = this.lookOf(slug, now);
      if (now < Math.min(look.work, look.due, look.lost)) continue;
      try {
        worked = (await this.lookAt(slug, look, now)) || worked;
        this.broken.delete(slug);
      } catch (error) {
        // One workspace that can't be opened keeps none of the others waiting.
        if (!this.broken.has(slug)) log.error({ err: error, slug }, "this workspace's jobs can't be run");
        this.broken.add(slug);
        look.work = look.due = look.lost = now + BROKEN_EVERY_MS;
      }
    }
    return worked;
  }

  /** Waits until something happens in a workspace or it is time to look at one. */
  wait(): Promise<void> {
    const looks = [...this.looks.values()].map(({ work, due, lost }) => Math.min(work, due, lost));
    // None of those on a server says that it was written to.
    const most = [...this.looks.values()].some(({ file }) => file === null) ? SERVER_EVERY_MS : IDLE_MS;
    return this.changes.wait(Math.max(0, Math.min(most, Math.min(...looks) - performance.now())));
  }

  /** When to look at a workspace, with what was written to its database taken note of. */
  private lookOf(slug: string, now: number): Look {
    let look = this.looks.get(slug);
    if (!look)
      this.looks.set(slug, (look = { file: databaseFile(slug), work: now, echo: Infinity, due: now, lost: now }));
    // A database on a server tells nobody that it was written to.
    if (look.file === null || this.changes.take(look.file)) {
      look.work = now;
      look.echo = now + ECHO_MS;
      look.due = Math.min(look.due, now + DUE_EVERY_MS);
    }
    return look;
  }

  /** Lets short work come to its end, and breaks off the rest, which the next runner takes up. */
  async stop(): Promise<void> {
    this.changes.close();
    await Promise.race([Promise.all(this.underWay), sleep(END_GRACE_MS)]);
    this.hands.close();
    await Promise.all(this.underWay);
  }

  private async lookAt(slug: string, look: Look, now: number): Promise<boolean> {
    const [isDueTime, isLostTime] = [now >= look.due, now >= look.lost];
    look.work = now + QUIET_EVERY_MS;
    const found = await findWorkspace(slug);
    if (!found) {
      look.due = look.lost = now + BROKEN_EVERY_MS;
      return false;
    }
    const { db, info } = found;
    if (isDueTime) look.due = now + (await this.untilDue(db));
    if (isLostTime) look.lost = Infinity;
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
    let again = false;
    let worked = false;
    for (const waitsForOthers of [true, false]) {
      const hasRoom = waitsForOthers
        ? this.beside < MOST_BESIDE
        : !this.working.has(slug) && this.working.size < MOST_AT_ONCE;
      const job = hasRoom ? await claimJob(db, this.name, { waitsForOthers }) : null;
      if (!job) continue;
      // There may be more.
      again = true;
      log.info({ slug, job: job.id, kind: job.kind }, "job starts");
      this.begin(slug, [job], (held) => this.run(slug, db, held), waitsForOthers);
      worked = true;
    }
    // What was written meanwhile has been noted, and brings it forward.
    const { rows } = await db.$client.execute({
      sql: "SELECT min(not_before) AS next FROM jobs WHERE state = 'waiting' AND not_before > ?",
      args: [Date.now()],
    });
    const next = rows[0]!["next"];
    // Work that ended while this was looked at may have brought it forward already.
    const wait = again ? 0 : next === null ? QUIET_EVERY_MS : atMost(Number(next) - Date.now());
    if (now >= look.echo) look.echo = Infinity;
    look.work = Math.min(look.work, now + wait, look.echo);
    return worked;
  }

  /** How long, ms, until something of a workspace can be due by the clock alone. */
  private async untilDue(db: Database): Promise<number> {
    const { rows } = await db.$client
      .execute(`SELECT min(next_at) AS fetch, sum(source ->> 'kind' = 'folder') AS folders
      FROM feeds WHERE schedule IS NOT NULL OR source ->> 'kind' = 'folder'`);
    const { fetch, folders } = rows[0]!;
    // A watched folder is written to by others.
    if (Number(folders) > 0) return DUE_EVERY_MS;
    // One that is due and can't be queued must not keep the runner turning.
    return fetch === null ? QUIET_EVERY_MS : Math.max(DUE_AGAIN_MS, atMost(Number(fetch) - Date.now()));
  }

  private async queueDue(db: Database, info: WorkspaceInfo): Promise<void> {
    for (const queue of [
      queueDueShelves,
      queueDueFetches,
      queueDuePlaces,
      queueDueReports,
      queueDueOrders,
      queueDueExperiments,
      queueDueAlerts,
      queueDueMessages,
    ]) {
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
      // What waited for it, here or elsewhere for want of room, can be taken up.
      for (const look of this.looks.values()) look.work = 0;
      const look = this.looks.get(slug);
      if (look) look.lost = Math.min(look.lost, performance.now() + LOST_EVERY_MS);
      this.changes.endWait();
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
