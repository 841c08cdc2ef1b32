import { expect, test } from "@playwright/test";
import { randomFrom, type Random } from "../src/core/kit/random";
import { METHODS, PLAIN, sendRaw, TRICKS } from "../src/server/web/fixtures/smuggling";
import { AttackedSite, Person, PORT, SEED, SITE } from "./site";

/*
 * Longer attacks on a production server at which people sign in: framing tricks with every method, random requests with
 * bodies on all of them, kills of every process. Between any two of them two people ask for what is their own.
 */

const MINUTES = Number(process.env["HOTSHELF_ATTACK_MINUTES"] ?? "2");
/** How long each of the attacks goes on, ms. */
const LASTS = MINUTES * 60_000;

let site: AttackedSite;
let ada: Person;
let ben: Person;
let token: string;
let random: Random;

const pick = <T>(all: readonly T[]): T => all[Math.floor(random() * all.length)]!;

test.describe.configure({ mode: "serial" });

test.beforeAll(async () => {
  test.setTimeout(180_000);
  console.log(`seed ${SEED}`);
  random = randomFrom(SEED);
  site = await AttackedSite.open();
  ada = await new Person("Ada Quill").comeIn(await site.firstSecret(), "ada@quillmoor.example");
  const { link } = JSON.parse(
    (await ada.api("POST", "quillmoor/people", { email: "ben@quillmoor.example", role: "editor" })).text,
  ) as { link: string };
  ben = await new Person("Ben Moor").comeIn(link.replace("/welcome/", ""));
  token = (await ada.api("POST", "quillmoor/tokens", { name: "stays", role: "viewer" })).text;
});

test.afterAll(async () => site.close());

/** Whoever asks hears of themselves and of nobody else. */
async function expectOwn(person: Person): Promise<void> {
  const { status, text } = await person.api("GET", "session?workspace=quillmoor");
  expect([status, (JSON.parse(text) as { who: string }).who]).toEqual([200, person.name]);
}

/** That nothing was done in somebody's name who did not ask for it. */
async function expectUntouched(): Promise<void> {
  const { text } = await ada.api("GET", "quillmoor/tokens");
  expect(text).toContain((JSON.parse(token) as { id: string }).id);
  const log = (await ada.api("GET", "quillmoor/access-log?limit=1000")).text;
  expect(log).not.toContain("hidden");
  const aside = (await ada.api("GET", "quillmoor/set-aside")).text;
  for (const { cookies } of [ada, ben]) expect(aside + log).not.toContain(cookies.slice(20, 60));
}

test("no framing trick reaches another person's request", async () => {
  test.setTimeout(LASTS + 120_000);
  const tricks = [...Object.values(TRICKS), ...Object.values(PLAIN)];
  let tried = 0;
  for (const until = Date.now() + LASTS; Date.now() < until; tried++) {
    const count = 1 + Math.floor(random() * 3);
    const bytes = Array.from({ length: count }, () => pick(tricks)(pick(METHODS))).join("");
    const parts = 1 + Math.floor(random() * 30);
    const attack = sendRaw(PORT, bytes, { parts, silence: 40 });
    // Beside it and after it, over connections that were there before.
    await Promise.all([expectOwn(ada), expectOwn(ben), attack]);
    await expectOwn(pick([ada, ben]));
  }
  console.log(`${tried} attacks`);
  expect(tried).toBeGreaterThan(100);
  await expectUntouched();
});

interface Description {
  paths: Record<string, Record<string, { parameters: { name: string; in: string }[] }>>;
}

const NASTY = [
  ...["", "{", "[]", "null", "{}", '"x"', "0", '{"__proto__":{"a":1}}', '{"keys":"all"}', '{"constructor":1}', "AAAAA"],
  ...["GET /api/v1/hidden HTTP/1.1\r\nHost: x\r\n\r\n", "0\r\n\r\n", "\0", "é".repeat(500), `[${"[".repeat(200)}`],
];
const WORDS = [
  "quillmoor",
  "other",
  "main",
  "__proto__",
  "constructor",
  "x",
  "1",
  "-1",
  "%00",
  "..",
  "a".repeat(300),
  "Q00010",
];

test("random requests with bodies on every method break nothing, and nobody hears another's answer", async () => {
  test.setTimeout(LASTS + 120_000);
  const described = JSON.parse((await ada.send("GET", "/api/v1/openapi.json")).text) as Description;
  const operations = Object.entries(described.paths).flatMap(([where, methods]) =>
    Object.entries(methods).map(([method, { parameters }]) => ({ where, method: method.toUpperCase(), parameters })),
  );
  // What ends people's own sessions, or makes many workspaces, would end the attack and not the server.
  const left = operations.filter(({ where }) => !/session|me\/|people|tokens|invitations|workspaces$/.test(where));
  const askers = [new Person("nobody"), ben, ada];
  let tried = 0;
  for (const until = Date.now() + LASTS; Date.now() < until; tried++) {
    const { where, method, parameters } = pick(left);
    const filled = where.replace(/\{(\w+)\}/g, (_, name) =>
      name === "workspace" && random() < 0.8 ? "quillmoor" : pick(WORDS),
    );
    const query = parameters
      .filter((one) => one.in === "query" && random() < 0.4)
      .map(({ name }) => `${name}=${pick(WORDS)}`);
    const asked = `/api/v1${filled}${query.length > 0 ? `?${query.join("&")}` : ""}`.replace(/ /g, "%20");
    const as = random() < 0.2 ? pick(METHODS) : method;
    const body = random() < 0.6 ? pick(NASTY) : undefined;
    const answer = await pick(askers)
      .send(as, asked, body)
      .catch((error: Error) => ({ status: -1, text: error.message }));
    const said = `${as} ${asked} ${body ?? ""}: ${answer.status} ${answer.text.slice(0, 200)}`;
    expect([said, answer.status === -1 ? /ECONNRESET|hang up|EPIPE/.test(answer.text) : answer.status < 500]).toEqual([
      said,
      true,
    ]);
    await expectOwn(pick([ada, ben]));
  }
  console.log(`${tried} requests`);
  expect(tried).toBeGreaterThan(200);
  await expectUntouched();
});

test("whatever is killed comes back, no note that was taken is lost, and the page goes on", async ({ browser }) => {
  test.setTimeout(LASTS + 240_000);
  const context = await browser.newContext({ baseURL: SITE });
  const page = await context.newPage();
  await page.goto("/sign-in");
  await page.getByLabel("E-mail address").fill("ada@quillmoor.example");
  await page.getByLabel("Password").fill("several words are easy");
  await page.getByRole("button", { name: "Sign in" }).click();
  await page.waitForURL((url) => !url.pathname.startsWith("/sign-in"));
  await page.goto("/w/quillmoor/catalogue");
  await expect(page.getByRole("row").nth(5)).toBeVisible();
  const taken: string[] = [];
  let isOver = false;
  const write = async (person: Person) => {
    for (let i = 0; !isOver; i++) {
      const text = `${person.name} wrote ${i}`;
      const note = { kind: "item", key: "Q00010", text };
      const { status } = await person.api("POST", "quillmoor/notes", note).catch(() => ({ status: 0 }));
      if (status === 201) taken.push(text);
      await new Promise((resolve) => setTimeout(resolve, 40));
    }
  };
  const writers = [write(ada), write(ben)];
  let kills = 0;
  for (const until = Date.now() + LASTS; Date.now() < until; kills++) {
    const program = pick(["server/web/main", "server/counter/main", "server/counter/main", "server/runner/main"]);
    const [victim] = site.processes(program).sort(() => random() - 0.5);
    if (victim === undefined) continue;
    process.kill(victim, "SIGKILL");
    const away = page.getByText("The server is not answering");
    // A server that is back within the moment between two looks is not missed.
    if (program === "server/web/main") await away.waitFor({ state: "visible", timeout: 5000 }).catch(() => {});
    await expect(away).toHaveCount(0, { timeout: 60_000 });
    // A web server that falls six times a minute is given up on purpose.
    await new Promise((resolve) => setTimeout(resolve, 8000 + 5000 * random()));
  }
  isOver = true;
  await Promise.all(writers);
  console.log(`${kills} kills, ${taken.length} notes taken`);
  expect(kills).toBeGreaterThan(3);
  expect(taken.length).toBeGreaterThan(20);
  const { text } = await ada.api("GET", "quillmoor/items/Q00010");
  const missing = taken.filter((note) => !text.includes(`"${note}"`));
  expect(missing).toEqual([]);
  await page.getByPlaceholder(/Search title/).fill("hose");
  await expect(page.getByText(/items? found/)).toBeVisible();
  await expectOwn(ada);
  await expectUntouched();
  await context.close();
});
