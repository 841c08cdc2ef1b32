import { hash, verify } from "@node-rs/argon2";
import { z } from "zod";
import { giveUp } from "@/core/kit/outcome";

/** OWASP's least for Argon2id: 19 MiB, two passes, one lane. */
const COST = { memoryCost: 19 * 1024, timeCost: 2, parallelism: 1 } as const;
const LEAST_LENGTH = 12;

/** A password that may be chosen: long, and of several letters; see {@link checkPassword} for the rest. */
export const passwordSchema = z
  .string()
  .min(LEAST_LENGTH, `A password has ${LEAST_LENGTH} characters and more; several words are easy to keep.`)
  .max(500)
  .refine((text) => new Set(text.toLowerCase()).size >= 5, "This is too few different characters for a password.");

/** What is left of a password without the name and address of whoever chooses it has to be so long. */
const LEAST_OWN = 8;

/** Refuses a password that is little more than its person's own address or name. @throws FailureError */
export function checkPassword(password: string, { email, name }: { email: string; name: string }): void {
  const parts = [email, email.split("@")[0]!, ...email.split(/[@.]/), name, ...name.split(/\s+/)]
    .map((part) => part.toLowerCase())
    .filter((part) => part.length >= 3)
    .sort((a, b) => b.length - a.length);
  let rest = password.toLowerCase();
  for (const part of parts) rest = rest.replaceAll(part, "");
  if (rest.length < LEAST_OWN) {
    giveUp(
      "input-password",
      "Your own name or address is no password.",
      "Take several words that have nothing to do with it.",
    );
  }
}

/** The hash of a password, with salt and cost. */
export function hashPassword(password: string): Promise<string> {
  return hash(password.normalize("NFKC"), COST);
}

/** Nobody's password: compared with where there is no such person, so that the answer takes as long. */
let nobody: Promise<string> | null = null;

/** Stands where a person signs in elsewhere only: no password fits it. */
export const NO_PASSWORD = "none";

/** Whether a password fits a hash; false where there is none, after as long. */
export async function isPassword(kept: string | null, password: string): Promise<boolean> {
  const isThere = kept !== null && kept !== NO_PASSWORD;
  const against = isThere ? kept : await (nobody ??= hashPassword("nobody at all has this"));
  const fits = await verify(against, password.normalize("NFKC"));
  return fits && isThere;
}
