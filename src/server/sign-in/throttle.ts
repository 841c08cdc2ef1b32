import { randomUUID } from "node:crypto";
import { eq, inArray, lt, sql } from "drizzle-orm";
import { z } from "zod";
import { FailureError } from "@/core/kit/outcome";
import { isDone, type Work } from "@/core/kit/work";
import { tries } from "@/db/accounts/schema";
import { accounts } from "../installation";
import { seal, unseal } from "../secrets";
import { hashOf } from "./accounts";
import type { Person } from "./sessions";

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;

/** What failed tries are counted for: how many are free, after how many more each one costs twice the work, and for how long they count, ms. */
const COUNTED = {
  /** An account from one address, one that is known for having signed in before, or an open session that proves who sits there. */
  near: { free: 5, doubling: 2, lasts: 15 * MINUTE },
  /** An account from wherever: what a crowd tries. */
  account: { free: 20, doubling: 10, lasts: HOUR },
  /** An address with whatever accounts. */
  address: { free: 100, doubling: 20, lasts: HOUR },
} as const;
/** Work at first, and at most, in bits: a tenth of a second, and some ten, for a browser. */
const LEAST_BITS = 15;
const MOST_BITS = 22;
const WORK_LASTS = 5 * MINUTE;

type Counted = keyof typeof COUNTED;
type Key = [counted: Counted, key: string];

/** Who tries, and from where. */
export interface Trying {
  email: string;
  from: string;
  /** The session that proves once more who sits there: strangers count nothing against it. */
  session?: string | undefined;
  /** What a browser kept from having signed in before; see {@link knownCookie}. */
  known?: string | undefined;
  /** The work that was asked for, and what it came to. */
  work?: { challenge: string; answer: number } | undefined;
}

export const workDoneSchema = z.object({ challenge: z.string().max(500), answer: z.number().int().min(0) });

/** Keys hold no address as it is, so that they are short whatever was typed. */
function keysOf({ email, from, session, known }: Trying): Key[] {
  if (session !== undefined) return [["near", `session ${session}`]];
  const device = known === undefined ? null : knownFor(known, email);
  if (device !== null) return [["near", `known ${device}`]];
  return [
    ["near", `near ${hashOf(`${email}\n${from}`)}`],
    ["account", `account ${hashOf(email)}`],
    ["address", `address ${hashOf(from)}`],
  ];
}

function bitsFor(counted: Counted, failures: number): number {
  const { free, doubling } = COUNTED[counted];
  return failures < free ? 0 : Math.min(MOST_BITS, LEAST_BITS + Math.floor((failures - free) / doubling));
}

/**
 * Counts a try as one that failed, until it is taken back; after too many that did, each wants work first.
 * @throws FailureError with the work, where it is not done yet
 */
export async function countTry(trying: Trying, now = Date.now()): Promise<void> {
  const db = await accounts();
  await db.delete(tries).where(lt(tries.until, now));
  const keys = keysOf(trying);
  const found = await db
    .select()
    .from(tries)
    .where(
      inArray(
        tries.key,
        keys.map(([, key]) => key),
      ),
    );
  const failures = new Map(found.map((row) => [row.key, row.failures]));
  const bits = Math.max(...keys.map(([counted, key]) => bitsFor(counted, failures.get(key) ?? 0)));
  if (bits > 0) await demandWork(trying, bits, now);
  for (const [counted, key] of keys) {
    const row = { key, failures: 1, until: now + COUNTED[counted].lasts };
    const set = { failures: sql`${tries.failures} + 1`, until: row.until };
    await db.insert(tries).values(row).onConflictDoUpdate({ target: tries.key, set });
  }
}

const challengeSchema = z.object({ id: z.string(), email: z.string(), bits: z.int(), until: z.number() });

async function demandWork({ email, work }: Trying, bits: number, now: number): Promise<void> {
  if (work && (await isGoodWork(work, email, bits, now))) return;
  const challenge = seal(
    JSON.stringify({ id: randomUUID(), email, bits, until: now + WORK_LASTS } satisfies z.infer<
      typeof challengeSchema
    >),
  );
  throw new FailureError({
    code: "sign-in-throttled",
    message: "There were many failed tries, so each one wants some work of the machine first.",
    hint: "A browser does it by itself in some seconds; a script finds it described in the API's text.",
    work: { challenge, bits } satisfies Work,
  });
}

async function isGoodWork(
  work: NonNullable<Trying["work"]>,
  email: string,
  bits: number,
  now: number,
): Promise<boolean> {
  let asked: z.infer<typeof challengeSchema>;
  try {
    asked = challengeSchema.parse(JSON.parse(unseal(work.challenge)));
  } catch {
    return false;
  }
  // Asked for when there were fewer failures it may be a little less.
  if (asked.email !== email || asked.until < now || asked.bits < bits - 1) return false;
  if (!isDone({ challenge: work.challenge, bits: asked.bits }, work.answer)) return false;
  const row = { key: `work ${asked.id}`, failures: 0, until: asked.until };
  const used = await (await accounts()).insert(tries).values(row).onConflictDoNothing().returning();
  return used.length > 0;
}

/** Takes a try back that went well, and forgets those before it from there. */
export async function forgetTry(trying: Trying): Promise<void> {
  const db = await accounts();
  for (const [counted, key] of keysOf(trying)) {
    if (counted === "near") await db.delete(tries).where(eq(tries.key, key));
    else
      await db
        .update(tries)
        .set({ failures: sql`max(0, ${tries.failures} - 1)` })
        .where(eq(tries.key, key));
  }
}

const KNOWN_COOKIE = "__Host-hot-shelf-known";
const KNOWN_LASTS = 180 * 24 * 3600;
const knownSchema = z.object({ email: z.string(), device: z.string() });

/**
 * What a browser keeps of somebody having signed in there: tries from it are counted by themselves, so that no crowd of
 * strangers makes signing in harder where people usually do (OWASP, slow down online guessing attacks with device cookies).
 */
export function knownCookie({ email }: Pick<Person, "email">): string {
  const kept = seal(JSON.stringify({ email, device: randomUUID() }));
  return `${KNOWN_COOKIE}=${kept}; Path=/; HttpOnly; Secure; SameSite=Lax; Max-Age=${KNOWN_LASTS}`;
}

/** What a request's browser kept, or undefined. */
export function knownOf(headers: Headers): string | undefined {
  return new RegExp(`(?:^|;\\s*)${KNOWN_COOKIE}=([^;]+)`).exec(headers.get("cookie") ?? "")?.[1];
}

function knownFor(cookie: string, email: string): string | null {
  try {
    const kept = knownSchema.parse(JSON.parse(unseal(cookie)));
    return kept.email === email ? kept.device : null;
  } catch {
    return null;
  }
}
