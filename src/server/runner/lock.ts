import { open, readFile, rm, stat, utimes } from "node:fs/promises";
import { mkdirSync } from "node:fs";
import { hostname } from "node:os";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import { z } from "zod";
import { log } from "../log";
import { dataDir } from "../settings";

/** Who holds the lock: a process number alone does not tell, since numbers are given anew. */
const ownerSchema = z.object({ pid: z.int().positive(), host: z.string(), started: z.string() });
type Owner = z.infer<typeof ownerSchema>;

const BEAT_MS = 2000;
/** A lock of another machine that was not touched for so long is left behind. */
const SILENT_MS = 60_000;

/** When a process began, as the system counts it; "" where it does not tell. Two processes of one number differ in it. */
async function startOf(pid: number): Promise<string> {
  try {
    const text = await readFile(`/proc/${pid}/stat`, "utf8");
    // The name in brackets can hold anything; the start is the 20th field behind it.
    return text.slice(text.lastIndexOf(")") + 2).split(" ")[19] ?? "";
  } catch {
    return "";
  }
}

/** Whether a process of that number lives; one that may not be signalled lives all the same. */
function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === "EPERM";
  }
}

/** Whether the owner of a lock still works. @param touched when the lock was last touched, ms */
export async function holdsLock(owner: Owner | null, touched: number, now = Date.now()): Promise<boolean> {
  if (owner === null) return false;
  // Numbers of another machine say nothing here; only the beat does.
  if (owner.host !== hostname()) return now - touched < SILENT_MS;
  if (owner.pid === process.pid || !isAlive(owner.pid)) return false;
  const started = await startOf(owner.pid);
  if (started !== "" && owner.started !== "") return started === owner.started;
  return now - touched < SILENT_MS;
}

async function ownerOf(file: string): Promise<Owner | null> {
  try {
    return ownerSchema.parse(JSON.parse(await readFile(file, "utf8")));
  } catch {
    return null;
  }
}

export interface Lock {
  release(): Promise<void>;
}

/** Waits until no other runner works on the data folder and takes its lock. */
export async function takeLock(): Promise<Lock> {
  mkdirSync(dataDir(), { recursive: true });
  const file = path.join(dataDir(), "runner.lock");
  const owner: Owner = { pid: process.pid, host: hostname(), started: await startOf(process.pid) };
  for (;;) {
    try {
      const handle = await open(file, "wx");
      await handle.writeFile(JSON.stringify(owner));
      await handle.close();
      break;
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== "EEXIST") throw error;
    }
    const held = await ownerOf(file);
    const touched = (await stat(file).catch(() => null))?.mtimeMs ?? 0;
    // A lock that is just being written has no owner yet.
    const isFresh = held === null && Date.now() - touched < 1000;
    if (isFresh || (await holdsLock(held, touched))) {
      if (!isFresh) log.warn({ owner: held?.pid }, "another runner works on this data folder; waiting for it to end");
      await sleep(isFresh ? 200 : 2000);
    } else await rm(file, { force: true });
  }
  const beat = setInterval(() => {
    const now = new Date();
    utimes(file, now, now).catch(() => {});
  }, BEAT_MS);
  beat.unref();
  return {
    release: async () => {
      clearInterval(beat);
      await rm(file, { force: true });
    },
  };
}
