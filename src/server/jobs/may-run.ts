import type { Failure } from "@/core/kit/outcome";
import { identityOf } from "@/core/kit/who";
import { isSignInOn } from "../settings";
import { findPerson, roleOf } from "../sign-in/people";
import { holds, type Role } from "../sign-in/roles";
import type { JobKind } from "./jobs";

/** What a job needs of whoever asked for it, beyond a role at all. */
const NEEDED: Partial<Record<JobKind, Role>> = { dispatch: "sender", "market-run": "sender" };

/**
 * Why a job is not done any more, or null: what somebody asked for hangs on what they may do when it is done, as with a
 * dispatch for next week. Work that nobody asked for, such as a reading on schedule, is the workspace's own.
 */
export async function barred(job: { kind: string; who: string }, workspace: string): Promise<Failure | null> {
  const email = identityOf(job.who);
  if (!isSignInOn() || email === job.who) return null;
  const person = await findPerson(email);
  const held = person && (await roleOf(person, workspace));
  const needed = NEEDED[job.kind as JobKind] ?? "viewer";
  if (holds(held, needed)) return null;
  return {
    code: "forbidden-role",
    message: `${job.who} asked for this and may not do it any more. It was not done.`,
    hint: "Somebody who may can ask for it anew; what waited for it waits on.",
  };
}
