import { mkdirSync } from "node:fs";
import path from "node:path";
import { createClient, type Client } from "@libsql/client";
import { drizzle, type LibSQLDatabase } from "drizzle-orm/libsql";
import { migrate } from "drizzle-orm/libsql/migrator";
import * as schema from "./schema";
import { writeInTurn } from "./turns";

export type Database = LibSQLDatabase<typeof schema> & { $client: Client };

/** How long a statement waits for another process's lock while it holds up this process, in ms; see `turns.ts` for the rest. */
const BUSY_TIMEOUT = 5;

const MIGRATIONS = path.join(/* turbopackIgnore: true */ process.cwd(), "src/db/migrations");

/** Opens a workspace's database. `url` is `file:` for SQLite, or the address of a libSQL server with its token. */
export async function openDatabase(url: string, authToken?: string): Promise<Database> {
  const isFile = url.startsWith("file:");
  if (isFile) mkdirSync(path.dirname(url.slice("file:".length)), { recursive: true });
  const made = createClient({ url, authToken, timeout: BUSY_TIMEOUT, concurrency: 8 });
  const client = isFile ? writeInTurn(made, url) : made;
  // Readers must not wait for the runner's writes, nor the other way round.
  if (isFile) await client.execute("PRAGMA journal_mode = WAL");
  return drizzle(client, { schema });
}

/** Brings a database's tables up to date. Safe to repeat. */
export async function migrateDatabase(db: Database): Promise<void> {
  await migrate(db, { migrationsFolder: MIGRATIONS });
}
