import { spawn, type ChildProcess } from "node:child_process";
import { once } from "node:events";
import { rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import { afterEach, describe, expect, it, vi } from "vitest";
import { built } from "../../../scripts/build.mjs";
import { diffRecords } from "@/core/kit/diff";
import type { Structure } from "@/core/account/account";
import type { Database } from "@/db/client";
import { loadCatalogue } from "../catalogue/load";
import { dataDir } from "../settings";
import { addToBasket, feedFile, importFeed, testWorkspace } from "../testing";
import { enqueueJob, findJob, type JobView } from "../jobs/jobs";
import { areHandsAtWork } from "../jobs/lock";

// Each starts several programs and waits for them, on machines that may be busy with other tests.
vi.setConfig({ testTimeout: 240_000 });

let runner: ChildProcess | null = null;

function startRunner(): void {
  runner = spawn(process.execPath, built("src/server/runner/main.ts"), {
    stdio: ["pipe", "ignore", "inherit"],
    env: { ...process.env, HOTSHELF_DATA_DIR: dataDir(), LOG_LEVEL: "silent" },
  });
}

async function kill(): Promise<void> {
  if (!runner || runner.exitCode !== null) return;
  const ended = once(runner, "exit");
  runner.kill("SIGKILL");
  await ended;
  runner = null;
  // Its hands end by themselves.
  while (await areHandsAtWork()) await sleep(5);
}

afterEach(kill);

async function until(db: Database, id: string, when: (job: JobView) => boolean, seconds = 90): Promise<JobView> {
  const end = Date.now() + seconds * 1000;
  while (Date.now() < end) {
    const job = await findJob(db, id);
    if (job && when(job)) return job;
    await sleep(5);
  }
  throw new Error(`job ${id} did not get there`);
}

async function scalar(db: Database, sql: string): Promise<number> {
  const { rows } = await db.$client.execute(sql);
  return Number(rows[0]![0]);
}

const OLD = 400;
const NEW = 6_000;

/** Half of the old items stay, half change their price; the rest is new. */
function feed(rows: number, price: (i: number) => number): string {
  const lines = Array.from(
    { length: rows },
    (_, i) => `I${i},Item number ${i} for gardens,${price(i)}.50,Brand ${i % 9}`,
  );
  return `id,title,price,brand\n${lines.join("\n")}\n`;
}

describe("a runner killed at any moment", () => {
  it.each([1, 2_000, 5_000])(
    "of an import (after %d rows) leaves a whole catalogue, and the next one finishes it",
    async (rows) => {
      const workspace = await testWorkspace();
      const { db } = workspace;
      await importFeed(
        workspace,
        feed(OLD, () => 5),
      );
      const file = feedFile(feed(NEW, (i) => (i % 2 ? 5 : 6)));
      const input = { feed: "main", file, fileName: "feed.csv", mapping: null, acceptLoss: false };
      const { id } = await enqueueJob(db, "feed-import", input);
      startRunner();
      await until(db, id, (job) => job.state === "running" && (job.progress.done >= rows || rows === 1));
      await kill();
      expect((await findJob(db, id))!.state).toBe("running");
      expect((await loadCatalogue(db, [])).length).toBe(OLD);
      expect(await scalar(db, "SELECT count(*) FROM items WHERE from_rev = 1")).toBe(OLD);

      startRunner();
      const job = await until(db, id, ({ state }) => state === "done" || state === "failed");
      expect(job.result).toMatchObject({
        rows: NEW,
        stored: NEW,
        new: NEW - OLD,
        changed: OLD / 2,
        unchanged: OLD / 2,
        gone: 0,
      });
      expect((await loadCatalogue(db, [])).length).toBe(NEW);
      // Each item has exactly one version in force, and no trace of the broken run is left.
      expect(await scalar(db, "SELECT count(*) FROM items WHERE to_rev IS NULL")).toBe(NEW);
      expect(await scalar(db, "SELECT count(DISTINCT item_id) FROM items WHERE to_rev IS NULL")).toBe(NEW);
      expect(await scalar(db, "SELECT count(*) FROM items")).toBe(NEW + OLD / 2);
      expect(await scalar(db, "SELECT count(*) FROM revisions")).toBe(2);
    },
  );

  it.each([0, 60, 250])(
    "of a dispatch (after %d ms) leaves all or nothing, and the next one finishes it",
    async (delay) => {
      const { db } = await testWorkspace();
      const size = 6_000;
      const structure: Structure = {
        c: {
          type: "campaign",
          key: "c",
          name: "All",
          kind: "feed",
          purpose: "scale",
          bidding: "fixed",
          goal: null,
          dailyBudget: 50_000,
          status: "on",
          serveOrder: 1,
          inStockOnly: false,
          origin: null,
        },
        g: { type: "adGroup", key: "g", campaign: "c", name: "All", status: "on", bid: 300 },
        p: {
          type: "productGroup",
          key: "p",
          adGroup: "g",
          parent: null,
          role: "split",
          value: null,
          by: "id",
          status: "on",
          bid: null,
        },
      };
      for (let i = 0; i < size; i++) {
        const key = `p/${i}`;
        structure[key] = {
          type: "productGroup",
          key,
          adGroup: "g",
          parent: "p",
          role: "unit",
          value: `I${i}`,
          by: null,
          status: "on",
          bid: 200,
        };
      }
      await addToBasket(db, diffRecords({}, structure));
      const { id } = await enqueueJob(db, "dispatch", { takesBack: null });
      startRunner();
      await until(db, id, (job) => job.state !== "waiting");
      await sleep(delay);
      await kill();
      const records = await scalar(db, "SELECT count(*) FROM records");
      const basket = await scalar(db, "SELECT count(*) FROM basket");
      const changes = await scalar(db, "SELECT count(*) FROM dispatch_changes");
      expect([
        [0, size + 3, 0],
        [size + 3, 0, size + 3],
      ]).toContainEqual([records, basket, changes]);

      startRunner();
      const job = await until(db, id, ({ state }) => state === "done" || state === "failed");
      expect(job.result).toEqual({ dispatch: 1, changes: size + 3, refused: 0, otherwise: 0 });
      expect(await scalar(db, "SELECT count(*) FROM channel_books b JOIN records r USING (key, body)")).toBe(size + 3);
      expect(await scalar(db, "SELECT count(*) FROM records")).toBe(size + 3);
      expect(await scalar(db, "SELECT count(*) FROM basket")).toBe(0);
      expect(await scalar(db, "SELECT count(*) FROM dispatches")).toBe(1);
    },
  );
});

/** Kills at moments drawn by chance: two in every run, as many as one likes with HOTSHELF_KILLS. */
const MOMENTS = Array.from({ length: Number(process.env["HOTSHELF_KILLS"] ?? 2) }, () => [
  Math.round(Math.random() * 2500),
  Math.round(Math.random() * 2500),
]);

describe("a runner killed again and again", () => {
  it.each(MOMENTS)(
    "(after %d ms and after %d ms more) ends with the whole feed and no trace",
    async (first, second) => {
      const workspace = await testWorkspace();
      const { db } = workspace;
      await importFeed(
        workspace,
        feed(OLD, () => 5),
      );
      const file = feedFile(feed(6000, (i) => (i % 2 ? 5 : 6)));
      const input = { feed: "main", file, fileName: "feed.csv", mapping: null, acceptLoss: false };
      const { id } = await enqueueJob(db, "feed-import", input);
      for (const moment of [first, second]) {
        startRunner();
        await until(db, id, ({ state }) => state !== "waiting");
        await sleep(moment);
        await kill();
      }
      startRunner();
      const job = await until(db, id, ({ state }) => state === "done" || state === "failed");
      expect(job).toMatchObject({ state: "done", result: { stored: 6000, new: 6000 - OLD, changed: OLD / 2 } });
      expect(await scalar(db, "SELECT count(*) FROM items WHERE to_rev IS NULL")).toBe(6000);
      expect(await scalar(db, "SELECT count(DISTINCT item_id) FROM items WHERE to_rev IS NULL")).toBe(6000);
      expect(await scalar(db, "SELECT count(*) FROM items")).toBe(6000 + OLD / 2);
      expect(await scalar(db, "SELECT count(*) FROM revisions")).toBe(2);
    },
  );
});

describe("a broken workspace", () => {
  it("keeps no other waiting: the others' jobs run on", async () => {
    const broken = await testWorkspace();
    const sound = await testWorkspace();
    // What the runner finds of it on the disk is no database at all.
    const file = path.join(dataDir(), `${broken.info.slug}.db`);
    writeFileSync(file, "this was a database once");
    for (const rest of ["-wal", "-shm"]) rmSync(`${file}${rest}`, { force: true });
    const input = {
      feed: "main",
      file: feedFile(feed(50, () => 5)),
      fileName: "f.csv",
      mapping: null,
      acceptLoss: false,
    };
    const job = await enqueueJob(sound.db, "feed-import", input);
    startRunner();
    const done = await until(sound.db, job.id, ({ state }) => state === "done" || state === "failed");
    expect(done).toMatchObject({ state: "done", result: { stored: 50 } });
    expect(runner?.exitCode).toBeNull();
  });
});
