import { setTimeout as sleep } from "node:timers/promises";
import type { Client, InStatement, Transaction } from "@libsql/client";

/** Writers of one database file within this process, one after another; by the file's address. */
const queues = new Map<string, Promise<void>>();

/** Waits for its turn. @returns gives the turn on; calling it again does nothing */
async function takeTurn(url: string): Promise<() => void> {
  const before = queues.get(url) ?? Promise.resolve();
  let release!: () => void;
  const mine = new Promise<void>((resolve) => (release = resolve));
  queues.set(
    url,
    before.then(() => mine),
  );
  await before;
  return release;
}

/** How long a writer waits for another process's transaction, in ms; and how long it sleeps between two looks. */
const MOST_WAIT = 15_000;
const LOOK_EVERY = 15;

/** Whether a statement was refused since another process writes; as the database says it, or passed on by what asked it. */
export function isBusy(error: unknown): boolean {
  const { code, cause } = (error ?? {}) as { code?: unknown; cause?: unknown };
  return typeof code === "string" ? code.startsWith("SQLITE_BUSY") : cause !== undefined && isBusy(cause);
}

/**
 * Does what another process's lock may refuse, again and again, and lets others of this process run in between. A refused
 * statement stays begun on its connection and would keep a later commit from going through, so a new one is opened.
 */
async function patiently<T>(client: Client, work: () => Promise<T>): Promise<T> {
  for (const until = Date.now() + MOST_WAIT; ;) {
    try {
      return await work();
    } catch (error) {
      if (!isBusy(error) || Date.now() > until) throw error;
      client.reconnect();
      await sleep(LOOK_EVERY);
    }
  }
}

function isReading(statement: InStatement | string): boolean {
  const sql = typeof statement === "string" ? statement : statement.sql;
  return /^\s*(select|explain)\b/i.test(sql);
}

/**
 * Makes the writers of a database file wait for each other without blocking the process. The client runs statements in the
 * event loop: a writer that meets an open transaction would hold everything up until its time is out, the transaction's
 * own end included.
 */
export function writeInTurn(client: Client, url: string): Client {
  const execute = client.execute.bind(client) as (...args: unknown[]) => ReturnType<Client["execute"]>;
  const batch = client.batch.bind(client) as (...args: unknown[]) => ReturnType<Client["batch"]>;
  const begin = client.transaction.bind(client) as (mode?: "write" | "read" | "deferred") => Promise<Transaction>;
  const inTurn = async <T>(work: () => Promise<T>): Promise<T> => {
    const release = await takeTurn(url);
    try {
      return await patiently(client, work);
    } finally {
      release();
    }
  };
  client.execute = ((...args: unknown[]) =>
    isReading(args[0] as InStatement) ? execute(...args) : inTurn(() => execute(...args))) as Client["execute"];
  client.batch = ((...args: unknown[]) =>
    args[1] === "read" ? batch(...args) : inTurn(() => batch(...args))) as Client["batch"];
  client.transaction = (async (mode?: "write" | "read" | "deferred") => {
    if (mode === "read") return begin(mode);
    const release = await takeTurn(url);
    let tx: Transaction;
    try {
      tx = await patiently(client, () => begin(mode));
    } catch (error) {
      release();
      throw error;
    }
    const commit = tx.commit.bind(tx);
    const rollback = tx.rollback.bind(tx);
    const close = tx.close.bind(tx);
    tx.commit = () => commit().finally(release);
    tx.rollback = () => rollback().finally(release);
    tx.close = () => {
      close();
      release();
    };
    return tx;
  }) as Client["transaction"];
  return client;
}
