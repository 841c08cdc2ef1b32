import { randomUUID } from "node:crypto";
import { and, asc, eq, gt } from "drizzle-orm";
import { tokens } from "@/db/accounts/schema";
import { accounts } from "../installation";
import { hashOf, newSecret } from "./accounts";
import { checkName } from "./names";
import { personOfId, roleOf, type Maker } from "./people";
import { holds, type Role } from "./roles";

const DAY = 24 * 3_600_000;
/** Begins every token, so that one that lies where it should not is known for what it is. */
const PREFIX = "hotshelf_";
const USED_EVERY = 60_000;

/** Makes a key for scripts. @returns it, the only time that it is shown */
export async function makeToken(
  by: Maker,
  workspace: string,
  { name, role, days }: { name: string; role: Role; days: number },
): Promise<{ id: string; token: string }> {
  const token = PREFIX + newSecret();
  const id = randomUUID();
  const now = Date.now();
  const db = await accounts();
  await checkName(db, name);
  await db.insert(tokens).values({
    ...{ hash: hashOf(token), id, name, workspace, role },
    ...{ createdBy: by.who, maker: by.person, createdAt: now, expiresAt: now + days * DAY },
  });
  return { id, token };
}

/** A workspace's tokens, without their secrets. */
export async function listTokens(workspace: string) {
  const db = await accounts();
  const { id, name, role, createdBy, createdAt, expiresAt, usedAt } = tokens;
  const rows = await db
    .select({ id, name, role, createdBy, createdAt, expiresAt, usedAt })
    .from(tokens)
    .where(eq(tokens.workspace, workspace))
    .orderBy(asc(tokens.createdAt));
  return rows.map((row) => ({ ...row, isExpired: row.expiresAt < Date.now() }));
}

/** Revokes a token. */
export async function revokeToken(workspace: string, id: string): Promise<void> {
  await (await accounts()).delete(tokens).where(and(eq(tokens.id, id), eq(tokens.workspace, workspace)));
}

/**
 * What a token stands for, or null when it is unknown, revoked or expired. Its role is asked for at each use: it opens no
 * more than whoever made it may now.
 */
export async function findToken(token: string, now = Date.now()) {
  const db = await accounts();
  const [found] = await db
    .select()
    .from(tokens)
    .where(and(eq(tokens.hash, hashOf(token)), gt(tokens.expiresAt, now)));
  if (!found) return null;
  const maker = found.maker === null ? null : await personOfId(found.maker);
  const held = found.maker === null ? found.role : maker && (await roleOf(maker, found.workspace));
  if (!held) return null;
  if (now - (found.usedAt ?? 0) > USED_EVERY) {
    await db.update(tokens).set({ usedAt: now }).where(eq(tokens.id, found.id));
  }
  return { ...found, role: holds(held, found.role) ? found.role : held, makerEmail: maker?.email ?? null };
}
