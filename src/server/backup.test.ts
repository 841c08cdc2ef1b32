import { appendFileSync, existsSync, mkdtempSync, readdirSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { backUp, checkBackUp, restore } from "./backup";
import { addNote } from "./catalogue/notes";
import { dataDir } from "./settings";
import { accounts } from "./sign-in/accounts";
import { acceptInvitation, founderLink, hasPeople } from "./sign-in/people";
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
    const aside = await restore(folder, [info.slug], day(2));
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
    (await accounts()).$client.close();
    delete (globalThis as { __hotShelfAccounts?: unknown }).__hotShelfAccounts;
    rmSync(path.join(dataDir(), "accounts.db"));
    await restore(folder, [info.slug], day(15));
    expect(await hasPeople()).toBe(false);
    (await accounts()).$client.close();
    delete (globalThis as { __hotShelfAccounts?: unknown }).__hotShelfAccounts;
    await restore(folder, null, day(16));
    expect(await people()).toBe(1);
    appendFileSync(path.join(folder, "accounts.db"), "x");
    await expect(checkBackUp(folder)).rejects.toMatchObject({ failure: { code: "backup-changed" } });
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
    await expect(restore(folder, ["nobody"], day(5))).rejects.toMatchObject({ failure: { code: "backup-lacks" } });
    appendFileSync(file, "more");
    await expect(restore(folder, null, day(5))).rejects.toMatchObject({ failure: { code: "backup-changed" } });
    rmSync(file);
    await expect(checkBackUp(folder)).rejects.toMatchObject({ failure: { code: "backup-missing" } });
    rmSync(path.join(folder, "back-up.json"));
    await expect(checkBackUp(folder)).rejects.toMatchObject({ failure: { code: "backup-none" } });
    expect(readdirSync(dataDir()).some((name) => name.startsWith("before-restore-2026-11-27T05"))).toBe(false);
  });
});
