import { createHash, randomBytes } from "node:crypto";
import path from "node:path";
import { openAccounts, type AccountsDatabase } from "@/db/client";
import { accessLog } from "@/db/accounts/schema";
import { dataDir } from "../settings";
import { ACCOUNTS_FILE } from "../workspaces";

// Next may load this module several times; the database is kept once a process.
const store = globalThis as unknown as { __hotShelfAccounts?: Promise<AccountsDatabase> };

/** The database of people's accounts. */
export function accounts(): Promise<AccountsDatabase> {
  const opened = (store.__hotShelfAccounts ??= openAccounts(path.join(dataDir(), ACCOUNTS_FILE)));
  opened.catch(() => delete store.__hotShelfAccounts);
  return opened;
}

const SECRET_BYTES = 32;

/** A new secret for a link, a session or a script, of which only {@link hashOf} is kept. */
export function newSecret(): string {
  return randomBytes(SECRET_BYTES).toString("base64url");
}

/** The hash by which a secret is found again. Secrets are random, so a fast hash is enough. */
export function hashOf(secret: string): string {
  return createHash("sha256").update(secret).digest("hex");
}

/** Notes who signed in, was refused, or changed what others may do. @param from the address of whoever asked */
export async function noteAccess(entry: {
  who: string;
  what: string;
  workspace?: string | null;
  from: string;
}): Promise<void> {
  const { who, what, workspace = null, from } = entry;
  await (await accounts()).insert(accessLog).values({ at: Date.now(), who, what, workspace, from });
}
