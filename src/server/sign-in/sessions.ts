import { randomUUID } from "node:crypto";
import { and, desc, eq, lt, ne, or } from "drizzle-orm";
import { people, sessions } from "@/db/accounts/schema";
import { accounts } from "../installation";
import { hashOf, newSecret } from "./accounts";
import { SESSION_COOKIE } from "./cookie";

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
/** A session ends when nothing was asked for so long, and in any case after the other time. */
const MOST_IDLE = 12 * HOUR;
const MOST_AGE = 30 * 24 * HOUR;
/** Grave operations ask for the password again after so long. */
const PROOF_LASTS = HOUR;
/** How often a session's last use is written down, at most. */
const SEEN_EVERY = MINUTE;

export type Person = typeof people.$inferSelect;

export interface OpenSession {
  person: Person;
  id: string;
  /** Whether the password was given within the hour. */
  isProved: boolean;
}

/** The header that gives a browser its session. */
export function sessionCookie(secret: string): string {
  return `${SESSION_COOKIE}=${secret}; Path=/; HttpOnly; Secure; SameSite=Lax; Max-Age=${MOST_AGE / 1000}`;
}

/** The header that takes it away. */
export function noCookie(): string {
  return `${SESSION_COOKIE}=; Path=/; HttpOnly; Secure; SameSite=Lax; Max-Age=0`;
}

/** Opens a session for a person whose password was just given. @returns its secret, which is kept nowhere */
export async function openSession(person: string, agent: string): Promise<string> {
  const db = await accounts();
  const now = Date.now();
  await db.delete(sessions).where(or(lt(sessions.seenAt, now - MOST_IDLE), lt(sessions.createdAt, now - MOST_AGE)));
  const secret = newSecret();
  const times = { createdAt: now, seenAt: now, provedAt: now };
  await db
    .insert(sessions)
    .values({ hash: hashOf(secret), id: randomUUID(), person, ...times, agent: agent.slice(0, 200) });
  return secret;
}

/** The session of a secret, or null when there is none any more. */
export async function findSession(secret: string, now = Date.now()): Promise<OpenSession | null> {
  const db = await accounts();
  const [found] = await db
    .select()
    .from(sessions)
    .innerJoin(people, eq(people.id, sessions.person))
    .where(eq(sessions.hash, hashOf(secret)));
  if (!found) return null;
  const { sessions: session, people: person } = found;
  if (now - session.seenAt > MOST_IDLE || now - session.createdAt > MOST_AGE) {
    await db.delete(sessions).where(eq(sessions.hash, session.hash));
    return null;
  }
  if (now - session.seenAt > SEEN_EVERY) {
    await db.update(sessions).set({ seenAt: now }).where(eq(sessions.hash, session.hash));
  }
  return { person, id: session.id, isProved: now - session.provedAt <= PROOF_LASTS };
}

/** Notes that the password was given again. */
export async function proveSession(id: string): Promise<void> {
  await (await accounts()).update(sessions).set({ provedAt: Date.now() }).where(eq(sessions.id, id));
}

/** A person's sessions, the last used first. */
export async function listSessions(person: string) {
  const db = await accounts();
  return db
    .select({ id: sessions.id, createdAt: sessions.createdAt, seenAt: sessions.seenAt, agent: sessions.agent })
    .from(sessions)
    .where(eq(sessions.person, person))
    .orderBy(desc(sessions.seenAt));
}

/** Ends one session of a person. */
export async function endSession(person: string, id: string): Promise<void> {
  await (await accounts()).delete(sessions).where(and(eq(sessions.id, id), eq(sessions.person, person)));
}

/** Ends all sessions of a person, but for one that may stay. */
export async function endSessions(person: string, but = ""): Promise<void> {
  await (await accounts()).delete(sessions).where(and(eq(sessions.person, person), ne(sessions.id, but)));
}
