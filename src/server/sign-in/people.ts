import { randomUUID } from "node:crypto";
import { and, asc, eq, gt } from "drizzle-orm";
import { fail, giveUp, ok, type Outcome } from "@/core/kit/outcome";
import { invitations, people, roles, sessions } from "@/db/accounts/schema";
import { accounts, hashOf, newSecret } from "./accounts";
import { hashPassword, NO_PASSWORD } from "./passwords";
import type { Role } from "./roles";
import { endSessions, type Person } from "./sessions";

const HOUR = 3_600_000;
/** How long links last. */
const FOUNDER_LINK = HOUR;
const INVITATION = 7 * 24 * HOUR;

/** Whether anybody may sign in yet. */
export async function hasPeople(): Promise<boolean> {
  const db = await accounts();
  return (await db.select({ id: people.id }).from(people).limit(1)).length > 0;
}

/** A link by which the first person comes in, made anew at each start until there is one. @returns its secret */
export async function founderLink(): Promise<string> {
  const db = await accounts();
  const secret = newSecret();
  await db.delete(invitations).where(and(eq(invitations.makesFounder, true), eq(invitations.createdBy, "start")));
  await db.insert(invitations).values({
    ...{ hash: hashOf(secret), id: randomUUID(), createdBy: "start", makesFounder: true },
    expiresAt: Date.now() + FOUNDER_LINK,
  });
  return secret;
}

/** What a person may do in a workspace; a founder everything. */
export async function roleOf(person: Person, workspace: string): Promise<Role | null> {
  if (person.isFounder) return "owner";
  const db = await accounts();
  const [found] = await db
    .select({ role: roles.role })
    .from(roles)
    .where(and(eq(roles.person, person.id), eq(roles.workspace, workspace)));
  return found?.role ?? null;
}

/** Those who have a role in a workspace, founders too. */
export async function listPeople(workspace: string) {
  const db = await accounts();
  const all = await db.select().from(people).orderBy(asc(people.name));
  const given = await db.select().from(roles).where(eq(roles.workspace, workspace));
  const roleOfPerson = new Map(given.map(({ person, role }) => [person, role]));
  return all.flatMap(({ id, email, name, isFounder, codeSecret }) => {
    const role = isFounder ? ("owner" as const) : roleOfPerson.get(id);
    return role ? [{ id, email, name, role, isFounder, hasCodes: codeSecret !== null }] : [];
  });
}

/** Invitations to a workspace that wait. */
export async function listInvitations(workspace: string) {
  const db = await accounts();
  return db
    .select({
      id: invitations.id,
      email: invitations.email,
      role: invitations.role,
      createdBy: invitations.createdBy,
      expiresAt: invitations.expiresAt,
    })
    .from(invitations)
    .where(and(eq(invitations.workspace, workspace), gt(invitations.expiresAt, Date.now())));
}

/**
 * Invites somebody to a workspace. Who is a person here already has the role at once; anybody else gets a link.
 * @returns the link's secret, or null where none is needed
 */
export async function invite(
  by: string,
  workspace: string,
  { email: given, role }: { email: string; role: Role },
): Promise<Outcome<{ secret: string | null }>> {
  const db = await accounts();
  const email = given.toLowerCase();
  const [known] = await db.select().from(people).where(eq(people.email, email));
  if (known) {
    const set = await setRole(known.id, workspace, role);
    return set.ok ? ok({ secret: null }) : set;
  }
  const secret = newSecret();
  await db.delete(invitations).where(and(eq(invitations.email, email), eq(invitations.workspace, workspace)));
  await db.insert(invitations).values({
    ...{ hash: hashOf(secret), id: randomUUID(), email, workspace, role, createdBy: by },
    expiresAt: Date.now() + INVITATION,
  });
  return ok({ secret });
}

/** A link by which a person who forgot the password sets a new one. */
export async function renewalLink(by: string, person: string): Promise<string> {
  const db = await accounts();
  const secret = newSecret();
  await db.delete(invitations).where(eq(invitations.person, person));
  await db.insert(invitations).values({
    ...{ hash: hashOf(secret), id: randomUUID(), person, createdBy: by },
    expiresAt: Date.now() + INVITATION,
  });
  return secret;
}

/** Takes an invitation back. */
export async function withdrawInvitation(workspace: string, id: string): Promise<void> {
  const db = await accounts();
  await db.delete(invitations).where(and(eq(invitations.id, id), eq(invitations.workspace, workspace)));
}

/** The invitation of a link. @throws FailureError when it is used up, withdrawn or too old */
export async function findInvitation(secret: string) {
  const db = await accounts();
  const [found] = await db
    .select()
    .from(invitations)
    .where(and(eq(invitations.hash, hashOf(secret)), gt(invitations.expiresAt, Date.now())));
  if (!found) {
    giveUp("invitation-gone", "This link was used already, withdrawn, or is too old.", "Ask for a new one.");
  }
  return found;
}

/** Makes the person that a link invites, or renews the password of one, whose sessions end. The link is used up in the same transaction. */
export async function acceptInvitation(
  secret: string,
  given: { email: string; name: string; password: string },
): Promise<{ person: Person; isNew: boolean }> {
  const invitation = await findInvitation(secret);
  const passwordHash = await hashPassword(given.password);
  const db = await accounts();
  return db.transaction(async (tx) => {
    const used = await tx.delete(invitations).where(eq(invitations.hash, invitation.hash)).returning();
    if (used.length === 0) giveUp("invitation-gone", "This link was used a moment ago.", "Sign in.");
    if (invitation.person !== null) {
      const renewed = { passwordHash };
      const [person] = await tx.update(people).set(renewed).where(eq(people.id, invitation.person)).returning();
      if (!person) giveUp("invitation-gone", "The person of this link is no longer here.", "Ask for an invitation.");
      await tx.delete(sessions).where(eq(sessions.person, person.id));
      return { person, isNew: false };
    }
    const email = (invitation.email ?? given.email).toLowerCase();
    const row = {
      ...{ id: randomUUID(), email, name: given.name, passwordHash },
      ...{ isFounder: invitation.makesFounder, createdAt: Date.now() },
    };
    const [person] = await tx.insert(people).values(row).onConflictDoNothing().returning();
    if (!person) giveUp("person-known", `${email} is a person here already.`, "Sign in with that address.");
    if (invitation.workspace && invitation.role) {
      await tx.insert(roles).values({ person: person.id, workspace: invitation.workspace, role: invitation.role });
    }
    return { person, isNew: true };
  });
}

/** Makes the person of all invitations to an address that an identity provider vouches for; null where there is none. Such a person has no password here. */
export async function personByInvitation(given: string, name: string): Promise<Person | null> {
  const email = given.toLowerCase();
  const db = await accounts();
  return db.transaction(async (tx) => {
    const waiting = await tx
      .delete(invitations)
      .where(and(eq(invitations.email, email), gt(invitations.expiresAt, Date.now())))
      .returning();
    if (waiting.length === 0) return null;
    const row = { id: randomUUID(), email, name: name.slice(0, 80), passwordHash: NO_PASSWORD, createdAt: Date.now() };
    const [person] = await tx.insert(people).values(row).returning();
    for (const { workspace, role } of waiting) {
      if (workspace && role) await tx.insert(roles).values({ person: person!.id, workspace, role });
    }
    return person!;
  });
}

/** Changes what a person may do in a workspace, or takes it all (null). Their sessions end, so that nothing open goes on with what was. */
export async function setRole(person: string, workspace: string, role: Role | null): Promise<Outcome<object>> {
  const db = await accounts();
  const [known] = await db.select().from(people).where(eq(people.id, person));
  if (!known) return fail("person-unknown", "There is no such person.");
  if (known.isFounder) {
    return fail(
      "person-founder",
      `${known.name} set this installation up and owns every workspace.`,
      "Nothing was changed.",
    );
  }
  await db.transaction(async (tx) => {
    await tx.delete(roles).where(and(eq(roles.person, person), eq(roles.workspace, workspace)));
    if (role !== null) await tx.insert(roles).values({ person, workspace, role });
  });
  await endSessions(person);
  return ok({});
}

/** A person by the address they sign in with, or null. */
export async function findPerson(email: string): Promise<Person | null> {
  const db = await accounts();
  const [found] = await db.select().from(people).where(eq(people.email, email.toLowerCase()));
  return found ?? null;
}

/** Sets a new password. All other sessions of the person end. */
export async function setPassword(person: string, password: string, session: string): Promise<void> {
  const passwordHash = await hashPassword(password);
  await (await accounts()).update(people).set({ passwordHash }).where(eq(people.id, person));
  await endSessions(person, session);
}
