import { mkdtempSync, rmSync, utimesSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { openDatabase } from "@/db/client";
import { Changes } from "./changes";

let folder: string;
let changes: Changes;
let file: string;

beforeEach(() => {
  folder = mkdtempSync(path.join(tmpdir(), "hot-shelf-changes-"));
  file = path.join(folder, "a.db");
  writeFileSync(file, "");
  writeFileSync(path.join(folder, "b.db"), "");
  changes = new Changes(folder);
});

afterEach(() => {
  changes.close();
  rmSync(folder, { recursive: true, force: true });
});

async function settled(): Promise<void> {
  while (changes.take(file)) await new Promise((resolve) => setTimeout(resolve, 20));
}

describe("changes", () => {
  it("are told once for each database, by a write of any connection and by nothing that is only read", async () => {
    const db = await openDatabase(`file:${file}`);
    await db.$client.execute("CREATE TABLE t (n)");
    await settled();
    const other = path.join(folder, "b.db");
    expect([changes.take(other), changes.take(other)]).toEqual([true, false]);
    await db.$client.execute("SELECT count(*) FROM t");
    await changes.wait(100);
    expect(changes.take(file)).toBe(false);
    await db.$client.execute("INSERT INTO t VALUES (1)");
    await changes.wait(5000);
    expect([changes.take(file), changes.take(other)]).toEqual([true, false]);
    db.$client.close();
  });

  it("that the system does not tell of are found by looking, and a wait ends when it is told to", async () => {
    await settled();
    changes.close();
    changes.look(10_000);
    expect(changes.take(file)).toBe(false);
    writeFileSync(`${file}-wal`, "more");
    changes.look(20_000);
    expect(changes.take(file)).toBe(true);
    utimesSync(file, 1, 1);
    changes.look(20_100);
    expect(changes.take(file)).toBe(false);
    changes.look(30_000);
    expect(changes.take(file)).toBe(true);
    const waited = changes.wait(60_000);
    changes.endWait();
    await waited;
  });
});
