import { existsSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import { beforeEach, describe, expect, it } from "vitest";
import { handleApi } from "./api/handle";
import { dataDir } from "./settings";
import { testWorkspace } from "./testing";
import { databaseOf, findWorkspace, lookAtWorkspaces, workspaceSlugs } from "./workspaces";

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
    const list = path.join(dataDir(), "workspaces.json");
    const before = readFileSync(list, "utf8");
    writeFileSync(list, before.slice(0, 5));
    writeFileSync(path.join(dataDir(), "runner-lock.db"), "");
    const slugs = await workspaceSlugs();
    writeFileSync(list, before);
    const there = (JSON.parse(before) as string[]).filter((slug) => existsSync(path.join(dataDir(), `${slug}.db`)));
    expect(slugs).toEqual(there.sort());
    expect(slugs).toContain(sound.info.slug);
  });
});
