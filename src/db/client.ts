import { chmodSync, mkdirSync, readFileSync } from "node:fs";
import { setTimeout as sleep } from "node:timers/promises";
import path from "node:path";
import { createClient, type Client } from "@libsql/client";
import { drizzle, type LibSQLDatabase } from "drizzle-orm/libsql";
import { migrate } from "drizzle-orm/libsql/migrator";
import * as accountsSchema from "./accounts/schema";
import * as schema from "./schema";
import { writeInTurn } from "./turns";

export type Database = LibSQLDatabase<typeof schema> & { $client: Client };
export type AccountsDatabase = LibSQLDatabase<typeof accountsSchema> & { $client: Client };

/** How long a statement waits for another process's lock while it holds up this process, in ms; see `turns.ts` for the rest. */
const BUSY_TIMEOUT = 5;

const MIGRATIONS = path.join(/* turbopackIgnore: true */ process.cwd(), "src/db/migrations");
const ACCOUNT_MIGRATIONS = path.join(/* turbopackIgnore: true */ process.cwd(), "src/db/accounts/migrations");

/** Opens a workspace's database. `url` is `file:` for SQLite, or the address of a libSQL server with its token. */
export async function openDatabase(url: string, authToken?: string): Promise<Database> {
  return drizzle(await openClient(url, authToken), { schema });
}

/** Opens the database of people's accounts, a file, with its tables up to date. */
export async function openAccounts(file: string): Promise<AccountsDatabase> {
  const db = drizzle(await openClient(`file:${file}`), { schema: accountsSchema });
  await migrateInTurn(db, ACCOUNT_MIGRATIONS);
  return db;
}

async function openClient(url: string, authToken?: string): Promise<Client> {
  const isFile = url.startsWith("file:");
  const file = url.slice("file:".length);
  // What a database holds is for the account that runs the server; what SQLite puts beside a file has that file's rights.
  if (isFile) mkdirSync(path.dirname(file), { recursive: true, mode: 0o700 });
  const made = createClient({ url, authToken, timeout: BUSY_TIMEOUT, concurrency: 8 });
  const client = isFile ? writeInTurn(made, url) : made;
  // Readers must not wait for the runner's writes, nor the other way round.
  if (!isFile) return client;
  try {
    await client.execute("PRAGMA journal_mode = WAL");
    chmodSync(file, 0o600);
  } catch (error) {
    client.close();
    throw error;
  }
  return client;
}

/** Whether a database was brought up to date by a later version than this one, whose tables are not known here. */
export async function isNewerDatabase(db: Database): Promise<boolean> {
  const journal = JSON.parse(readFileSync(path.join(MIGRATIONS, "meta/_journal.json"), "utf8")) as {
    entries: { when: number }[];
  };
  const { rows } = await db.$client.execute(
    "SELECT name FROM sqlite_master WHERE type = 'table' AND name = '__drizzle_migrations'",
  );
  if (rows.length === 0) return false;
  const { rows: last } = await db.$client.execute("SELECT max(created_at) FROM __drizzle_migrations");
  return Number(last[0]?.[0] ?? 0) > Math.max(...journal.entries.map(({ when }) => when));
}

/** How often a migration is looked at again while another process is at it, and the pause in between, in ms. */
const MIGRATION_LOOKS = 100;
const MIGRATION_PAUSE = 100;

/**
 * Brings a database's tables up to date. Safe to repeat, and for several processes at once: a migration is one transaction,
 * so whoever comes second fails on what the first has just made, and finds it done when it looks again.
 */
export function migrateDatabase(db: Database): Promise<void> {
  return migrateInTurn(db, MIGRATIONS);
}

async function migrateInTurn(db: Database | AccountsDatabase, migrationsFolder: string): Promise<void> {
  for (let look = 1; ; look++) {
    try {
      return await migrate(db as Database, { migrationsFolder });
    } catch (error) {
      const told = `${String(error)} ${String((error as Error).cause)}`;
      const isMeanwhile = /SQLITE_BUSY|already exists|duplicate column|no such index/i.test(told);
      if (!isMeanwhile || look >= MIGRATION_LOOKS) throw error;
      db.$client.reconnect();
      await sleep(MIGRATION_PAUSE);
    }
  }
}
