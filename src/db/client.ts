import { mkdirSync } from "node:fs";
import path from "node:path";
import { createClient, type Client } from "@libsql/client";
import { drizzle, type LibSQLDatabase } from "drizzle-orm/libsql";
import { migrate } from "drizzle-orm/libsql/migrator";
import * as schema from "./schema";

export type Database = LibSQLDatabase<typeof schema> & { $client: Client };

/** How long a statement waits for another process's transaction, in ms. Transactions here are short. */
const BUSY_TIMEOUT = 15_000;

const MIGRATIONS = path.join(/* turbopackIgnore: true */ process.cwd(), "src/db/migrations");

/** Opens a workspace's database. `url` is `file:` for SQLite, or the address of a libSQL server with its token. */
export async function openDatabase(url: string, authToken?: string): Promise<Database> {
  const isFile = url.startsWith("file:");
  if (isFile) mkdirSync(path.dirname(url.slice("file:".length)), { recursive: true });
  const client = createClient({ url, authToken, timeout: BUSY_TIMEOUT, concurrency: 8 });
  // Readers must not wait for the runner's writes, nor the other way round.
  if (isFile) await client.execute("PRAGMA journal_mode = WAL");
  return drizzle(client, { schema });
}

/** Brings a database's tables up to date. Safe to repeat. */
export async function migrateDatabase(db: Database): Promise<void> {
  await migrate(db, { migrationsFolder: MIGRATIONS });
}
