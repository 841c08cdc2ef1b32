import { log } from "../log";
import { settings } from "../settings";
import { Hands, usualLimits } from "./hands";
import { takeLock } from "../jobs/lock";
import { Runner } from "./runner";

/** Runs jobs until told to stop. */
async function main(): Promise<void> {
  const lock = await takeLock();
  let stopping = false;
  for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => (stopping = true));
  // When the start script goes, its pipe closes and so does the runner.
  process.stdin.on("end", () => (stopping = true)).resume();
  const hands = new Hands("src/server/runner/handlers.ts", usualLimits(settings().HOTSHELF_JOB_MEMORY_MB));
  hands.warm();
  const runner = new Runner(`${process.pid}`, hands);
  while (!stopping) {
    const worked = await runner.round().catch((error: unknown) => {
      log.error({ err: error }, "the list of workspaces can't be read");
      return false;
    });
    if (!worked) await runner.wait();
  }
  await runner.stop();
  await lock.release();
  process.exit(0);
}

main().catch((error: unknown) => {
  log.error({ err: error }, "the runner stopped");
  process.exit(1);
});
