import { randomUUID } from "node:crypto";
import { and, eq, gt } from "drizzle-orm";
import { giveUp } from "@/core/kit/outcome";
import { invitations, people, sessions } from "@/db/accounts/schema";
import { accounts } from "../installation";
import { hashOf } from "./accounts";
import { checkName } from "./names";
import { checkPassword, hashPassword, NO_PASSWORD } from "./passwords";
import { findPerson, giveRole, personOfId, roleOf } from "./people";
import type { Person } from "./sessions";
import { check, type Proof } from "./sign-in";

type Invitation = typeof invitations.$inferSelect;

/** Whether whoever made a link may still do what it does: a link is worth no more than its maker at that time. */
async function isStillGood({ maker, workspace, person, makesFounder }: Invitation): Promise<boolean> {
  if (maker === null) return true;
  const by = await personOfId(maker);
  if (!by) return false;
  if (person !== null || makesFounder || workspace === null) return by.isFounder;
  return (await roleOf(by, workspace)) === "owner";
}

/** The invitation of a link. @throws FailureError when it is used up, withdrawn, too old, or its maker may not make it any more */
export async function findInvitation(secret: string): Promise<Invitation> {
  const db = await accounts();
  const [found] = await db
    .select()
    .from(invitations)
    .where(and(eq(invitations.hash, hashOf(secret)), gt(invitations.expiresAt, Date.now())));
  if (!found || !(await isStillGood(found))) {
    giveUp("invitation-gone", "This link was used already, withdrawn, or is too old.", "Ask for a new one.");
  }
  return found;
}

export interface Accepted {
  person: Person;
  /** What became of it: somebody new, a new password, or one more role of somebody known. */
  how: "new" | "renewed" | "joined";
}

interface Given extends Proof {
  email: string;
  name: string;
}

/**
 * Takes up a link, which is used up in the same transaction: makes the person whom it invites, gives one who is here already
 * the role, once they have proved who they are, or renews a password.
 * @param open whoever sits there and has signed in, or null
 */
export async function acceptInvitation(
  secret: string,
  given: Given,
  open: Person | null = null,
  headers: Headers = new Headers(),
): Promise<Accepted> {
  const invitation = await findInvitation(secret);
  if (invitation.person !== null) return renew(invitation, invitation.person, given.password);
  const email = (invitation.email ?? given.email).toLowerCase();
  const known = await findPerson(email);
  if (!known) return comeIn(invitation, email, given);
  if (invitation.makesFounder)
    giveUp("person-known", `${email} is a person here already.`, "Sign in with that address.");
  // The link shows that somebody was invited, not that this is them.
  const person = open?.id === known.id ? known : await check(known, email, given, headers);
  return join(invitation, person);
}

/** Uses a link up, within a transaction, so that of two who take it up at once one comes first. */
async function takeUp(tx: Pick<Awaited<ReturnType<typeof accounts>>, "delete">, { hash }: Invitation): Promise<void> {
  const used = await tx.delete(invitations).where(eq(invitations.hash, hash)).returning();
  if (used.length === 0) giveUp("invitation-gone", "This link was used a moment ago.", "Sign in.");
}

async function renew(invitation: Invitation, id: string, password: string): Promise<Accepted> {
  const whose = await personOfId(id);
  if (!whose) giveUp("invitation-gone", "The person of this link is no longer here.", "Ask for an invitation.");
  checkPassword(password, whose);
  const passwordHash = await hashPassword(password);
  const db = await accounts();
  return db.transaction(async (tx) => {
    await takeUp(tx, invitation);
    await tx.delete(invitations).where(eq(invitations.person, id));
    const [person] = await tx.update(people).set({ passwordHash }).where(eq(people.id, id)).returning();
    await tx.delete(sessions).where(eq(sessions.person, id));
    return { person: person!, how: "renewed" as const };
  });
}

async function comeIn(invitation: Invitation, email: string, { name, password }: Given): Promise<Accepted> {
  checkPassword(password, { email, name });
  const passwordHash = await hashPassword(password);
  const db = await accounts();
  return db.transaction(async (tx) => {
    await takeUp(tx, invitation);
    await checkName(tx, name);
    const row = {
      ...{ id: randomUUID(), email, name, passwordHash },
      ...{ isFounder: invitation.makesFounder, createdAt: Date.now() },
    };
    const [person] = await tx.insert(people).values(row).onConflictDoNothing().returning();
    if (!person) giveUp("person-known", `${email} is a person here already.`, "Sign in with that address.");
    if (invitation.workspace) await giveRole(tx, person.id, invitation.workspace, invitation.role);
    return { person, how: "new" as const };
  });
}

async function join(invitation: Invitation, person: Person): Promise<Accepted> {
  const db = await accounts();
  return db.transaction(async (tx) => {
    await takeUp(tx, invitation);
    if (invitation.workspace) await giveRole(tx, person.id, invitation.workspace, invitation.role);
    return { person, how: "joined" as const };
  });
}

/**
 * Takes up all invitations to an address that an identity provider vouches for.
 * @returns the person of the address, made where there was an invitation; null where nobody invited it. Who is made so has
 *   no password here
 */
export async function personByInvitation(given: string, name: string): Promise<Person | null> {
  const email = given.toLowerCase();
  const db = await accounts();
  const known = await findPerson(email);
  const waiting: Invitation[] = [];
  const open = and(eq(invitations.email, email), gt(invitations.expiresAt, Date.now()));
  for (const one of await db.select().from(invitations).where(open)) if (await isStillGood(one)) waiting.push(one);
  if (waiting.length === 0) return known;
  return db.transaction(async (tx) => {
    const person = known ?? (await addVouched(tx, email, name));
    for (const one of waiting) {
      await takeUp(tx, one);
      if (one.workspace) await giveRole(tx, person.id, one.workspace, one.role);
    }
    return person;
  });
}

/** Makes a person whom a provider vouches for; a name that is somebody's gets the address beside it. */
async function addVouched(
  tx: Parameters<Parameters<Awaited<ReturnType<typeof accounts>>["transaction"]>[0]>[0],
  email: string,
  given: string,
) {
  const short = given.slice(0, 80);
  const name = await checkName(tx, short).then(
    () => short,
    () => email,
  );
  const row = { id: randomUUID(), email, name, passwordHash: NO_PASSWORD, createdAt: Date.now() };
  const [person] = await tx.insert(people).values(row).returning();
  return person!;
}
