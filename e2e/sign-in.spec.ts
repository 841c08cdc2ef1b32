import { spawn, type ChildProcess } from "node:child_process";
import { cpSync, mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { expect, test, type Browser, type Page } from "@playwright/test";
import { waitForHealth } from "../scripts/lib.mjs";
import { expectAccessible } from "./helpers";
import { demoFolder } from "./make-demo";
import { patiently } from "./site";

// A server of its own, at which people sign in.
const PORT = Number(process.env["E2E_PORT"] ?? "4400") + 95;
const SITE = `http://127.0.0.1:${PORT}`;
const PASSWORD = "several words are easy";
let server: ChildProcess;
let folder: string;
let said = "";

test.describe.configure({ mode: "serial" });

test.beforeAll(async () => {
  test.setTimeout(150_000);
  folder = mkdtempSync(path.join(tmpdir(), "hot-shelf-people-"));
  cpSync(demoFolder(), folder, { recursive: true });
  server = spawn(process.execPath, ["scripts/e2e-server.mjs"], {
    stdio: ["pipe", "pipe", "inherit"],
    env: {
      ...process.env,
      PORT: String(PORT),
      HOTSHELF_DATA_DIR: folder,
      HOTSHELF_SIGN_IN: "true",
      HOTSHELF_KEY_FILE: path.join(folder, "..", `${path.basename(folder)}.key`),
      LOG_LEVEL: "warn",
    },
  });
  server.stdout!.on("data", (text: Buffer) => (said += text.toString()));
  await waitForHealth(SITE, 90);
});

test.afterAll(async () => {
  const ended = new Promise((resolve) => server.on("exit", resolve));
  server.kill("SIGTERM");
  await ended;
  rmSync(folder, { recursive: true, force: true });
  rmSync(`${folder}.key`, { force: true });
});

let ada: Page;

async function newPerson(browser: Browser): Promise<Page> {
  const page = await (await browser.newContext({ baseURL: SITE })).newPage();
  patiently(page);
  return page;
}

/** Opens a link, names oneself, and comes in. */
async function comeIn(page: Page, link: string, name: string, email?: string): Promise<void> {
  await page.goto(link);
  if (email) await page.getByLabel("E-mail address").fill(email);
  await page.getByLabel("Name", { exact: true }).fill(name);
  await page.getByLabel("Password", { exact: true }).fill(PASSWORD);
  await page.getByLabel("Password again").fill(PASSWORD);
  await page.getByRole("button", { name: "Come in" }).click();
}

/** The owner invites somebody. @returns the link that is shown */
async function invite(email: string, role: string): Promise<string> {
  await ada.goto("/w/quillmoor/people");
  await ada.getByLabel("E-mail address").fill(email);
  await ada.getByLabel("Role", { exact: true }).first().selectOption(role);
  await ada.getByRole("button", { name: "Invite" }).click();
  const link = ada.locator("code").first();
  await expect(link).toContainText("/welcome/");
  return link.innerText();
}

test("nobody sees anything before the first has come in by the printed link", async ({ browser }) => {
  ada = await newPerson(browser);
  await ada.goto("/w/quillmoor/results?days=7");
  await expect(ada.getByRole("heading", { name: "Sign in" })).toBeVisible();
  await expect(ada.getByText("Nobody can sign in yet")).toBeVisible();
  expect((await ada.request.get("/api/v1/quillmoor/items")).status()).toBe(401);
  await expectAccessible(ada);
  await expect.poll(() => /welcome\/\S+/.exec(said)?.[0]).toBeTruthy();
  const link = `/${/welcome\/\S+/.exec(said)![0]}`;
  await comeIn(ada, link, "Ada Quill", "ada@quillmoor.example");
  await expect(ada.getByRole("button", { name: "Ada Quill, owner" })).toBeVisible();
  // The link was good once.
  const other = await newPerson(browser);
  await other.goto(link);
  await expect(other.getByText("This link was used already")).toBeVisible();
});

test("an editor fills the basket and can't send it; what is refused says which role it needs", async ({ browser }) => {
  const ben = await newPerson(browser);
  const link = await invite("ben@quillmoor.example", "editor");
  await expectAccessible(ada);
  await comeIn(ben, link, "Ben Moor");
  await expect(ben.getByRole("button", { name: "Ben Moor, editor" })).toBeVisible();
  const items = (await (await ben.request.get("/api/v1/quillmoor/items?limit=1")).json()) as {
    items: { id: string }[];
  };
  const id = items.items[0]!.id;
  await ben.goto("/w/quillmoor/dispatch");
  const note = { kind: "item", key: id, text: "Ask Ben first." };
  expect((await ben.request.post("/api/v1/quillmoor/notes", { data: note })).status()).toBe(201);
  const sent = await ben.request.post("/api/v1/quillmoor/dispatches", { data: {} });
  expect([sent.status(), JSON.stringify(await sent.json())]).toEqual([
    403,
    expect.stringContaining("needs the role sender"),
  ]);
  // His menu has no people, and the page itself says why.
  await ben.getByRole("button", { name: "Ben Moor, editor" }).click();
  await expect(ben.getByRole("menuitem", { name: "Change log" })).toBeVisible();
  await expect(ben.getByRole("menuitem", { name: "People and tokens" })).toHaveCount(0);
  await ben.goto("/w/quillmoor/people");
  await expect(ben.getByText("This needs the role owner").first()).toBeVisible();
});

test("who has a role in one workspace finds no other, and a changed role holds from the next click on", async ({
  browser,
}) => {
  const made = { slug: "other", name: "Other", currency: "EUR", timeZone: "Europe/Berlin", goal: 3 };
  expect((await ada.request.post("/api/v1/workspaces", { data: made })).status()).toBe(201);
  const cleo = await newPerson(browser);
  await comeIn(cleo, await invite("cleo@quillmoor.example", "viewer"), "Cleo Hand");
  await expect(cleo.getByRole("button", { name: "Cleo Hand, viewer" })).toBeVisible();
  expect((await cleo.goto("/w/other"))!.status()).toBe(404);
  await cleo.goto("/?all=1");
  await expect(cleo.getByRole("link", { name: /Quillmoor/ })).toBeVisible();
  await expect(cleo.getByRole("link", { name: /Other/ })).toHaveCount(0);
  await expect(cleo.getByRole("heading", { name: "Make a workspace" })).toHaveCount(0);
  await ada.goto("/w/quillmoor/people");
  await ada.getByLabel("Role of Cleo Hand").selectOption("sender");
  const setGoal = () => cleo.request.put("/api/v1/quillmoor/settings", { data: { goal: 3.5 } });
  await expect.poll(async () => (await setGoal()).status()).toBe(200);
  await cleo.goto("/w/quillmoor");
  await cleo.getByRole("button", { name: "Cleo Hand, sender" }).click();
  await cleo.getByRole("menuitem", { name: "Sign out" }).click();
  await expect(cleo.getByRole("heading", { name: "Sign in" })).toBeVisible();
  await cleo.goto("/w/quillmoor");
  await cleo.getByLabel("E-mail address").fill("cleo@quillmoor.example");
  await cleo.getByLabel("Password").fill("wrong words all of them");
  await cleo.getByRole("button", { name: "Sign in" }).click();
  await expect(cleo.getByText("is not right")).toBeVisible();
  await cleo.getByLabel("Password").fill(PASSWORD);
  await cleo.getByRole("button", { name: "Sign in" }).click();
  await expect(cleo.getByRole("button", { name: "Cleo Hand, sender" })).toBeVisible();
  await cleo.getByRole("button", { name: "Cleo Hand, sender" }).click();
  await cleo.getByRole("menuitem", { name: "Sign out" }).click();
  await expect(cleo.getByRole("heading", { name: "Sign in" })).toBeVisible();
});

test("many failed tries cost work and shut nobody out, and an invitation to one more workspace is taken up where one is signed in", async ({
  browser,
}) => {
  const page = await newPerson(browser);
  await page.goto("/sign-in?to=/%09/evil.example");
  await page.getByLabel("E-mail address").fill("cleo@quillmoor.example");
  // Strangers try her account; the browser here is one of them.
  for (let i = 0; i < 6; i++) {
    await page.request.post("/api/v1/session", { data: { email: "cleo@quillmoor.example", password: "wrong words" } });
  }
  await page.getByLabel("Password").fill(PASSWORD);
  await page.getByRole("button", { name: "Sign in" }).click();
  await expect(
    page
      .getByRole("link", { name: /Quillmoor/ })
      .or(page.getByRole("heading", { name: "Today" }))
      .first(),
  ).toBeVisible();
  expect(new URL(page.url()).origin).toBe(SITE);
  const made = await ada.request.post("/api/v1/other/people", {
    data: { email: "cleo@quillmoor.example", role: "editor" },
  });
  const { link } = (await made.json()) as { link: string };
  await page.goto(link);
  await expectAccessible(page);
  await page.getByRole("button", { name: "Come in as Cleo Hand" }).click();
  await expect(page).toHaveURL(/\/w\/other/);
});

test("a basket is approved by somebody else who may send, and only an owner does away with that", async ({
  browser,
}) => {
  const dan = await newPerson(browser);
  await comeIn(dan, await invite("dan@quillmoor.example", "sender"), "Dan Reed");
  await expect(dan.getByRole("button", { name: "Dan Reed, sender" })).toBeVisible();
  const rule = (person: Page, approval: boolean) =>
    person.request.put("/api/v1/quillmoor/settings", { data: { approval } });
  expect((await rule(ada, true)).status()).toBe(200);
  const lifted = await rule(dan, false);
  expect([lifted.status(), JSON.stringify(await lifted.json())]).toEqual([
    403,
    expect.stringContaining("needs the role owner"),
  ]);
  const { lines } = (await (await dan.request.get("/api/v1/quillmoor/account?days=30")).json()) as {
    lines: { key: string }[];
  };
  const edit = { action: "budget", keys: [lines[0]!.key], op: { how: "set", mills: 12_340 } };
  expect((await dan.request.post("/api/v1/quillmoor/account/edits", { data: edit })).status()).toBe(200);
  await dan.goto("/w/quillmoor/dispatch");
  await expect(dan.getByText("This basket waits for approval.")).toBeVisible();
  await expect(dan.getByRole("button", { name: "Send to the test market" })).toBeDisabled();
  await dan.getByRole("button", { name: "Approve" }).click();
  await expect(dan.getByText("1 change of this basket is your own.")).toBeVisible();
  await ada.goto("/w/quillmoor/dispatch");
  await expectAccessible(ada);
  await ada.getByRole("button", { name: "Approve" }).click();
  await expect(ada.getByText(/Approved by Ada/)).toBeVisible();
  await expect(ada.getByRole("button", { name: "Send to the test market" })).toBeEnabled();
  expect((await rule(ada, false)).status()).toBe(200);
  expect((await ada.request.post("/api/v1/quillmoor/basket/remove", { data: { keys: "all" } })).status()).toBe(200);
});

test("a script asks with a token until it is revoked, and the log names everybody", async ({ playwright }) => {
  await ada.goto("/w/quillmoor/people");
  await ada.getByLabel("What it is for").fill("Nightly results");
  await ada.getByRole("button", { name: "Make a token" }).click();
  const token = await ada.getByText(/^hotshelf_/).innerText();
  const headers = { authorization: `Bearer ${token}` };
  const script = await playwright.request.newContext({ baseURL: SITE, extraHTTPHeaders: headers });
  expect((await script.get("/api/v1/quillmoor/results?level=campaign")).status()).toBe(200);
  expect((await script.get("/api/v1/other/items")).status()).toBe(404);
  await ada.getByRole("button", { name: "Revoke" }).click();
  await expect(ada.getByText("None was made yet")).toBeVisible();
  expect((await script.get("/api/v1/quillmoor/items")).status()).toBe(401);
  await expect(ada.getByLabel("Access log")).toContainText("revoked the token");
  await expect(ada.getByLabel("Access log")).toContainText("refused: POST dispatches");
  expect((await ada.request.put("/api/v1/quillmoor/settings", { data: { goal: 3.25 } })).status()).toBe(200);
  await ada.getByRole("button", { name: "Ada Quill, owner" }).click();
  await ada.getByRole("menuitem", { name: "Change log" }).click();
  await ada.getByLabel("Search the log").fill("3.25 ada");
  await expect(ada.getByText("1 line found")).toBeVisible();
  await expect(ada.getByRole("cell", { name: "Ada Quill ada@quillmoor.example" })).toBeVisible();
  await expectAccessible(ada);
  await ada.goto("/me");
  await expect(ada.getByText("This browser")).toBeVisible();
  await expectAccessible(ada);
});

test("a server that is killed comes back by itself, and the page says meanwhile that it is away", async () => {
  await ada.goto("/w/quillmoor/people");
  await ada.getByLabel("What it is for").fill("Not sent yet");
  const pid = webProcess();
  process.kill(pid, "SIGKILL");
  await expect(ada.getByText("The server is not answering")).toBeVisible({ timeout: 5000 });
  await expect(ada.getByText("The server is not answering")).toHaveCount(0, { timeout: 60_000 });
  await expect(ada.getByLabel("What it is for")).toHaveValue("Not sent yet");
  expect(webProcess()).not.toBe(pid);
  expect((await ada.request.get("/api/v1/quillmoor/basket")).status()).toBe(200);
});

/** The web process of the server here. */
function webProcess(): number {
  const children = readFileSync(`/proc/${server.pid}/task/${server.pid}/children`, "utf8").trim().split(" ");
  return Number(children.find((pid) => readFileSync(`/proc/${pid}/cmdline`, "utf8").includes("server/web/main")));
}
