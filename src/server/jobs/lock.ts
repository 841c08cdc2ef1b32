import { mkdirSync } from "node:fs";
import { readFile, rm, writeFile } from "node:fs/promises";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import { createClient, type TransactionMode } from "@libsql/client";
import { log } from "../log";
import { dataDir } from "../settings";
import { HANDS_LOCK_FILE, LOCK_FILE } from "../installation";

const TRY_EVERY_MS = 500;

/** What a process holds until it gives it up or ends, however that happens. */
export interface Lock {
  release(): Promise<void>;
}

/** Takes a transaction on a database that is there for nothing else; null while others stand against it. */
async function tryToHold(file: string, mode: TransactionMode, statement?: string): Promise<Lock | null> {
  mkdirSync(dataDir(), { recursive: true });
  const client = createClient({ url: `file:${path.join(dataDir(), file)}` });
  try {
    const transaction = await client.transaction(mode);
    if (statement) await transaction.execute(statement);
    return {
      release: async () => {
        transaction.close();
        client.close();
      },
    };
  } catch (error) {
    client.close();
    if (/SQLITE_BUSY|locked/i.test(String(error))) return null;
    throw error;
  }
}

/** Whether some runner works on the data folder at this moment. */
export async function isRunnerAtWork(): Promise<boolean> {
  const held = await tryToHold(LOCK_FILE, "write").catch(() => null);
  await held?.release();
  return held === null;
}

/**
 * Waits until no other runner works on the data folder and takes its lock: a write transaction on a database of its own, held
 * as long as the process lives. The system gives it up with the process however that ends, so no lock is ever left behind,
 * and a process number that lives again elsewhere or in another name space means nothing. Then waits for the hands of a
 * runner that is gone, which may have been in the middle of a statement.
 */
export async function takeLock(): Promise<Lock> {
  // Only for people who look: who holds it.
  const note = path.join(dataDir(), "runner.pid");
  let held = await tryToHold(LOCK_FILE, "write");
  if (!held) {
    const owner = (await readFile(note, "utf8").catch(() => "")).trim();
    log.warn({ owner }, "another runner works on this data folder; waiting for it to end");
  }
  while (!held) {
    await sleep(TRY_EVERY_MS);
    held = await tryToHold(LOCK_FILE, "write");
  }
  const { release } = held;
  await writeFile(note, `${process.pid}\n`);
  while (await areHandsAtWork()) await sleep(HANDS_EVERY_MS);
  return {
    release: async () => {
      await rm(note, { force: true });
      await release();
    },
  };
}

const HANDS_EVERY_MS = 40;
/** A reading transaction takes its lock with its first look, and a writing one waits for those that look. */
const LOOK = "SELECT count(*) FROM sqlite_master";

/** Notes that this process does work of a runner, as long as it lives; any number of processes may. */
export async function holdAsHand(): Promise<Lock> {
  for (;;) {
    const held = await tryToHold(HANDS_LOCK_FILE, "deferred", LOOK);
    if (held) return held;
    await sleep(HANDS_EVERY_MS);
  }
}

/** Whether a process that does a runner's work still lives. */
export async function areHandsAtWork(): Promise<boolean> {
  mkdirSync(dataDir(), { recursive: true });
  const client = createClient({ url: `file:${path.join(dataDir(), HANDS_LOCK_FILE)}` });
  try {
    // Exclusive: refused while anybody looks.
    await client.executeMultiple("BEGIN EXCLUSIVE; ROLLBACK;");
    return false;
  } catch (error) {
    if (!/SQLITE_BUSY|locked/i.test(String(error))) throw error;
    return true;
  } finally {
    client.close();
  }
}
