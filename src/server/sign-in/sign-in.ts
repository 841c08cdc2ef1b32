import { fail, giveUp, ok, type Outcome } from "@/core/kit/outcome";
import { called } from "@/core/kit/who";
import { noteAccess } from "./accounts";
import { fromOf } from "./asker";
import { takeCode } from "./codes";
import { isPassword } from "./passwords";
import { findPerson } from "./people";
import { openSession, proveSession, sessionCookie, type OpenSession, type Person } from "./sessions";
import { countTry, forgetTry, knownCookie, knownOf, type Trying } from "./throttle";

const WRONG = "That address, password or code is not right.";

/** Who tries, by what came with the request. */
function tryingOf(email: string, given: Proof, headers: Headers, session?: string): Trying {
  return { email, from: fromOf(headers), known: knownOf(headers), work: given.work, session };
}

/**
 * Checks a password, and a code where the person uses them.
 * @param session the one that proves once more who sits there
 * @throws FailureError when it is wrong, or was too often
 */
export async function check(
  person: Person | null,
  address: string,
  given: Proof,
  headers: Headers,
  session?: string,
): Promise<Person> {
  const email = address.toLowerCase();
  const trying = tryingOf(email, given, headers, session);
  const { from } = trying;
  await countTry(trying);
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
  await forgetTry(trying);
  return person;
}

export interface Proof {
  password: string;
  code?: string | undefined;
  work?: Trying["work"];
}

/** Signs a person in. @returns the cookies with the session, and with what makes this browser a known one */
export async function signIn(
  email: string,
  proof: Proof,
  headers: Headers,
): Promise<{ person: Person; cookies: string[] }> {
  const person = await check(await findPerson(email), email, proof, headers);
  return { person, cookies: await begin(person, headers) };
}

/** Opens a session for somebody who has just proved who they are. @returns its cookie, and that of a known browser */
export async function begin(person: Person, headers: Headers): Promise<string[]> {
  const secret = await openSession(person.id, headers.get("user-agent") ?? "");
  await noteAccess({ who: called(person.name, person.email), what: "signed in", from: fromOf(headers) });
  return [sessionCookie(secret), knownCookie(person)];
}

/** Proves once more who sits there. */
export async function prove(session: OpenSession, proof: Proof, headers: Headers): Promise<Outcome<object>> {
  if (session.person.codeSecret !== null && !proof.code) {
    return fail("sign-in-wrong", "Your app shows a code; it is needed too.");
  }
  await check(session.person, session.person.email, proof, headers, session.id);
  await proveSession(session.id);
  return ok({});
}
