import { fail, giveUp, ok, type Outcome } from "@/core/kit/outcome";
import { noteAccess } from "./accounts";
import { fromOf } from "./asker";
import { takeCode } from "./codes";
import { isPassword } from "./passwords";
import { findPerson } from "./people";
import { openSession, proveSession, sessionCookie, type OpenSession, type Person } from "./sessions";
import { countTry, forgetTry } from "./throttle";

const WRONG = "That address, password or code is not right.";

/** Checks a password, and a code where the person uses them. @throws FailureError when it is wrong, or was too often */
async function check(person: Person | null, email: string, given: Proof, headers: Headers): Promise<Person> {
  const from = fromOf(headers);
  await countTry(email, from);
  const isRight = await isPassword(person?.passwordHash ?? null, given.password);
  // Whether an address is known, or only its code is wrong, is nobody's business who has not both.
  if (!person || !isRight || !(await takeCode(person, given.code ?? ""))) {
    await noteAccess({ who: email, what: "sign-in refused", from });
    const hasToAsk = person && isRight && person.codeSecret !== null;
    return giveUp(
      "sign-in-wrong",
      hasToAsk && !given.code ? "Your app shows a code; it is needed too." : WRONG,
      hasToAsk
        ? "A code can be used once, and for a minute."
        : "Whoever set this installation up can send a link for a new password.",
    );
  }
  await forgetTry(email, from);
  return person;
}

export interface Proof {
  password: string;
  code?: string | undefined;
}

/** Signs a person in. @returns the header with the session */
export async function signIn(
  email: string,
  proof: Proof,
  headers: Headers,
): Promise<{ person: Person; cookie: string }> {
  const person = await check(await findPerson(email), email.toLowerCase(), proof, headers);
  return { person, cookie: await begin(person, headers) };
}

/** Opens a session for somebody who has just proved who they are. @returns its header */
export async function begin(person: Person, headers: Headers): Promise<string> {
  const secret = await openSession(person.id, headers.get("user-agent") ?? "");
  await noteAccess({ who: person.name, what: "signed in", from: fromOf(headers) });
  return sessionCookie(secret);
}

/** Proves once more who sits there. */
export async function prove(session: OpenSession, proof: Proof, headers: Headers): Promise<Outcome<object>> {
  if (session.person.codeSecret !== null && !proof.code) {
    return fail("sign-in-wrong", "Your app shows a code; it is needed too.");
  }
  await check(session.person, session.person.email, proof, headers);
  await proveSession(session.id);
  return ok({});
}
