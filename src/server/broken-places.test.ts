import { spawn } from "node:child_process";
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { beforeEach, describe, expect, it } from "vitest";
import { handleApi } from "./api/handle";
import { dataDir, forgetSettings } from "./settings";
import { testWorkspace } from "./testing";
import { accounts, closeAccounts } from "./installation";
import { claimName, workspaceSlugs } from "./registry";
import { createWorkspace, databaseOf, findWorkspace, lookAtWorkspaces } from "./workspaces";

type Workspace = Awaited<ReturnType<typeof testWorkspace>>;

const file = ({ info }: Workspace) => path.join(dataDir(), `${info.slug}.db`);

/** As after a restart: the process knows no open database of it. */
function restart({ db, info }: Workspace): void {
  db.$client.close();
  (globalThis as unknown as { __hotShelfDatabases: Map<string, unknown> }).__hotShelfDatabases.delete(info.slug);
}

async function ask(where: string) {
  const response = await handleApi(new Request(`http://127.0.0.1/api/v1/${where}`), where);
  return { status: response.status, body: (await response.json()) as { error?: { code: string; message: string } } };
}

describe("a place that is broken", () => {
  let broken: Workspace;
  let sound: Workspace;
  beforeEach(async () => {
    broken = await testWorkspace();
    sound = await testWorkspace();
  });

  it("a damaged database is named with what to do, left as it is, and all others go on", async () => {
    restart(broken);
    for (const rest of ["-wal", "-shm"]) rmSync(`${file(broken)}${rest}`, { force: true });
    writeFileSync(file(broken), "this was a database once");
    const { status, body } = await ask(`${broken.info.slug}/feeds`);
    expect([status, body.error?.code]).toEqual([503, "workspace-broken"]);
    expect(body.error?.message).toContain(`"${broken.info.slug}" is damaged`);
    expect(readFileSync(file(broken), "utf8")).toBe("this was a database once");
    expect((await ask(`${sound.info.slug}/feeds`)).status).toBe(200);
    const looked = await lookAtWorkspaces();
    expect(looked.sound.map(({ slug }) => slug)).toContain(sound.info.slug);
    expect(looked.broken).toMatchObject([{ slug: broken.info.slug, code: "workspace-broken" }]);
    const ready = (await ask("ready")).body as unknown as { ready: boolean; runner: boolean; broken: object[] };
    expect(ready).toMatchObject({ ready: false, runner: false, broken: [{ slug: broken.info.slug }] });
    // Put back, it opens without a restart.
    rmSync(file(broken));
    await sound.db.$client.execute("PRAGMA wal_checkpoint(TRUNCATE)");
    writeFileSync(file(broken), readFileSync(file(sound)));
    expect((await findWorkspace(broken.info.slug))?.info.slug).toBe(broken.info.slug);
  });

  it("a database that is gone is not replaced by an empty one", async () => {
    restart(broken);
    for (const rest of ["", "-wal", "-shm"]) rmSync(`${file(broken)}${rest}`, { force: true });
    const { status, body } = await ask(`${broken.info.slug}/feeds`);
    expect([status, body.error?.code]).toEqual([503, "workspace-missing"]);
    expect(existsSync(file(broken))).toBe(false);
  });

  it("a database of a later version is left alone", async () => {
    await broken.db.$client.execute(
      "INSERT INTO __drizzle_migrations (hash, created_at) VALUES ('later', 99999999999999)",
    );
    restart(broken);
    await expect(databaseOf(broken.info.slug)).rejects.toMatchObject({ failure: { code: "workspace-newer" } });
  });

  it("a list of workspaces that can't be read is made from their databases", async () => {
    const elsewhere = mkdtempSync(path.join(tmpdir(), "hs-broken-list-"));
    const before = process.env["HOTSHELF_DATA_DIR"];
    await closeAccounts();
    process.env["HOTSHELF_DATA_DIR"] = elsewhere;
    forgetSettings();
    writeFileSync(path.join(elsewhere, "accounts.db"), "this was a list once");
    for (const name of ["runner-lock", "shop", "garden", "No Name"])
      writeFileSync(path.join(elsewhere, `${name}.db`), "");
    expect(await workspaceSlugs()).toEqual(["garden", "shop"]);
    process.env["HOTSHELF_DATA_DIR"] = before;
    forgetSettings();
    rmSync(elsewhere, { recursive: true });
  });
});

describe("workspaces made", () => {
  const made = (slug: string) => createWorkspace({ slug, name: slug, currency: "EUR", timeZone: "Europe/Berlin" });

  it("at once are all there, and of one name there is one", async () => {
    const names = Array.from({ length: 12 }, (_, i) => `at-once-${i % 9}`);
    const done = await Promise.all(names.map(made));
    expect(done.filter((one) => one.ok).length).toBe(9);
    for (const one of done) if (!one.ok) expect(one.error.code).toBe("workspace-exists");
    const listed = (await workspaceSlugs()).filter((slug) => slug.startsWith("at-once-"));
    expect(listed.sort()).toEqual([...new Set(names)].sort());
  });

  it("by several processes at once are all there", async () => {
    const code = (slug: string) => `
      const { createWorkspace } = await import("./src/server/workspaces.ts");
      const done = await createWorkspace({ slug: ${JSON.stringify(slug)}, name: "x", currency: "EUR", timeZone: "UTC" });
      process.exit(done.ok ? 0 : 3);`;
    const run = (slug: string) =>
      new Promise<number | null>((resolve) => {
        const args = ["--import", "tsx", "--input-type=module", "-e", code(slug)];
        spawn(process.execPath, args, { stdio: "ignore" }).on("exit", resolve);
      });
    const codes = await Promise.all(["side-a", "side-b", "side-a"].map(run));
    expect(codes[1]).toBe(0);
    expect([codes[0], codes[2]].sort()).toEqual([0, 3]);
    expect(await workspaceSlugs()).toEqual(expect.arrayContaining(["side-a", "side-b"]));
  });

  it("leave their name free where making them failed, and where that broke off a while ago", async () => {
    // A folder in the place of its database: it can't be made.
    mkdirSync(path.join(dataDir(), "unlucky.db-wal"), { recursive: true });
    await expect(made("unlucky")).rejects.toBeTruthy();
    rmSync(path.join(dataDir(), "unlucky.db-wal"), { recursive: true, force: true });
    expect((await made("unlucky")).ok).toBe(true);
    expect(await claimName("broken-off", Date.now() - 120_000)).toBe(true);
    writeFileSync(path.join(dataDir(), "broken-off.db"), "half");
    expect(await workspaceSlugs()).not.toContain("broken-off");
    expect((await made("broken-off")).ok).toBe(true);
    // Whose file that was is not known, so it is kept.
    const aside = readdirSync(dataDir()).find((name) => name.startsWith("broken-off.db.aside-"))!;
    expect(readFileSync(path.join(dataDir(), aside), "utf8")).toBe("half");
  });

  it("are taken over from where the list stood before", async () => {
    const slugs = await workspaceSlugs();
    await (await accounts()).$client.execute("DELETE FROM registry");
    writeFileSync(path.join(dataDir(), "workspaces.json"), JSON.stringify(slugs));
    expect(await workspaceSlugs()).toEqual(slugs);
  });
});
