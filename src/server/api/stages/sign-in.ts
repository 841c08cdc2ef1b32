import { z } from "zod";
import { fail, ok } from "@/core/kit/outcome";
import { accessLines, changeLines } from "../../sign-in/logs";
import { noteAccess } from "../../sign-in/accounts";
import { fromOf, type Asker } from "../../sign-in/asker";
import { beginCodes, endCodes, newCodeSecret } from "../../sign-in/codes";
import { BACK_PATH, comeBack, isElsewhereOn, leave } from "../../sign-in/elsewhere";
import { passwordSchema } from "../../sign-in/passwords";
import {
  acceptInvitation,
  findInvitation,
  hasPeople,
  invite,
  listInvitations,
  listPeople,
  renewalLink,
  setPassword,
  setRole,
  withdrawInvitation,
} from "../../sign-in/people";
import { ROLES } from "../../sign-in/roles";
import { endSession, listSessions, noCookie, type OpenSession } from "../../sign-in/sessions";
import { begin, prove, signIn } from "../../sign-in/sign-in";
import { listTokens, makeToken, revokeToken } from "../../sign-in/tokens";
import { isSignInOn } from "../../settings";
import { global, inWorkspace, type BoundEndpoint } from "../endpoint";

const proofSchema = z.object({ password: z.string().max(500), code: z.string().max(20).optional() });
const emailSchema = z.email("An e-mail address such as ada@shop.example.").max(200);
const nameSchema = z.string().trim().min(1, "Give a name.").max(80);
const roleSchema = z.enum(ROLES);
const idSchema = z.uuid();

/** The session of whoever asks. @throws FailureError for scripts and where nobody signs in */
function ownSession(asker: Asker | null): OpenSession | null {
  return asker?.session ?? null;
}
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
        who: asker?.who ?? null,
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
      const { person, cookie } = await signIn(body.email, body, headers);
      return { value: { who: person.name }, headers: { "set-cookie": cookie } };
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
    return { value: {}, headers: { "set-cookie": noCookie() } };
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
      summary: "Accept a link: become a person here, or set a new password. Signs in.",
      body: z.object({
        email: emailSchema.default("nobody@nowhere.example"),
        name: nameSchema.default("New"),
        password: passwordSchema,
      }),
    },
    async ({ path, body, headers }) => {
      const { person, isNew } = await acceptInvitation(path["secret"]!, body);
      await noteAccess({
        who: person.name,
        what: isNew ? "accepted an invitation" : "set a new password by link",
        from: fromOf(headers),
      });
      // A link stands for the password alone: where codes are used, they are asked for at signing in.
      if (person.codeSecret !== null) return ok({ who: person.name, isIn: false });
      return { value: { who: person.name, isIn: true }, headers: { "set-cookie": await begin(person, headers) } };
    },
  ),
];

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
    async ({ asker, body, headers }) => {
      const session = ownSession(asker);
      if (!session) return NO_SESSION;
      await setPassword(session.person.id, body.password, session.id);
      await noteAccess({ who: session.person.name, what: "set a new password", from: fromOf(headers) });
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
      summary: "Invite somebody. Who is a person here already has the role at once; for others a link is answered.",
      body: z.object({ email: emailSchema, role: roleSchema }),
      status: 201,
    },
    async ({ info, body, who, headers }) => {
      const invited = await invite(who, info.slug, body);
      if (!invited.ok) return invited;
      const what = `invited ${body.email} as ${body.role}`;
      await noteAccess({ who, what, workspace: info.slug, from: fromOf(headers) });
      const { secret } = invited.value;
      return ok({ link: secret === null ? null : `/welcome/${secret}` });
    },
  ),
  inWorkspace(
    {
      method: "PUT",
      role: "owner",
      isGrave: true,
      path: "people/{person}",
      summary: "Change what somebody may do; null takes it all. Their sessions end.",
      body: z.object({ role: roleSchema.nullable() }),
    },
    async ({ info, path, body, who, headers }) => {
      const done = await setRole(idSchema.parse(path["person"]), info.slug, body.role);
      if (done.ok) {
        const what = `role of ${path["person"]}: ${body.role ?? "none"}`;
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
    async ({ info, path, who, headers }) => {
      const secret = await renewalLink(who, idSchema.parse(path["person"]));
      await noteAccess({
        who,
        what: `new password link for ${path["person"]}`,
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
    async ({ info, body, who, headers }) => {
      const made = await makeToken(who, info.slug, body);
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
      query: z.object({
        q: z.string().max(200).default(""),
        offset: z.coerce.number().int().min(0).default(0),
        limit: z.coerce.number().int().min(1).max(1000).default(100),
      }),
    },
    async ({ db, query }) => ok(await changeLines(db, query)),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "owner",
      path: "access-log",
      summary: "Sign-ins, refusals, and changes of who may do what.",
    },
    async ({ info, asker }) => ok(await accessLines(info.slug, asker?.isFounder ?? false)),
  ),
];

export const signInEndpoints: BoundEndpoint[] = [...sessionEndpoints, ...ownEndpoints, ...peopleEndpoints];
