import * as oidc from "openid-client";
import { z } from "zod";
import { ownPath } from "@/core/kit/own-path";
import { FailureError, giveUp, type Failure } from "@/core/kit/outcome";
import { isSecure } from "../exposure";
import { log } from "../log";
import { seal, unseal } from "../secrets";
import { settings } from "../settings";
import { noteAccess } from "./accounts";
import { personByInvitation } from "./accept";
import { fromOf } from "./asker";
import { begin } from "./sign-in";

/** Where the identity provider sends people back to, below the API. */
export const BACK_PATH = "session/elsewhere/back";
const TRIP_COOKIE = "__Host-hot-shelf-trip";
const TRIP_SECONDS = 600;

/** What is kept of somebody while they sign in elsewhere: sealed, in a cookie of theirs. */
const tripSchema = z.object({
  state: z.string(),
  nonce: z.string(),
  verifier: z.string(),
  to: z.string(),
  until: z.number(),
});

/** Whether people can sign in at an identity provider (OpenID Connect). */
export function isElsewhereOn(): boolean {
  const { HOTSHELF_SSO_ISSUER, HOTSHELF_SSO_CLIENT, HOTSHELF_SSO_SECRET } = settings();
  return Boolean(HOTSHELF_SSO_ISSUER && HOTSHELF_SSO_CLIENT && HOTSHELF_SSO_SECRET);
}

let found: Promise<oidc.Configuration> | null = null;

/** What the provider says of itself, asked for once. */
function provider(): Promise<oidc.Configuration> {
  const { HOTSHELF_SSO_ISSUER, HOTSHELF_SSO_CLIENT, HOTSHELF_SSO_SECRET } = settings();
  if (!isElsewhereOn()) {
    giveUp("elsewhere-off", "Nobody signs in elsewhere here.", "Sign in with address and password.");
  }
  const issuer = new URL(HOTSHELF_SSO_ISSUER!);
  // Plain text is for a provider on this very machine only.
  const isLocal = issuer.protocol === "http:" && issuer.hostname === "127.0.0.1";
  const options = isLocal ? { execute: [oidc.allowInsecureRequests] } : {};
  found ??= oidc.discovery(issuer, HOTSHELF_SSO_CLIENT!, HOTSHELF_SSO_SECRET, undefined, options);
  found.catch(() => (found = null));
  return found;
}

/** This server's own address, as the browser knows it. */
const originOf = (headers: Headers) => `${isSecure() ? "https" : "http"}://${headers.get("host")}`;

const tripCookie = (value: string, seconds: number) =>
  `${TRIP_COOKIE}=${value}; Path=/; HttpOnly; Secure; SameSite=Lax; Max-Age=${seconds}`;

export interface Redirect {
  location: string;
  cookies: string[];
}

/** Sends somebody to the provider. @param to the page they come back to */
export async function leave(headers: Headers, to: string): Promise<Redirect> {
  const config = await provider();
  const trip = { state: oidc.randomState(), nonce: oidc.randomNonce(), verifier: oidc.randomPKCECodeVerifier() };
  const location = oidc.buildAuthorizationUrl(config, {
    redirect_uri: `${originOf(headers)}/api/v1/${BACK_PATH}`,
    scope: "openid email profile",
    state: trip.state,
    nonce: trip.nonce,
    code_challenge: await oidc.calculatePKCECodeChallenge(trip.verifier),
    code_challenge_method: "S256",
  });
  const kept = seal(JSON.stringify({ ...trip, to: ownPath(to), until: Date.now() + TRIP_SECONDS * 1000 }));
  return { location: location.href, cookies: [tripCookie(kept, TRIP_SECONDS)] };
}

/** Takes somebody back who comes from the provider: signs them in, or says on the sign-in page why not. */
export async function comeBack(headers: Headers, url: string): Promise<Redirect> {
  const cleared = tripCookie("", 0);
  try {
    const { cookies, to } = await arrive(headers, url);
    return { location: to, cookies: [cleared, ...cookies] };
  } catch (error) {
    const failure: Failure | null = error instanceof FailureError ? error.failure : null;
    // What the provider said is for whoever runs the server; a browser is told no more than that it did not work.
    if (!failure) log.warn({ err: error }, "signing in elsewhere failed");
    return { location: `/sign-in?trouble=${failure?.code ?? "elsewhere-failed"}`, cookies: [cleared] };
  }
}

async function arrive(headers: Headers, url: string): Promise<{ cookies: string[]; to: string }> {
  const config = await provider();
  const kept = new RegExp(`${TRIP_COOKIE}=([^;]+)`).exec(headers.get("cookie") ?? "")?.[1];
  if (!kept) giveUp("elsewhere-lost", "It is not known where this began.", "Begin again here.");
  const trip = tripSchema.parse(JSON.parse(unseal(kept)));
  if (Date.now() > trip.until) giveUp("elsewhere-lost", "This took too long.", "Begin again here.");
  const current = new URL(`${originOf(headers)}/api/v1/${BACK_PATH}${new URL(url).search}`);
  const answer = await oidc.authorizationCodeGrant(config, current, {
    ...{ pkceCodeVerifier: trip.verifier, expectedState: trip.state, expectedNonce: trip.nonce },
    idTokenExpected: true,
  });
  const claims = answer.claims();
  const [email, isVerified, name] = [claims?.["email"], claims?.["email_verified"], claims?.["name"]];
  // An address that the provider has not checked could be anybody's.
  if (typeof email !== "string" || isVerified !== true) {
    giveUp("elsewhere-unverified", "The provider vouches for no e-mail address.", "Ask whoever runs it.");
  }
  const person = await personByInvitation(email, typeof name === "string" ? name : email);
  if (!person) {
    await noteAccess({ who: email, what: "sign-in refused: not invited", from: fromOf(headers) });
    giveUp("elsewhere-unknown", "Nobody with this address was invited here.", "Ask an owner of a workspace.");
  }
  return { cookies: await begin(person, headers), to: ownPath(trip.to) };
}
