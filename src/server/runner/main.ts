import { open, readFile, rm } from "node:fs/promises";
import { mkdirSync } from "node:fs";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import { log } from "../log";
import { dataDir } from "../settings";
import { findWorkspace, workspaceSlugs } from "../workspaces";
import { queueDueFetches } from "../catalogue/schedule";
import { jobHandlers } from "./handlers";
import type { JobKind } from "../jobs/jobs";
import { claimJob, recoverJobs, runJob } from "../jobs/work";

const POLL_MS = 250;
/** How often feeds are looked at for one that is due. */
const DUE_EVERY_MS = 5000;
/** Work that mostly waits for another machine: it runs beside the others and keeps nobody waiting. */
const WAITING_KINDS = new Set<JobKind>(["feed-fetch", "link-check"]);

/** Only one runner works on a data folder: a lock file with its process ID, taken over when that process is gone. */
async function takeLock(): Promise<string> {
  mkdirSync(dataDir(), { recursive: true });
  const file = path.join(dataDir(), "runner.lock");
  for (;;) {
    try {
      const handle = await open(file, "wx");
      await handle.writeFile(String(process.pid));
      await handle.close();
      return file;
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== "EEXIST") throw error;
      const owner = Number(await readFile(file, "utf8").catch(() => "0"));
      if (owner > 0 && owner !== process.pid && isAlive(owner)) {
        log.warn({ owner }, "another runner works on this data folder; waiting for it to end");
        await sleep(2000);
      } else {
        await rm(file, { force: true });
      }
    }
  }
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch {
    return false;
  }
}

/** Runs jobs of all workspaces, one after another, until told to stop. */
async function main(): Promise<void> {
  const lock = await takeLock();
  let stopping = false;
  for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => (stopping = true));
  // When the start script goes, its pipe closes and so does the runner.
  process.stdin.on("end", () => (stopping = true)).resume();
  const runner = `${process.pid}`;
  const recovered = new Set<string>();
  let lastDue = 0;
  while (!stopping) {
    let worked = false;
    const isDueTime = Date.now() - lastDue >= DUE_EVERY_MS;
    if (isDueTime) lastDue = Date.now();
    for (const slug of await workspaceSlugs()) {
      const found = await findWorkspace(slug);
      if (!found) continue;
      if (!recovered.has(slug)) {
        const count = await recoverJobs(found.db, found.info, jobHandlers);
        if (count > 0) log.info({ slug, count }, "took up jobs that a stopped runner left");
        recovered.add(slug);
      }
      if (isDueTime) {
        await queueDueFetches(found.db, found.info).catch((error: unknown) =>
          log.error({ err: error, slug }, "looking for due feeds failed"),
        );
      }
      const job = await claimJob(found.db, runner);
      if (!job) continue;
      worked = true;
      log.info({ slug, job: job.id, kind: job.kind }, "job starts");
      const running = runJob(found.db, found.info, jobHandlers, job);
      if (!WAITING_KINDS.has(job.kind as JobKind)) await running;
      else running.catch((error: unknown) => log.error({ err: error, job: job.id }, "a job beside the others broke"));
    }
    if (!worked) await sleep(POLL_MS);
  }
  await rm(lock, { force: true });
  process.exit(0);
}

main().catch((error: unknown) => {
  log.error({ err: error }, "the runner stopped");
  process.exit(1);
});
