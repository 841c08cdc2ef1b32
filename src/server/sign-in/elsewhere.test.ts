import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { exportJWK, generateKeyPair, SignJWT } from "jose";
import { afterAll, beforeAll, beforeEach, describe, expect, it } from "vitest";
import { handleApi } from "../api/handle";
import { forgetSettings } from "../settings";
import { testWorkspace } from "../testing";
import { invite } from "./people";

/** A stand-in identity provider: what it vouches for, and the nonce and challenge that it was sent. */
let claims: Record<string, unknown> = {};
let asked: URLSearchParams;
let server: Server;
let issuer: string;
let shop: string;

beforeAll(async () => {
  const { publicKey, privateKey } = await generateKeyPair("RS256");
  const keys = { keys: [{ ...(await exportJWK(publicKey)), kid: "one", alg: "RS256", use: "sig" }] };
  server = createServer((request, response) => {
    const json = (value: unknown) => {
      response.writeHead(200, { "content-type": "application/json" });
      response.end(JSON.stringify(value));
    };
    if (request.url === "/.well-known/openid-configuration") {
      json({
        ...{
          issuer,
          authorization_endpoint: `${issuer}/ask`,
          token_endpoint: `${issuer}/token`,
          jwks_uri: `${issuer}/keys`,
        },
        response_types_supported: ["code"],
        subject_types_supported: ["public"],
        id_token_signing_alg_values_supported: ["RS256"],
      });
    } else if (request.url === "/keys") json(keys);
    else {
      const told = { nonce: asked.get("nonce"), ...claims };
      void new SignJWT(told)
        .setProtectedHeader({ alg: "RS256", kid: "one" })
        .setIssuer(issuer)
        .setAudience("hot-shelf")
        .setSubject("u1")
        .setIssuedAt()
        .setExpirationTime("5m")
        .sign(privateKey)
        .then((idToken) => json({ access_token: "a", token_type: "Bearer", id_token: idToken }));
    }
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  issuer = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const set = { SIGN_IN: "true", SSO_ISSUER: issuer, SSO_CLIENT: "hot-shelf", SSO_SECRET: "between us" };
  for (const [name, value] of Object.entries(set)) process.env[`HOTSHELF_${name}`] = value;
  forgetSettings();
  shop = (await testWorkspace()).info.slug;
  await invite({ who: "Ada", person: null }, shop, { email: "gwen@shop.example", role: "editor" });
});
afterAll(() => new Promise((resolve) => server.close(resolve)));
beforeEach(() => {
  claims = { email: "gwen@shop.example", email_verified: true, name: "Gwen" };
});

async function get(path: string, cookie = "", site = "cross-site") {
  const headers = { host: "localhost", cookie, "sec-fetch-site": site };
  const response = await handleApi(new Request(`http://localhost/api/v1/${path}`, { headers }), path.split("?")[0]!);
  const cookies = response.headers.getSetCookie().map((one) => one.split(";")[0]!);
  return { status: response.status, location: response.headers.get("location") ?? "", cookies };
}

/** Goes to the provider and comes back. @param state what it brings back in place of what it was given */
async function trip(to: string, state?: string) {
  const left = await get(`session/elsewhere?to=${encodeURIComponent(to)}`, "", "same-origin");
  asked = new URL(left.location).searchParams;
  return get(`session/elsewhere/back?code=c&state=${state ?? asked.get("state")}`, left.cookies[0]);
}

describe("signing in at an identity provider", () => {
  it("lets in who was invited and is vouched for, with their role, and as often as they like", async () => {
    const back = await trip("/w/x/results?days=7");
    expect(back).toMatchObject({ status: 302, location: "/w/x/results?days=7" });
    expect([asked.get("code_challenge_method"), asked.get("redirect_uri")]).toEqual([
      "S256",
      "http://localhost/api/v1/session/elsewhere/back",
    ]);
    const session = back.cookies.find((one) => one.startsWith("__Host-hot-shelf="))!;
    expect((await get(`${shop}/items?limit=1`, session, "same-origin")).status).toBe(200);
    expect((await trip("/")).cookies).toHaveLength(3);
  });

  it("has no password here that would fit", async () => {
    const body = JSON.stringify({ email: "gwen@shop.example", password: "none" });
    const init = { method: "POST", headers: { "content-type": "application/json" }, body };
    expect((await handleApi(new Request("http://localhost/api/v1/session", init), "session")).status).toBe(401);
  });

  it.each([
    ["was not invited", () => (claims["email"] = "eve@shop.example"), "elsewhere-unknown"],
    ["has an address that nobody checked", () => (claims["email_verified"] = false), "elsewhere-unverified"],
    ["brings an answer to another question", () => (claims["nonce"] = "another"), "elsewhere-failed"],
  ])("keeps out who %s", async (_, change, code) => {
    change();
    const back = await trip("/");
    expect([back.location, back.cookies]).toEqual([`/sign-in?trouble=${code}`, ["__Host-hot-shelf-trip="]]);
  });

  it("takes nobody back who did not leave from here, and leads to no other site", async () => {
    expect((await trip("/", "another")).location).toBe("/sign-in?trouble=elsewhere-failed");
    expect((await get("session/elsewhere/back?code=c&state=s")).location).toBe("/sign-in?trouble=elsewhere-lost");
    for (const to of ["https://evil.example/", "//evil.example", "/\\evil.example"])
      expect((await trip(to)).location).toBe("/");
    // Everything else is still kept from pages of other sites.
    expect((await get(`${shop}/items`)).status).toBe(403);
  });
});
