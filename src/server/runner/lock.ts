import { mkdirSync } from "node:fs";
import { readFile, rm, writeFile } from "node:fs/promises";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import { createClient } from "@libsql/client";
import { log } from "../log";
import { dataDir } from "../settings";
import { LOCK_FILE } from "../workspaces";

const TRY_EVERY_MS = 500;

/** Whether some runner works on the data folder at this moment. */
export async function isRunnerAtWork(): Promise<boolean> {
  const client = createClient({ url: `file:${path.join(dataDir(), LOCK_FILE)}` });
  try {
    (await client.transaction("write")).close();
    return false;
  } catch {
    return true;
  } finally {
    client.close();
  }
}

export interface Lock {
  release(): Promise<void>;
}

/**
 * Waits until no other runner works on the data folder and takes its lock: a write transaction on a database of its own, held
 * as long as the process lives. The system gives it up with the process however that ends, so no lock is ever left behind,
 * and a process number that lives again elsewhere or in another name space means nothing.
 */
export async function takeLock(): Promise<Lock> {
  mkdirSync(dataDir(), { recursive: true });
  const client = createClient({ url: `file:${path.join(dataDir(), LOCK_FILE)}` });
  // Only for people who look: who holds it.
  const note = path.join(dataDir(), "runner.pid");
  for (let tries = 0; ; tries++) {
    try {
      const transaction = await client.transaction("write");
      await writeFile(note, `${process.pid}\n`);
      return {
        release: async () => {
          await rm(note, { force: true });
          transaction.close();
          client.close();
        },
      };
    } catch (error) {
      if (!/SQLITE_BUSY|locked/i.test(String(error))) throw error;
      if (tries === 0) {
        const owner = (await readFile(note, "utf8").catch(() => "")).trim();
        log.warn({ owner }, "another runner works on this data folder; waiting for it to end");
      }
      await sleep(TRY_EVERY_MS);
    }
  }
}
