import {
  appendFileSync,
  existsSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { backUp, checkBackUp, restore, roleChanges } from "./backup";
import { addNote } from "./catalogue/notes";
import { dataDir, forgetSettings } from "./settings";
import { comeIn, comeInFirst, idOf, linkFrom } from "./sign-in/testing";
import { accounts, closeAccounts } from "./installation";
import { acceptInvitation } from "./sign-in/accept";
import { founderLink, hasPeople } from "./sign-in/people";
import { importFeed, testWorkspace } from "./testing";
import { databaseOf } from "./workspaces";

type Workspace = Awaited<ReturnType<typeof testWorkspace>>;

let into: string;
beforeEach(() => (into = mkdtempSync(path.join(tmpdir(), "hs-back-up-"))));
afterEach(() => rmSync(into, { recursive: true, force: true }));

/** As after a restart: the process knows no open database of it. */
function stop({ db, info }: Workspace): void {
  db.$client.close();
  (globalThis as unknown as { __hotShelfDatabases: Map<string, unknown> }).__hotShelfDatabases.delete(info.slug);
}

async function notes(slug: string): Promise<number> {
  const { rows } = await (await databaseOf(slug)).$client.execute("SELECT count(*) FROM notes");
  return Number(rows[0]![0]);
}

const day = (hour: number) => new Date(Date.UTC(2026, 10, 27, hour));

describe("a back-up", () => {
  it("taken while others write holds all that was written before, and comes back as it was", async () => {
    const workspace = await testWorkspace();
    const { db, info } = workspace;
    await importFeed(workspace, "id,title,price\n1,Rake,5\n2,Hoe,6\n");
    for (let i = 0; i < 128; i++) await addNote(db, { kind: "item", key: "1", text: `note ${i}` });
    // What was written last lies beside the database file.
    expect(existsSync(path.join(dataDir(), `${info.slug}.db-wal`))).toBe(true);
    const writing = (async () => {
      for (let i = 0; i < 40; i++) await addNote(db, { kind: "item", key: "2", text: `meanwhile ${i}` });
    })();
    const folder = await backUp(into, 7, day(1));
    await writing;
    expect((await checkBackUp(folder)).workspaces.map(({ slug }) => slug)).toContain(info.slug);
    expect(await notes(info.slug)).toBe(168);
    stop(workspace);
    const aside = await restore(folder, { only: [info.slug] }, day(2));
    const back = await notes(info.slug);
    expect(back).toBeGreaterThanOrEqual(128);
    expect(back).toBeLessThanOrEqual(168);
    // Nothing was thrown away.
    expect(readdirSync(aside)).toContain(`${info.slug}.db`);
  });

  it("holds people's accounts too, and puts them back with all workspaces, not with a single one", async () => {
    const { info } = await testWorkspace();
    const people = async () => (await (await accounts()).$client.execute("SELECT name FROM people")).rows.length;
    await acceptInvitation(await founderLink(), {
      email: "a@b.example",
      name: "A",
      password: "several words are easy",
    });
    const folder = await backUp(into, 7, day(14));
    await closeAccounts();
    rmSync(path.join(dataDir(), "accounts.db"));
    await restore(folder, { only: [info.slug] }, day(15));
    expect(await hasPeople()).toBe(false);
    await closeAccounts();
    await restore(folder, { only: null }, day(16));
    expect(await people()).toBe(1);
    appendFileSync(path.join(folder, "accounts.db"), "x");
    await expect(checkBackUp(folder)).rejects.toMatchObject({ failure: { code: "backup-changed" } });
  });

  it("put back ends every session, token and link, and says first whose roles change", async () => {
    process.env["HOTSHELF_SIGN_IN"] = "true";
    forgetSettings();
    const { info } = await testWorkspace();
    await (await accounts()).$client.execute("DELETE FROM people");
    const founder = await comeInFirst();
    const leaver = await comeIn(founder, info.slug, "leaver@shop.example", "editor");
    await founder("POST", `${info.slug}/tokens`, { name: "left behind", role: "sender" });
    await linkFrom(founder, info.slug, "never@shop.example", "owner");
    const folder = await backUp(into, 7, day(18));
    await founder("PUT", `${info.slug}/people/${await idOf(founder, info.slug, "leaver@shop.example")}`, {
      role: null,
    });
    await comeIn(founder, info.slug, "later@shop.example", "viewer");
    expect(await roleChanges(folder, { only: null })).toEqual([
      `later <later@shop.example> in ${info.slug}: viewer now, nothing then`,
      `leaver <leaver@shop.example> in ${info.slug}: nothing now, editor then`,
    ]);
    expect(await roleChanges(folder, { only: null, keepPeople: true })).toEqual([]);
    expect(await roleChanges(folder, { only: [info.slug] })).toEqual([]);
    await closeAccounts();
    await restore(folder, { only: null }, day(19));
    const { $client } = await accounts();
    const left = await $client.execute(
      "SELECT (SELECT count(*) FROM sessions) + (SELECT count(*) FROM tokens) + (SELECT count(*) FROM invitations)",
    );
    expect(Number(left.rows[0]![0])).toBe(0);
    expect((await leaver("GET", `${info.slug}/basket`)).status).toBe(401);
    expect((await founder("GET", "workspaces")).status).toBe(401);
    delete process.env["HOTSHELF_SIGN_IN"];
    forgetSettings();
  });

  it("writes nothing outside the data folder, whatever its list says, and is for nobody else to read", async () => {
    const { info } = await testWorkspace();
    const folder = await backUp(into, 7, day(20));
    const modes = ["", "/back-up.json", `/${info.slug}.db`, "/accounts.db"].map(
      (at) => statSync(folder + at).mode & 0o777,
    );
    expect(modes).toEqual([0o700, 0o600, 0o600, 0o600]);
    expect(statSync(path.join(dataDir(), `${info.slug}.db`)).mode & 0o777).toBe(0o600);
    const list = path.join(folder, "back-up.json");
    const told = JSON.parse(readFileSync(list, "utf8")) as { workspaces: { slug: string }[]; sha256?: string };
    const changed = { ...told, workspaces: told.workspaces.slice(1) };
    writeFileSync(list, JSON.stringify(changed));
    await expect(checkBackUp(folder)).rejects.toMatchObject({ failure: { code: "backup-changed" } });
    for (const slug of ["../other", "..", "a/b", "accounts", ""]) {
      writeFileSync(
        list,
        JSON.stringify({ ...told, sha256: undefined, workspaces: [{ ...told.workspaces[0], slug }] }),
      );
      await expect(restore(folder, { only: null }, day(21))).rejects.toMatchObject({
        failure: { code: "backup-none" },
      });
    }
  });

  it("keeps as many as asked, the newest", async () => {
    await testWorkspace();
    for (const hour of [1, 2, 3]) await backUp(into, 2, day(hour));
    expect(readdirSync(into).sort()).toEqual(["back-up-2026-11-27T02-00-00", "back-up-2026-11-27T03-00-00"]);
  });

  it("that is not whole, or was changed, is refused and changes nothing", async () => {
    const { info } = await testWorkspace();
    const folder = await backUp(into, 7, day(1));
    const file = path.join(folder, `${info.slug}.db`);
    await expect(restore(folder, { only: ["nobody"] }, day(5))).rejects.toMatchObject({
      failure: { code: "backup-lacks" },
    });
    appendFileSync(file, "more");
    await expect(restore(folder, { only: null }, day(5))).rejects.toMatchObject({
      failure: { code: "backup-changed" },
    });
    rmSync(file);
    await expect(checkBackUp(folder)).rejects.toMatchObject({ failure: { code: "backup-missing" } });
    rmSync(path.join(folder, "back-up.json"));
    await expect(checkBackUp(folder)).rejects.toMatchObject({ failure: { code: "backup-none" } });
    expect(readdirSync(dataDir()).some((name) => name.startsWith("before-restore-2026-11-27T05"))).toBe(false);
  });
});
