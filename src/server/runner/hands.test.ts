import { setTimeout as sleep } from "node:timers/promises";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import type { Database } from "@/db/client";
import { cancelJob, enqueueJob, findJob, type JobView } from "../jobs/jobs";
import { testWorkspace } from "../testing";
import { Hands, type Limits } from "./hands";
import { areHandsAtWork } from "../jobs/lock";
import { Runner } from "./runner";

const MB = 1024 * 1024;
const limits: Limits = { memory: 450 * MB, quiet: 4000, deadline: () => 10_000, grace: 1500 };
const hands = new Hands("src/server/runner/fixtures/stubborn-handlers.ts", limits);
const runner = new Runner("test", hands);
let isOver = false;
let rounds: Promise<void>;

beforeAll(() => {
  rounds = (async () => {
    while (!isOver) if (!(await runner.round())) await sleep(50);
  })();
});

afterAll(async () => {
  isOver = true;
  await rounds;
  await runner.stop();
});

async function ended(db: Database, id: string): Promise<JobView> {
  for (let i = 0; i < 800; i++) {
    const job = await findJob(db, id);
    if (job && !["waiting", "running"].includes(job.state)) return job;
    await sleep(50);
  }
  throw new Error("it never ended");
}

async function rollBacks(db: Database, id: string): Promise<number> {
  const { rows } = await db.$client.execute({ sql: "SELECT count(*) FROM change_log WHERE what = ?", args: [id] });
  return Number(rows[0]![0]);
}

const ask = (db: Database, how: string) => enqueueJob(db, "market-compare", { how });

describe("a job that does not end by itself", () => {
  it.each([
    ["never answers", "no sign of life"],
    ["eats memory", "more memory"],
    ["goes on and on", "took longer"],
  ])(
    "because it %s is ended with a sentence and rolled back, and others' jobs are done meanwhile",
    async (how, says) => {
      const stuck = await testWorkspace();
      const { id } = await ask(stuck.db, how);
      while ((await findJob(stuck.db, id))!.state === "waiting") await sleep(20);
      const other = await testWorkspace();
      const fine = await ended(other.db, (await ask(other.db, "works")).id);
      expect(fine).toMatchObject({ state: "done", result: { did: "works" } });
      const job = await ended(stuck.db, id);
      expect([job.state, job.error!.code]).toEqual(["failed", "job-ended"]);
      expect(job.error!.message).toContain(says);
      expect(await rollBacks(stuck.db, id)).toBe(1);
      // The workspace itself goes on too.
      expect(await ended(stuck.db, (await ask(stuck.db, "works")).id)).toMatchObject({ state: "done" });
    },
  );

  it("ends soon after a person asked for it, though it never looks", async () => {
    const { db } = await testWorkspace();
    const { id } = await ask(db, "hears nothing");
    while ((await findJob(db, id))!.progress.done === 0) await sleep(20);
    await cancelJob(db, id);
    expect(await ended(db, id)).toMatchObject({ state: "cancelled", error: null });
    expect(await rollBacks(db, id)).toBe(1);
  });

  it("because its process dies is tried again, three times at most", async () => {
    const { db } = await testWorkspace();
    const { id } = await ask(db, "dies");
    expect(await ended(db, id)).toMatchObject({ state: "failed", error: { code: "job-lost" } });
    // On a busy machine taking back can itself seem to be broken off; then it is done once more, which does no harm.
    const takenBack = await rollBacks(db, id);
    expect(takenBack).toBeGreaterThanOrEqual(3);
    // Each time was counted before it was done, so that it never goes on for ever.
    const { rows } = await db.$client.execute({ sql: "SELECT attempts FROM jobs WHERE id = ?", args: [id] });
    expect(takenBack).toBeLessThanOrEqual(Number(rows[0]![0]));
    expect(Number(rows[0]![0])).toBeLessThanOrEqual(5);
  });
});

describe("a job that pauses", () => {
  it("lets the workspace's other jobs in between, and goes on where it was", async () => {
    const { db } = await testWorkspace();
    const { id } = await ask(db, "pauses");
    while ((await findJob(db, id))!.progress.done === 0) await sleep(20);
    const between = await ended(db, (await ask(db, "works")).id);
    expect(between.state).toBe("done");
    expect((await findJob(db, id))!.state).not.toBe("done");
    expect(await ended(db, id)).toMatchObject({ state: "done", result: { days: 3 } });
  });
});

describe("hands", () => {
  it("are known to be at work as long as one lives", async () => {
    hands.warm();
    for (let i = 0; i < 200 && !(await areHandsAtWork()); i++) await sleep(25);
    expect(await areHandsAtWork()).toBe(true);
  });
});
