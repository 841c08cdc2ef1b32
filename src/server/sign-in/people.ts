import { randomUUID } from "node:crypto";
import { and, asc, eq, gt } from "drizzle-orm";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { invitations, people, roles, tokens } from "@/db/accounts/schema";
import type { AccountsDatabase } from "@/db/client";
import { accounts } from "../installation";
import { hashOf, newSecret } from "./accounts";
import { checkPassword, hashPassword } from "./passwords";
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
export async function roleOf(person: Pick<Person, "id" | "isFounder">, workspace: string): Promise<Role | null> {
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

/** Who makes a link or a key: the name that stands beside it, and the person whose role it hangs on; null on this machine itself. */
export interface Maker {
  who: string;
  person: string | null;
}

/**
 * Invites somebody to a workspace by a link. Whether the address is known here is neither said nor changes anything before
 * its owner takes the link up.
 * @returns the link's secret
 */
export async function invite(
  by: Maker,
  workspace: string,
  { email: given, role }: { email: string; role: Role },
): Promise<Outcome<{ secret: string }>> {
  const db = await accounts();
  const email = given.toLowerCase();
  // Who is in the workspace stands in its list of people, so this tells nothing new.
  if ((await listPeople(workspace)).some((one) => one.email === email)) {
    return fail("person-here", `${email} has a role in this workspace already.`, "Change it in the list of people.");
  }
  const secret = newSecret();
  await db.delete(invitations).where(and(eq(invitations.email, email), eq(invitations.workspace, workspace)));
  await db.insert(invitations).values({
    ...{ hash: hashOf(secret), id: randomUUID(), email, workspace, role, createdBy: by.who, maker: by.person },
    expiresAt: Date.now() + INVITATION,
  });
  return ok({ secret });
}

/** A link by which a person who forgot the password sets a new one. */
export async function renewalLink(by: Maker, person: string): Promise<string> {
  const db = await accounts();
  const secret = newSecret();
  await db.delete(invitations).where(eq(invitations.person, person));
  await db.insert(invitations).values({
    ...{ hash: hashOf(secret), id: randomUUID(), person, createdBy: by.who, maker: by.person },
    expiresAt: Date.now() + INVITATION,
  });
  return secret;
}

/** Takes an invitation back. */
export async function withdrawInvitation(workspace: string, id: string): Promise<void> {
  const db = await accounts();
  await db.delete(invitations).where(and(eq(invitations.id, id), eq(invitations.workspace, workspace)));
}

/**
 * Changes what a person of a workspace may do there, or takes it all (null). It holds from their next request on, since roles
 * are looked at with each; what they made hangs on it too. Other workspaces and their sessions are not touched.
 */
export async function setRole(person: string, workspace: string, role: Role | null): Promise<Outcome<object>> {
  const known = (await listPeople(workspace)).find(({ id }) => id === person);
  if (!known) return fail("person-unknown", "There is no such person in this workspace.");
  if (known.isFounder) {
    return fail(
      "person-founder",
      `${known.name} set this installation up and owns every workspace.`,
      "Nothing was changed.",
    );
  }
  const db = await accounts();
  await db.transaction(async (tx) => {
    await giveRole(tx, person, workspace, role);
    const mine = <T extends typeof invitations | typeof tokens>(table: T) =>
      and(eq(table.maker, person), eq(table.workspace, workspace));
    if (role !== "owner") await tx.delete(invitations).where(mine(invitations));
    if (role === null) await tx.delete(tokens).where(mine(tokens));
  });
  return ok({});
}

/** Writes down what a person may do in a workspace, within a transaction. */
export async function giveRole(
  tx: Pick<AccountsDatabase, "delete" | "insert">,
  person: string,
  workspace: string,
  role: Role | null,
): Promise<void> {
  await tx.delete(roles).where(and(eq(roles.person, person), eq(roles.workspace, workspace)));
  if (role !== null) await tx.insert(roles).values({ person, workspace, role });
}

/** A person by ID, or null. */
export async function personOfId(id: string): Promise<Person | null> {
  const db = await accounts();
  const [found] = await db.select().from(people).where(eq(people.id, id));
  return found ?? null;
}

/** A person by the address they sign in with, or null. */
export async function findPerson(email: string): Promise<Person | null> {
  const db = await accounts();
  const [found] = await db.select().from(people).where(eq(people.email, email.toLowerCase()));
  return found ?? null;
}

/** Sets a new password. All other sessions of the person end, and so do links for another new password. */
export async function setPassword(person: Person, password: string, session: string): Promise<void> {
  checkPassword(password, person);
  const passwordHash = await hashPassword(password);
  const db = await accounts();
  await db.transaction(async (tx) => {
    await tx.update(people).set({ passwordHash }).where(eq(people.id, person.id));
    await tx.delete(invitations).where(eq(invitations.person, person.id));
  });
  await endSessions(person.id, session);
}
