import { createHash, randomBytes } from "node:crypto";
import { lt } from "drizzle-orm";
import { accessLog } from "@/db/accounts/schema";
import { accounts } from "../installation";

const SECRET_BYTES = 32;

/** A new secret for a link, a session or a script, of which only {@link hashOf} is kept. */
export function newSecret(): string {
  return randomBytes(SECRET_BYTES).toString("base64url");
}

/** The hash by which a secret is found again. Secrets are random, so a fast hash is enough. */
export function hashOf(secret: string): string {
  return createHash("sha256").update(secret).digest("hex");
}

/** The longest that stands in the access log of a name, and of what happened. */
const MOST_WHO = 120;
const MOST_WHAT = 300;
/** How long the access log is kept, ms: somebody who looks into an old affair finds the year before. */
export const ACCESS_KEPT = 400 * 24 * 3_600_000;

/** Notes who signed in, was refused, or changed what others may do. @param from the address of whoever asked */
export async function noteAccess(entry: {
  who: string;
  what: string;
  workspace?: string | null;
  from: string;
}): Promise<void> {
  const { who, what, workspace = null, from } = entry;
  const db = await accounts();
  const at = Date.now();
  const told = { who: who.slice(0, MOST_WHO), what: what.slice(0, MOST_WHAT), from: from.slice(0, MOST_WHO) };
  await db.insert(accessLog).values({ at, workspace, ...told });
  await db.delete(accessLog).where(lt(accessLog.at, at - ACCESS_KEPT));
}
