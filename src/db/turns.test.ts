import { randomUUID } from "node:crypto";
import path from "node:path";
import { spawn } from "node:child_process";
import { once } from "node:events";
import { beforeEach, describe, expect, it } from "vitest";
import { openDatabase, type Database } from "./client";

let url: string;
let db: Database;

beforeEach(async () => {
  url = `file:${path.join(process.env["HOTSHELF_DATA_DIR"]!, `${randomUUID()}.db`)}`;
  db = await openDatabase(url);
  await db.$client.execute("CREATE TABLE counts (name TEXT PRIMARY KEY, n INTEGER NOT NULL)");
  await db.$client.execute("INSERT INTO counts VALUES ('a', 0)");
});

const count = async () => Number((await db.$client.execute("SELECT n FROM counts")).rows[0]![0]);

/** Reads, waits, and writes what it read plus one, in a transaction. */
async function addOne(on: Database, wait: number): Promise<void> {
  const tx = await on.$client.transaction("write");
  try {
    const { rows } = await tx.execute("SELECT n FROM counts");
    await new Promise((resolve) => setTimeout(resolve, wait));
    await tx.execute({ sql: "UPDATE counts SET n = ?", args: [Number(rows[0]![0]) + 1] });
    await tx.commit();
  } finally {
    tx.close();
  }
}

describe("writers of one file", () => {
  it("take turns within a process, whichever connection they use, and readers wait for none of them", async () => {
    const other = await openDatabase(url);
    const writers = Array.from({ length: 12 }, (_, i) => addOne(i % 2 ? db : other, 5));
    const seen: number[] = [];
    for (let i = 0; i < 6; i++) {
      seen.push(await count());
      await new Promise((resolve) => setTimeout(resolve, 8));
    }
    await Promise.all(writers);
    expect(await count()).toBe(12);
    // Somebody read while the writers were at it.
    expect(seen.some((n) => n < 12)).toBe(true);
  });

  it("give the turn on when they fail, roll back, or are closed without an end", async () => {
    const failing = await db.$client.transaction("write");
    await expect(failing.execute("UPDATE nothing SET n = 1")).rejects.toThrow();
    failing.close();
    const undone = await db.$client.transaction("write");
    await undone.execute("UPDATE counts SET n = 100");
    await undone.rollback();
    await expect(db.$client.execute("INSERT INTO counts VALUES ('a', 1)")).rejects.toThrow();
    await addOne(db, 0);
    expect(await count()).toBe(1);
  });

  it("wait for another process that holds the file, and let this one go on meanwhile", async () => {
    const script = `
      import { createClient } from "@libsql/client";
      const client = createClient({ url: process.argv[1] });
      const tx = await client.transaction("write");
      await tx.execute("UPDATE counts SET n = n + 10");
      console.log("held");
      setTimeout(async () => { await tx.commit(); process.exit(0); }, 700);
    `;
    const holder = spawn(process.execPath, ["--input-type=module", "-e", script, url], {
      stdio: ["ignore", "pipe", "inherit"],
    });
    await once(holder.stdout, "data");
    let beats = 0;
    const beat = setInterval(() => beats++, 20);
    await addOne(db, 0);
    clearInterval(beat);
    expect(await count()).toBe(11);
    // Blocked in the client it could not have counted.
    expect(beats).toBeGreaterThan(8);
  });
});
