import path from "node:path";
import { openAccounts, type AccountsDatabase } from "@/db/client";
import { dataDir } from "./settings";

/** Databases in the data folder that are no workspace: what runners lock (see `jobs/lock.ts`), and the installation's own. */
export const LOCK_FILE = "runner-lock.db";
export const HANDS_LOCK_FILE = "hands-lock.db";
export const ACCOUNTS_FILE = "accounts.db";
export const OWN_FILES = new Set([LOCK_FILE, HANDS_LOCK_FILE, ACCOUNTS_FILE]);

// Next may load this module several times; the database is kept once a process.
const store = globalThis as unknown as { __hotShelfAccounts?: Promise<AccountsDatabase> };

/** The database of the installation: people's accounts, and the list of workspaces. */
export function accounts(): Promise<AccountsDatabase> {
  const opened = (store.__hotShelfAccounts ??= openAccounts(path.join(dataDir(), ACCOUNTS_FILE)));
  opened.catch(() => delete store.__hotShelfAccounts);
  return opened;
}

/** Closes it in this process, so that its file can be put elsewhere. */
export async function closeAccounts(): Promise<void> {
  const opened = store.__hotShelfAccounts;
  delete store.__hotShelfAccounts;
  (await opened)?.$client.close();
}
