import { and, eq, isNull, lt, or } from "drizzle-orm";
import { Secret, TOTP } from "otpauth";
import { giveUp } from "@/core/kit/outcome";
import { people } from "@/db/accounts/schema";
import { seal, unseal } from "../secrets";
import { accounts } from "../installation";
import type { Person } from "./sessions";

/** One-time codes by time (RFC 6238): six digits, thirty seconds, one step of tolerance either way. */
const PERIOD = 30;
const TOLERANCE = 1;

function generator(secret: string, label: string): TOTP {
  return new TOTP({ issuer: "Hot Shelf", label, secret: Secret.fromBase32(secret), digits: 6, period: PERIOD });
}

/** A new secret with the address by which an app takes it over. It counts only once a code proves that it did. */
export function newCodeSecret(email: string): { secret: string; uri: string } {
  const { base32 } = new Secret({ size: 20 });
  return { secret: base32, uri: generator(base32, email).toString() };
}

/** The step that a code is of, or null where it is none of this secret. */
function stepOf(secret: string, code: string, now: number): number | null {
  const delta = generator(secret, "").validate({ token: code.replace(/\s/g, ""), window: TOLERANCE, timestamp: now });
  return delta === null ? null : Math.floor(now / 1000 / PERIOD) + delta;
}

/** Checks a person's code and uses it up. @returns whether it was right */
export async function takeCode(person: Person, code: string, now = Date.now()): Promise<boolean> {
  if (person.codeSecret === null) return true;
  const step = stepOf(unseal(person.codeSecret), code, now);
  if (step === null) return false;
  const db = await accounts();
  const used = await db
    .update(people)
    .set({ codeStep: step })
    .where(and(eq(people.id, person.id), or(isNull(people.codeStep), lt(people.codeStep, step))))
    .returning({ id: people.id });
  return used.length > 0;
}

/** Has codes asked for from now on. @throws FailureError when the code is none of the secret */
export async function beginCodes(person: Person, secret: string, code: string): Promise<void> {
  const step = /^[A-Z2-7]{16,64}$/.test(secret) ? stepOf(secret, code, Date.now()) : null;
  if (step === null) {
    giveUp("code-wrong", "That is not the code that the app shows now.", "Look at its clock, then try the next code.");
  }
  await (
    await accounts()
  )
    .update(people)
    // The code that proved it is used up by that.
    .set({ codeSecret: seal(secret), codeStep: step })
    .where(eq(people.id, person.id));
}

/** Has no codes asked for any more. */
export async function endCodes(person: Person): Promise<void> {
  await (await accounts()).update(people).set({ codeSecret: null, codeStep: null }).where(eq(people.id, person.id));
}
