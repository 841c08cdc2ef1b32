import { readFile } from "node:fs/promises";
import { Worker } from "node:worker_threads";

const LOOK_EVERY = 40;

const PARENT = "HOTSHELF_PARENT";

/** The environment of a process that shall end with this one. */
export function childEnv(): NodeJS.ProcessEnv {
  return { ...process.env, [PARENT]: String(process.pid) };
}

/**
 * Ends this process at once when the one that started it with {@link childEnv} is gone, be it while this one was still
 * starting. A thread of its own looks, so that it also happens while the main thread is held up by a computation without end.
 */
export function endWithParent(): void {
  const watch = `
    const parent = ${Number(process.env[PARENT] ?? process.ppid)};
    setInterval(() => { if (process.ppid !== parent) process.kill(process.pid, "SIGKILL"); }, ${LOOK_EVERY});`;
  new Worker(watch, { eval: true, execArgv: [] }).unref();
}

const PAGE_BYTES = 4096;

/** Memory that a process holds, in bytes, as the system counts it; 0 where it does not tell. */
export async function memoryOf(pid: number): Promise<number> {
  try {
    return Number((await readFile(`/proc/${pid}/statm`, "utf8")).split(" ")[1]) * PAGE_BYTES;
  } catch {
    return 0;
  }
}
