import { beforeAll, describe, expect, it } from "vitest";
import { TOTP, Secret } from "otpauth";
import { ENDPOINTS } from "../api/endpoints";
import { testWorkspace } from "../testing";
import { accounts } from "../installation";
import { ROLES, type Role } from "./roles";
import { findSession } from "./sessions";
import {
  caller,
  comeIn as invited,
  comeInFirst,
  doneFor,
  idOf,
  nobody,
  PASSWORD,
  signIn,
  type Caller,
} from "./testing";

let shop: string;
let other: string;
let founder: Caller;

const comeIn = (email: string, role: Role) => invited(founder, shop, email, role);

beforeAll(async () => {
  shop = (await testWorkspace()).info.slug;
  other = (await testWorkspace()).info.slug;
  founder = await comeInFirst();
});

describe("without a session", () => {
  it("nothing of a workspace is answered, not even whether it is there", async () => {
    for (const path of [`${shop}/items`, "no-such/items", "workspaces", `${shop}/basket`]) {
      expect([path, (await nobody("GET", path)).status]).toEqual([path, 401]);
    }
    expect((await nobody("GET", "session")).body).toMatchObject({ isOn: true, isFirst: false, who: null, role: null });
    expect((await nobody("GET", "health")).status).toBe(200);
  });
});

describe("signing in", () => {
  it("takes the right password only, says nothing of who is known, and its cookie is for this host alone", async () => {
    const unknown = await signIn("nobody@shop.example", PASSWORD);
    const wrong = await signIn("ada@shop.example", "not the right words");
    expect([unknown.status, unknown.body]).toEqual([wrong.status, wrong.body]);
    expect(wrong.status).toBe(401);
    const right = await signIn("ADA@shop.example", PASSWORD);
    expect([right.status, right.cookie]).toEqual([200, expect.stringMatching(/^__Host-hot-shelf=[\w-]{43}$/)]);
    // Only its hash is kept.
    const { rows } = await (await accounts()).$client.execute("SELECT * FROM sessions");
    expect(JSON.stringify(rows)).not.toContain(right.cookie!.split("=")[1]);
    const other = await signIn("ada@shop.example", PASSWORD);
    expect(other.cookie).not.toBe(right.cookie);
  });

  it("wants work after five failures from one place, also for the right password, and from no other place", async () => {
    await comeIn("slow@shop.example", "viewer");
    for (let i = 0; i < 5; i++)
      expect((await signIn("slow@shop.example", `wrong ${i}`, {}, "10.9.9.9")).status).toBe(401);
    const asked = await signIn("slow@shop.example", PASSWORD, {}, "10.9.9.9");
    expect([asked.status, asked.body.error!.code]).toEqual([429, "sign-in-throttled"]);
    expect((await signIn("slow@shop.example", PASSWORD, {}, "10.9.9.8")).status).toBe(200);
    const work = doneFor(asked.body.error!.work!);
    const wrong = { challenge: work.challenge, answer: work.answer + 1 };
    expect((await signIn("slow@shop.example", PASSWORD, { work: wrong }, "10.9.9.9")).status).toBe(429);
    // It is for one account, and good once.
    expect((await signIn("ada@shop.example", PASSWORD, { work }, "10.9.9.9")).status).toBe(200);
    expect((await signIn("slow@shop.example", "wrong again", { work }, "10.9.9.9")).status).toBe(401);
    expect((await signIn("slow@shop.example", PASSWORD, { work }, "10.9.9.9")).status).toBe(429);
  });

  it("is never closed by strangers: not for a known browser, not for an open session, and elsewhere for some work", async () => {
    await comeIn("dan@shop.example", "viewer");
    const first = await signIn("dan@shop.example", PASSWORD, {}, "10.1.0.1");
    for (let i = 0; i < 60; i++) await signIn("dan@shop.example", "wrong words", {}, `10.8.${i % 12}.1`);
    // A browser from which somebody signed in before is counted by itself, even where strangers come from the same address.
    const known = caller({ cookie: first.known, from: "10.8.0.1" });
    expect((await known("POST", "session", { email: "dan@shop.example", password: PASSWORD })).status).toBe(200);
    const open = caller({ cookie: first.cookie, from: "10.8.0.1" });
    expect((await open("POST", "session/proof", { password: PASSWORD })).status).toBe(200);
    const asked = await signIn("dan@shop.example", PASSWORD, {}, "10.7.7.7");
    expect(asked.status).toBe(429);
    const work = doneFor(asked.body.error!.work!);
    expect((await signIn("dan@shop.example", PASSWORD, { work }, "10.7.7.7")).status).toBe(200);
    // What is known of one account counts for no other.
    const other = await known("POST", "session", { email: "ada@shop.example", password: "wrong words" });
    expect(other.status).toBe(401);
    // It survives a restart, since it stands in the database.
    const { rows } = await (await accounts()).$client.execute("SELECT count(*) FROM tries WHERE key LIKE 'account %'");
    expect(Number(rows[0]![0])).toBeGreaterThan(0);
  });

  it("asks for a code where the person uses them, and takes each once", async () => {
    const ben = await comeIn("ben@shop.example", "viewer");
    const { secret } = (await ben("POST", "me/codes")).body as { secret: string };
    const code = (seconds = 0) =>
      new TOTP({ secret: Secret.fromBase32(secret) }).generate({ timestamp: Date.now() + seconds * 1000 });
    expect((await ben("PUT", "me/codes", { secret, code: "000000" })).body.error!.code).toBe("code-wrong");
    expect((await ben("PUT", "me/codes", { secret, code: code() })).status).toBe(200);
    expect((await signIn("ben@shop.example", PASSWORD)).body.error!.message).toMatch(/code/);
    // The code that switched codes on is used up by that.
    expect((await signIn("ben@shop.example", PASSWORD, { code: code() })).status).toBe(401);
    const next = code(30);
    expect((await signIn("ben@shop.example", PASSWORD, { code: next })).status).toBe(200);
    expect((await signIn("ben@shop.example", PASSWORD, { code: next })).status).toBe(401);
    const { rows } = await (
      await accounts()
    ).$client.execute("SELECT code_secret FROM people WHERE code_secret NOTNULL");
    expect(JSON.stringify(rows)).not.toContain(secret);
  });

  it("refuses short passwords and those of one letter", async () => {
    const { body } = await founder("POST", `${shop}/people`, { email: "short@shop.example", role: "viewer" });
    const secret = (body["link"] as string).replace("/welcome/", "");
    for (const password of ["elevenchars", "aaaaaaaaaaaaaaaaaaa"]) {
      expect((await nobody("POST", `invitations/${secret}`, { name: "S", password })).status).toBe(400);
    }
    expect((await nobody("GET", `invitations/${secret}`)).body).toMatchObject({
      email: "short@shop.example",
      role: "viewer",
    });
  });
});

describe("sessions", () => {
  it("end after twelve idle hours, after thirty days, and by signing out; a role holds from the next request on", async () => {
    const secretOf = (cookie: string | null) => cookie!.split("=")[1]!;
    const hour = 3_600_000;
    const idle = secretOf((await signIn("ada@shop.example", PASSWORD)).cookie);
    expect(await findSession(idle, Date.now() + 11 * hour)).not.toBeNull();
    // Just used, so it lives twelve hours more, and so on, for thirty days at most.
    let now = Date.now();
    for (; now < Date.now() + 29 * 24 * hour; now += 11 * hour) expect(await findSession(idle, now)).not.toBeNull();
    expect(await findSession(idle, now + 24 * hour)).toBeNull();
    const quiet = secretOf((await signIn("ada@shop.example", PASSWORD)).cookie);
    expect(await findSession(quiet, Date.now() + 12.1 * hour)).toBeNull();

    const out = caller({ cookie: (await signIn("ada@shop.example", PASSWORD)).cookie });
    expect((await out("DELETE", "session")).cookie).toBe("__Host-hot-shelf=");
    expect((await out("GET", "me/sessions")).status).toBe(401);

    const cleo = await comeIn("cleo@shop.example", "viewer");
    expect((await cleo("GET", `${shop}/items?limit=1`)).status).toBe(200);
    const id = await idOf(founder, shop, "cleo@shop.example");
    expect((await cleo("POST", `${shop}/dispatches`, {})).status).toBe(403);
    await founder("PUT", `${shop}/people/${id}`, { role: "sender" });
    expect((await cleo("POST", `${shop}/dispatches`, {})).body.error!.code).not.toMatch(/^forbidden/);
    await founder("PUT", `${shop}/people/${id}`, { role: null });
    expect((await cleo("GET", `${shop}/items?limit=1`)).status).toBe(404);
    expect(
      (
        await founder("PUT", `${shop}/people/${await idOf(founder, shop, "ada@shop.example")}`, {
          role: null,
        })
      ).status,
    ).toBe(422);
  });

  it("are asked for the password again for what is grave, an hour after it was given", async () => {
    const { cookie } = await signIn("ada@shop.example", PASSWORD);
    const ada = caller({ cookie });
    await (await accounts()).$client.execute("UPDATE sessions SET proved_at = proved_at - 3700000");
    const grave = await ada("POST", `${shop}/dispatches`, {});
    expect([grave.status, grave.body.error!.code]).toEqual([403, "forbidden-unproved"]);
    expect((await ada("GET", `${shop}/basket`)).status).toBe(200);
    expect((await ada("POST", "session/proof", { password: "wrong words here" })).status).toBe(401);
    expect((await ada("POST", "session/proof", { password: PASSWORD })).status).toBe(200);
    expect((await ada("POST", `${shop}/dispatches`, {})).body.error!.code).not.toBe("forbidden-unproved");
    founder = ada;
  });
});

describe("roles", () => {
  it("are named by every operation, and each lets through what it names and nothing beyond it", async () => {
    expect(ENDPOINTS.filter(({ role }) => role === undefined)).toEqual([]);
    const callers = new Map<Role, Caller>();
    for (const role of ROLES) callers.set(role, await comeIn(`${role}@shop.example`, role));
    const seen = { let: 0, refused: 0 };
    for (const { method, path, role, workspace } of ENDPOINTS) {
      if (!workspace || role === "anyone" || role === "member" || role === "founder") continue;
      // Its own parameters stand for nothing; whether it is let through is decided before.
      const where = `${shop}/${path.replace(/\{\w+\}/g, "x")}`;
      for (const held of ROLES) {
        if (ROLES.indexOf(held) >= ROLES.indexOf(role)) continue;
        const { status, body } = await callers.get(held)!(method, where, method === "GET" ? undefined : {});
        expect([held, method, path, status, body.error!.code]).toEqual([held, method, path, 403, "forbidden-role"]);
        seen.refused++;
      }
      if (method !== "GET" || /csv|xlsx|file/.test(path)) continue;
      const { body } = await callers.get(role)!(method, where);
      expect([path, body?.error?.code ?? "let"]).toEqual([
        path,
        expect.not.stringMatching(/^forbidden|^workspace-unknown|^sign-in/),
      ]);
      seen.let++;
    }
    expect(seen.let).toBeGreaterThan(25);
    expect(seen.refused).toBeGreaterThan(60);
  });

  it("hold in one workspace: any other is one that is not there, for people and for scripts", async () => {
    const dora = await comeIn("dora@shop.example", "owner");
    const elsewhere = await dora("GET", `${other}/items`);
    expect([elsewhere.status, elsewhere.body]).toEqual([404, (await dora("GET", `${other}/basket`)).body]);
    expect(elsewhere.body.error!.message.replace(other, "x")).toBe(
      (await dora("GET", "no-such/items")).body.error!.message.replace("no-such", "x"),
    );
    expect((await dora("GET", "workspaces")).body).toMatchObject([{ slug: shop }]);
    expect((await dora("POST", "workspaces", { slug: "mine" })).body.error!.code).toBe("forbidden-founder");
    const { token, id } = (await dora("POST", `${shop}/tokens`, { name: "nightly", role: "editor" })).body as {
      token: string;
      id: string;
    };
    const script = caller({ token });
    expect((await script("GET", `${shop}/items?limit=1`)).status).toBe(200);
    expect((await script("GET", `${other}/items?limit=1`)).status).toBe(404);
    expect((await script("POST", `${shop}/dispatches`, {})).status).toBe(403);
    expect((await script("PUT", `${shop}/feeds/main/source`, { source: null, schedule: null })).status).toBe(403);
    const sneaky = { source: { kind: "url", url: "https://evil.example/x" }, into: "upload" };
    expect((await script("POST", `${shop}/feeds/main/fetch`, sneaky)).status).toBe(403);
    expect(JSON.stringify((await dora("GET", `${shop}/tokens`)).body)).not.toContain(token.slice(9));
    await (await accounts()).$client.execute("UPDATE tokens SET expires_at = 1");
    expect((await script("GET", `${shop}/items`)).status).toBe(401);
    await dora("DELETE", `${shop}/tokens/${id}`);
    expect((await dora("GET", `${shop}/tokens`)).body).toEqual([]);
  });

  it("stand in the logs: who changed what, and who was refused", async () => {
    const eve = await comeIn("eve@shop.example", "editor");
    const note = await eve("POST", `${shop}/notes`, { kind: "item", key: "A", text: "Ask Eve." });
    expect([note.status, note.body["who"]]).toEqual([201, "eve <eve@shop.example>"]);
    await eve("PUT", `${shop}/settings`, { goal: 4 });
    const { lines: refusals } = (await founder("GET", `${shop}/access-log?q=eve%20refused`)).body as unknown as {
      lines: { who: string; what: string }[];
    };
    expect(refusals).toEqual([
      expect.objectContaining({ who: "eve <eve@shop.example>", what: "refused: PUT settings" }),
    ]);
    await founder("PUT", `${shop}/settings`, { goal: 5 });
    const found = (await eve("GET", `${shop}/change-log?q=settings%20Ada`)).body as {
      total: number;
      lines: { who: string }[];
    };
    expect([found.total, found.lines[0]!.who]).toEqual([1, "Ada <ada@shop.example>"]);
  });
});

describe("a link for a new password", () => {
  it("is a founder's to give, and ends what was open", async () => {
    const finn = await comeIn("finn@shop.example", "owner");
    const id = await idOf(founder, shop, "finn@shop.example");
    expect((await finn("POST", `${shop}/people/${id}/renewal`)).status).toBe(403);
    const { body } = await founder("POST", `${shop}/people/${id}/renewal`);
    const secret = (body["link"] as string).replace("/welcome/", "");
    const renewed = await nobody("POST", `invitations/${secret}`, { password: "other words are easy too" });
    expect(renewed.status).toBe(200);
    expect((await signIn("finn@shop.example", PASSWORD)).status).toBe(401);
    expect((await signIn("finn@shop.example", "other words are easy too")).status).toBe(200);
    expect((await finn("GET", `${shop}/items?limit=1`)).status).toBe(401);
  });

  it("is no way past one-time codes", async () => {
    const gus = await comeIn("gus@shop.example", "viewer");
    const { secret } = (await gus("POST", "me/codes")).body as { secret: string };
    const code = (seconds = 0) =>
      new TOTP({ secret: Secret.fromBase32(secret) }).generate({ timestamp: Date.now() + seconds * 1000 });
    expect((await gus("PUT", "me/codes", { secret, code: code() })).status).toBe(200);
    const id = await idOf(founder, shop, "gus@shop.example");
    const link = (await founder("POST", `${shop}/people/${id}/renewal`)).body["link"] as string;
    const renewed = await nobody("POST", link.replace("/welcome/", "invitations/"), {
      password: "words that are new now",
    });
    expect([renewed.status, renewed.cookie, renewed.body["isIn"]]).toEqual([200, null, false]);
    expect((await signIn("gus@shop.example", "words that are new now")).status).toBe(401);
    expect((await signIn("gus@shop.example", "words that are new now", { code: code(30) })).status).toBe(200);
  });
});
