import { beforeAll, describe, expect, it } from "vitest";
import { called } from "@/core/kit/who";
import { actAs } from "../person";
import { enqueueJob } from "../jobs/jobs";
import { claimJob, runJob, type JobHandlers } from "../jobs/work";
import { importFeed, testWorkspace } from "../testing";
import { findPerson } from "./people";
import { caller, comeIn, comeInFirst, idOf, linkFrom, nobody, PASSWORD, signIn, type Caller } from "./testing";

type Workspace = Awaited<ReturnType<typeof testWorkspace>>;
let shop: Workspace;
let other: Workspace;
let founder: Caller;

beforeAll(async () => {
  shop = await testWorkspace();
  other = await testWorkspace();
  founder = await comeInFirst();
});

const slug = () => shop.info.slug;
const come = (email: string, role: "viewer" | "editor" | "sender" | "owner") => comeIn(founder, slug(), email, role);
const setRole = async (email: string, role: string | null) =>
  founder("PUT", `${slug()}/people/${await idOf(founder, slug(), email)}`, { role });

describe("what somebody made is worth what they may do when it is used", () => {
  it("an invitation of an owner who is none any more is gone, also once they are one again", async () => {
    const olga = await come("olga@shop.example", "owner");
    const own = await linkFrom(olga, slug(), "olga2@shop.example", "owner");
    expect((await nobody("GET", `invitations/${own}`)).status).toBe(200);
    await setRole("olga@shop.example", "viewer");
    expect((await nobody("GET", `invitations/${own}`)).status).toBe(404);
    const tried = await nobody("POST", `invitations/${own}`, { name: "Olga again", password: PASSWORD });
    expect(tried.body.error!.code).toBe("invitation-gone");
    await setRole("olga@shop.example", "owner");
    expect((await nobody("GET", `invitations/${own}`)).status).toBe(404);
  });

  it("a token opens no more than its maker may, and nothing once its maker is out", async () => {
    const omar = await come("omar@shop.example", "owner");
    const made = { name: "nightly numbers", role: "sender", days: 366 };
    const { token } = (await omar("POST", `${slug()}/tokens`, made)).body as { token: string };
    const script = caller({ token });
    const write = () => script("POST", `${slug()}/notes`, { kind: "item", key: "A", text: "by a script" });
    expect((await write()).body["who"]).toBe("nightly numbers (script) <omar@shop.example>");
    await setRole("omar@shop.example", "viewer");
    expect((await write()).body.error!.code).toBe("forbidden-role");
    expect((await script("GET", `${slug()}/basket`)).status).toBe(200);
    await setRole("omar@shop.example", null);
    expect((await script("GET", `${slug()}/basket`)).status).toBe(401);
  });

  it("what was asked for later is not done for somebody who may not any more", async () => {
    await come("sam@shop.example", "sender");
    const sam = (await findPerson("sam@shop.example"))!;
    const ran: string[] = [];
    const handlers = {
      dispatch: { run: async () => void ran.push("sent"), rollBack: async () => {} },
    } as unknown as JobHandlers;
    const asked = () => actAs(called(sam.name, sam.email), () => enqueueJob(shop.db, "dispatch", {}));
    const run = async (id: string) => {
      await runJob(shop.db, shop.info, handlers, (await claimJob(shop.db, "test", { id }))!);
      const { rows } = await shop.db.$client.execute({ sql: "SELECT state, error FROM jobs WHERE id = ?", args: [id] });
      return [rows[0]!["state"], String(rows[0]!["error"])];
    };
    expect((await run((await asked()).id))[0]).toBe("done");
    const waiting = await asked();
    await setRole("sam@shop.example", "editor");
    expect(await run(waiting.id)).toEqual(["failed", expect.stringContaining("may not do it any more")]);
    expect(ran).toEqual(["sent"]);
  });

  it("a link for a new password ends with a new password", async () => {
    const rosa = await come("rosa@shop.example", "viewer");
    const id = await idOf(founder, slug(), "rosa@shop.example");
    const link = (await founder("POST", `${slug()}/people/${id}/renewal`)).body["link"] as string;
    expect((await rosa("PUT", "me/password", { password: "a wholly new one here" })).status).toBe(200);
    expect((await nobody("GET", link.replace("/welcome/", "invitations/"))).status).toBe(404);
  });
});

describe("somebody who is here already", () => {
  it("has the role of a second workspace once they take its link up, with their own password or where they signed in", async () => {
    const links = [];
    for (const { info } of [shop, other]) links.push(await linkFrom(founder, info.slug, "tess@shop.example", "editor"));
    const came = await nobody("POST", `invitations/${links[0]}`, { name: "Tess", password: PASSWORD });
    const tess = caller({ cookie: came.cookie });
    expect((await tess("GET", `${other.info.slug}/items`)).status).toBe(404);
    // Whoever holds the link alone is not her, and takes nothing over.
    const wrong = await nobody("POST", `invitations/${links[1]}`, {
      name: "Not Tess",
      password: "some other long words",
    });
    expect([wrong.status, wrong.body.error!.code]).toEqual([401, "sign-in-wrong"]);
    expect((await signIn("tess@shop.example", PASSWORD)).status).toBe(200);
    expect((await tess("POST", `invitations/${links[1]}`, { password: "" })).status).toBe(200);
    expect((await tess("GET", `${other.info.slug}/basket`)).status).toBe(200);
    expect((await tess("GET", `${slug()}/basket`)).status).toBe(200);
  });

  it("is not told of by inviting: same answer, no session ended, nothing changed", async () => {
    const uma = await comeIn(founder, other.info.slug, "uma@shop.example", "editor");
    const owner = await come("owner2@shop.example", "owner");
    const known = await owner("POST", `${slug()}/people`, { email: "uma@shop.example", role: "viewer" });
    const unknown = await owner("POST", `${slug()}/people`, { email: "never-here@shop.example", role: "viewer" });
    expect([known.status, Object.keys(known.body)]).toEqual([unknown.status, Object.keys(unknown.body)]);
    expect((await uma("GET", `${other.info.slug}/basket`)).status).toBe(200);
    // Somebody of another workspace is nobody here.
    const id = await idOf(founder, other.info.slug, "uma@shop.example");
    expect((await owner("PUT", `${slug()}/people/${id}`, { role: null })).body.error!.code).toBe("person-unknown");
    expect((await uma("GET", `${other.info.slug}/basket`)).status).toBe(200);
  });
});

describe("a key in a feed's address", () => {
  it("is seen by those only who may change the address, also in the log", async () => {
    await importFeed(shop, "id,title,price\n1,Rake,5\n");
    const source = { kind: "url", url: "https://feeds.example/dl/s3cret/items.csv?key=s3cret&x=1" };
    expect((await founder("PUT", `${slug()}/feeds/main/source`, { source, schedule: null })).status).toBe(200);
    const sender = await come("sender2@shop.example", "sender");
    const seen = JSON.stringify([
      (await sender("GET", `${slug()}/feeds`)).body,
      (await sender("GET", `${slug()}/change-log`)).body,
    ]);
    expect(seen).not.toContain("s3cret");
    expect(seen).toContain("https://feeds.example/…");
    expect(JSON.stringify((await founder("GET", `${slug()}/feeds`)).body)).toContain("key=s3cret");
  });
});

describe("names", () => {
  it.each([
    ["Ada", "name-taken"],
    [" aDa ", "name-taken"],
    ["Ada\u200b", "name-taken"],
    ["Ａｄａ", "name-taken"],
    ["Hot Shelf", "name-taken"],
    ["nightly numbers two", "name-taken"],
    ["nightly (script)", "input-name"],
    ["Eve <ada@shop.example>", "input-name"],
    ["\u200b\u200d", "input-name"],
  ])("%j is not for somebody new", async (name, code) => {
    if (name.startsWith("nightly numbers")) {
      await founder("POST", `${slug()}/tokens`, { name, role: "viewer" });
    }
    const secret = await linkFrom(founder, slug(), `n${Math.random()}@shop.example`, "viewer");
    expect((await nobody("POST", `invitations/${secret}`, { name, password: PASSWORD })).body.error!.code).toBe(code);
  });

  it("a token takes no person's name, and a password is not one's own name or address", async () => {
    expect((await founder("POST", `${slug()}/tokens`, { name: "ADA", role: "viewer" })).body.error!.code).toBe(
      "name-taken",
    );
    const secret = await linkFrom(founder, slug(), "victoria.long@shop.example", "viewer");
    for (const password of ["victoria.long@shop.example", "Victoria.Long1", "Victoria Quillmoor!"]) {
      const tried = await nobody("POST", `invitations/${secret}`, { name: "Victoria Quillmoor", password });
      expect([password, tried.body.error?.code]).toEqual([password, "input-password"]);
    }
    expect((await nobody("POST", `invitations/${secret}`, { name: "Victoria Q", password: PASSWORD })).status).toBe(
      200,
    );
  });

  it("are cut before they are logged, and refusals push nothing out", async () => {
    await signIn(`${"x".repeat(180)}@shop.example`, PASSWORD);
    const eddy = await come("eddy@shop.example", "viewer");
    for (let i = 0; i < 550; i++) await eddy("PUT", `${slug()}/settings`, { goal: 4 });
    const { lines, total } = (await founder("GET", `${slug()}/access-log?q=accepted&limit=1000`)).body as {
      lines: { what: string; who: string }[];
      total: number;
    };
    expect(total).toBe(lines.length);
    expect(lines.some(({ who }) => who.startsWith("olga"))).toBe(true);
    const { lines: long } = (await founder("GET", `${slug()}/access-log?q=xxxx`)).body as { lines: { who: string }[] };
    expect(long[0]!.who.length).toBe(120);
    const paged = (await founder("GET", `${slug()}/access-log?offset=500&limit=10`)).body as { lines: object[] };
    expect(paged.lines.length).toBe(10);
  });
});
