import { z } from "zod";
import { fail, ok } from "@/core/kit/outcome";
import { called } from "@/core/kit/who";
import { acceptInvitation, findInvitation } from "../../sign-in/accept";
import { accessLines, changeLines } from "../../sign-in/logs";
import { noteAccess } from "../../sign-in/accounts";
import { fromOf, type Asker } from "../../sign-in/asker";
import { beginCodes, endCodes, newCodeSecret } from "../../sign-in/codes";
import { BACK_PATH, comeBack, isElsewhereOn, leave } from "../../sign-in/elsewhere";
import { passwordSchema } from "../../sign-in/passwords";
import {
  findPerson,
  hasPeople,
  invite,
  listInvitations,
  listPeople,
  personOfId,
  renewalLink,
  setPassword,
  setRole,
  withdrawInvitation,
  type Maker,
} from "../../sign-in/people";
import { ROLES } from "../../sign-in/roles";
import { endSession, listSessions, noCookie, type OpenSession } from "../../sign-in/sessions";
import { begin, prove, signIn } from "../../sign-in/sign-in";
import { workDoneSchema } from "../../sign-in/throttle";
import { listTokens, makeToken, revokeToken } from "../../sign-in/tokens";
import { isSignInOn } from "../../settings";
import { global, inWorkspace, type BoundEndpoint } from "../endpoint";

const proofSchema = z.object({
  password: z.string().max(500),
  code: z.string().max(20).optional(),
  /** After many failed tries: the work that the refusal named, and the number that does it. */
  work: workDoneSchema.optional(),
});
const emailSchema = z.email("An e-mail address such as ada@shop.example.").max(200);
const nameSchema = z.string().trim().min(1, "Give a name.").max(80);
const roleSchema = z.enum(ROLES);
const idSchema = z.uuid();

/** The session of whoever asks. @throws FailureError for scripts and where nobody signs in */
function ownSession(asker: Asker | null): OpenSession | null {
  return asker?.session ?? null;
}
/** Who makes a link or a key. */
const makerOf = (who: string, asker: Asker | null): Maker => ({ who, person: ownSession(asker)?.person.id ?? null });
const NO_SESSION = fail("session-none", "Nobody has signed in here.", "On the machine itself nobody needs to.");

const sessionEndpoints: BoundEndpoint[] = [
  global(
    {
      method: "GET",
      role: "anyone",
      path: "session",
      summary: "Who asks, and what they may do in a workspace.",
      query: z.object({ workspace: z.string().max(60).optional() }),
    },
    async ({ asker, query }) => {
      const person = asker?.session?.person;
      return ok({
        isOn: isSignInOn(),
        isElsewhereOn: isElsewhereOn(),
        isFirst: isSignInOn() && !(await hasPeople()),
        who: person?.name ?? asker?.who ?? null,
        email: person?.email ?? null,
        hasCodes: person ? person.codeSecret !== null : false,
        isFounder: asker?.isFounder ?? false,
        role: asker && query.workspace ? await asker.roleIn(query.workspace) : null,
      });
    },
  ),
  global(
    {
      method: "POST",
      role: "anyone",
      path: "session",
      summary: "Sign in. The answer sets the session's cookie.",
      body: proofSchema.extend({ email: emailSchema }),
    },
    async ({ body, headers }) => {
      const { person, cookies } = await signIn(body.email, body, headers);
      return { value: { who: person.name }, cookies };
    },
  ),
  global(
    {
      method: "GET",
      role: "anyone",
      path: "session/elsewhere",
      summary: "Sign in at the identity provider: sends the browser there.",
      status: 302,
      query: z.object({ to: z.string().max(2000).default("/") }),
    },
    async ({ headers, query }) => leave(headers, query.to),
  ),
  global(
    {
      method: "GET",
      role: "anyone",
      path: BACK_PATH,
      isFromElsewhere: true,
      summary: "Where the identity provider sends people back to.",
      status: 302,
    },
    async ({ headers, url }) => comeBack(headers, url),
  ),
  global({ method: "DELETE", role: "member", path: "session", summary: "Sign out." }, async ({ asker }) => {
    const session = ownSession(asker);
    if (session) await endSession(session.person.id, session.id);
    return { value: {}, cookies: [noCookie()] };
  }),
  global(
    {
      method: "POST",
      role: "member",
      path: "session/proof",
      summary: "Give the password once more.",
      body: proofSchema,
    },
    async ({ asker, body, headers }) => {
      const session = ownSession(asker);
      return session ? prove(session, body, headers) : NO_SESSION;
    },
  ),
  global(
    { method: "GET", role: "anyone", path: "invitations/{secret}", summary: "What a link invites to." },
    async ({ path }) => {
      const { email, workspace, role, person, makesFounder } = await findInvitation(path["secret"]!);
      return ok({ email, workspace, role, isRenewal: person !== null, makesFounder });
    },
  ),
  global(
    {
      method: "POST",
      role: "anyone",
      path: "invitations/{secret}",
      summary: "Take up a link: become a person here, have one more role, or set a new password.",
      body: proofSchema.extend({
        email: emailSchema.default("nobody@nowhere.example"),
        name: nameSchema.default("New"),
      }),
    },
    async ({ path, body, headers, asker }) => {
      const open = ownSession(asker)?.person ?? null;
      const invitation = await findInvitation(path["secret"]!);
      // A password that is chosen now has to be a good one; one that is given as proof is as it is.
      const isChosen = invitation.person !== null || !(await findPerson(invitation.email ?? body.email));
      if (isChosen) z.object({ password: passwordSchema }).parse({ password: body.password });
      const { person, how } = await acceptInvitation(path["secret"]!, body, open, headers);
      const who = called(person.name, person.email);
      await noteAccess({ who, what: HOW[how], workspace: invitation.workspace, from: fromOf(headers) });
      if (open?.id === person.id && how === "joined") return ok({ who: person.name, isIn: true });
      // A link stands for the password alone: where codes are used, they are asked for at signing in.
      if (how === "renewed" && person.codeSecret !== null) return ok({ who: person.name, isIn: false });
      return { value: { who: person.name, isIn: true }, cookies: await begin(person, headers) };
    },
  ),
];

/** What the access log says of a link that was taken up. */
const HOW = {
  new: "accepted an invitation",
  joined: "accepted an invitation to one more workspace",
  renewed: "set a new password by link",
} as const;

const ownEndpoints: BoundEndpoint[] = [
  global(
    { method: "GET", role: "member", path: "me/sessions", summary: "Where one is signed in." },
    async ({ asker }) => {
      const session = ownSession(asker);
      if (!session) return ok([]);
      const all = await listSessions(session.person.id);
      return ok(all.map((one) => ({ ...one, isThis: one.id === session.id })));
    },
  ),
  global(
    { method: "DELETE", role: "member", path: "me/sessions/{id}", summary: "Sign out somewhere else." },
    async ({ asker, path }) => {
      const session = ownSession(asker);
      if (session) await endSession(session.person.id, idSchema.parse(path["id"]));
      return ok({});
    },
  ),
  global(
    {
      method: "PUT",
      role: "member",
      isGrave: true,
      path: "me/password",
      summary: "Set a new password. All other sessions end.",
      body: z.object({ password: passwordSchema }),
    },
    async ({ asker, body, headers, who }) => {
      const session = ownSession(asker);
      if (!session) return NO_SESSION;
      await setPassword(session.person, body.password, session.id);
      await noteAccess({ who, what: "set a new password", from: fromOf(headers) });
      return ok({});
    },
  ),
  global(
    {
      method: "POST",
      role: "member",
      isGrave: true,
      path: "me/codes",
      summary: "A secret for one-time codes, to be confirmed.",
    },
    async ({ asker }) => {
      const session = ownSession(asker);
      return session ? ok(newCodeSecret(session.person.email)) : NO_SESSION;
    },
  ),
  global(
    {
      method: "PUT",
      role: "member",
      isGrave: true,
      path: "me/codes",
      summary: "Have one-time codes asked for, once a code proves that the app has the secret.",
      body: z.object({ secret: z.string().max(80), code: z.string().max(20) }),
    },
    async ({ asker, body }) => {
      const session = ownSession(asker);
      if (!session) return NO_SESSION;
      await beginCodes(session.person, body.secret, body.code);
      return ok({});
    },
  ),
  global(
    { method: "DELETE", role: "member", isGrave: true, path: "me/codes", summary: "Have no codes asked for any more." },
    async ({ asker }) => {
      const session = ownSession(asker);
      if (session) await endCodes(session.person);
      return ok({});
    },
  ),
];

/** Which lines of a log are asked for. */
const logQuery = z.object({
  q: z.string().max(200).default(""),
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(1000).default(100),
});

const peopleEndpoints: BoundEndpoint[] = [
  inWorkspace(
    { method: "GET", role: "owner", path: "people", summary: "Who may come in, and invitations that wait." },
    async ({ info }) => ok({ people: await listPeople(info.slug), invitations: await listInvitations(info.slug) }),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "owner",
      isGrave: true,
      path: "people",
      summary:
        "Invite somebody: answers a link by which they come in, or have the role besides where they are here already.",
      body: z.object({ email: emailSchema, role: roleSchema }),
      status: 201,
    },
    async ({ info, body, who, asker, headers }) => {
      const invited = await invite(makerOf(who, asker), info.slug, body);
      if (!invited.ok) return invited;
      const what = `invited ${body.email} as ${body.role}`;
      await noteAccess({ who, what, workspace: info.slug, from: fromOf(headers) });
      return ok({ link: `/welcome/${invited.value.secret}` });
    },
  ),
  inWorkspace(
    {
      method: "PUT",
      role: "owner",
      isGrave: true,
      path: "people/{person}",
      summary: "Change what somebody may do from now on; null takes it all, and what they made with it.",
      body: z.object({ role: roleSchema.nullable() }),
    },
    async ({ info, path, body, who, headers }) => {
      const done = await setRole(idSchema.parse(path["person"]), info.slug, body.role);
      if (done.ok) {
        const whose = await personOfId(path["person"]!);
        const what = `role of ${called(whose?.name ?? "", whose?.email ?? null)}: ${body.role ?? "none"}`;
        await noteAccess({ who, what, workspace: info.slug, from: fromOf(headers) });
      }
      return done;
    },
  ),
  inWorkspace(
    {
      method: "POST",
      role: "founder",
      isGrave: true,
      path: "people/{person}/renewal",
      summary: "A link by which somebody who forgot the password sets a new one.",
      status: 201,
    },
    async ({ info, path, who, asker, headers }) => {
      const whose = await personOfId(idSchema.parse(path["person"]));
      if (!whose) return fail("person-unknown", "There is no such person.");
      const secret = await renewalLink(makerOf(who, asker), whose.id);
      await noteAccess({
        who,
        what: `new password link for ${called(whose.name, whose.email)}`,
        workspace: info.slug,
        from: fromOf(headers),
      });
      return ok({ link: `/welcome/${secret}` });
    },
  ),
  inWorkspace(
    { method: "DELETE", role: "owner", path: "invitations/{id}", summary: "Withdraw an invitation." },
    async ({ info, path }) => {
      await withdrawInvitation(info.slug, idSchema.parse(path["id"]));
      return ok({});
    },
  ),
  inWorkspace(
    { method: "GET", role: "owner", path: "tokens", summary: "Keys of scripts, without their secrets." },
    async ({ info }) => ok(await listTokens(info.slug)),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "owner",
      isGrave: true,
      path: "tokens",
      summary: "Make a key for a script. It is answered once and never again.",
      body: z.object({
        name: nameSchema,
        role: roleSchema.exclude(["owner"]),
        days: z.int().min(1).max(366).default(90),
      }),
      status: 201,
    },
    async ({ info, body, who, asker, headers }) => {
      const made = await makeToken(makerOf(who, asker), info.slug, body);
      await noteAccess({
        who,
        what: `made the token ${body.name} (${body.role})`,
        workspace: info.slug,
        from: fromOf(headers),
      });
      return ok(made);
    },
  ),
  inWorkspace(
    { method: "DELETE", role: "owner", path: "tokens/{id}", summary: "Revoke a key." },
    async ({ info, path, who, headers }) => {
      await revokeToken(info.slug, idSchema.parse(path["id"]));
      await noteAccess({ who, what: `revoked the token ${path["id"]}`, workspace: info.slug, from: fromOf(headers) });
      return ok({});
    },
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "change-log",
      summary: "Who changed what, when and why, newest first; searched by words.",
      query: logQuery,
    },
    async ({ db, query }) => ok(await changeLines(db, query)),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "owner",
      path: "access-log",
      summary:
        "Sign-ins, refusals, and changes of who may do what, newest first; searched by words. Kept for 400 days.",
      query: logQuery,
    },
    async ({ info, asker, query }) => ok(await accessLines(info.slug, asker?.isFounder ?? false, query)),
  ),
];

export const signInEndpoints: BoundEndpoint[] = [...sessionEndpoints, ...ownEndpoints, ...peopleEndpoints];
