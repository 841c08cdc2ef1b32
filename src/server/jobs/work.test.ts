import { eq } from "drizzle-orm";
import { describe, expect, it } from "vitest";
import { giveUp } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { jobs } from "@/db/schema";
import { testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { cancelJob, enqueueJob, findJob, listJobs } from "./jobs";
import {
  claimJob,
  countAttempt,
  lostJobs,
  recoverJob,
  runJob,
  type JobContext,
  type JobHandler,
  type JobHandlers,
} from "./work";

/** Handlers that do what a test says, and count their roll-backs. */
function handlers(run: (context: JobContext) => Promise<unknown>) {
  const seen = { rolledBack: 0 };
  const handler: JobHandler = {
    run: (context) => run(context),
    rollBack: async () => {
      seen.rolledBack++;
    },
  };
  const all: JobHandlers = {
    "feed-import": handler,
    "feed-fetch": handler,
    "catalogue-finish": handler,
    "link-check": handler,
    "planogram-apply": handler,
    "copy-apply": handler,
    "copy-keep-up": handler,
    dispatch: handler,
    "market-run": handler,
    "market-compare": handler,
    "report-import": handler,
    "report-undo": handler,
    "account-edit": handler,
    "account-edit-undo": handler,
    shelves: handler,
    "planogram-steps": handler,
    "channel-places": handler,
    "channel-read": handler,
    "channel-reports": handler,
    "standing-orders": handler,
    experiments: handler,
    stocktake: handler,
    alerts: handler,
    "alert-messages": handler,
    "make-ready": handler,
  };
  return { all, seen };
}

/** Takes up what a dead runner left, as the next one does. @returns how many there were */
async function recoverJobs(db: Database, info: WorkspaceInfo, all: JobHandlers): Promise<number> {
  const lost = await lostJobs(db, new Set());
  for (const job of lost) await recoverJob(db, info, all, await countAttempt(db, job));
  return lost.length;
}

describe("a job", () => {
  it("is taken by one runner only, oldest first", async () => {
    const { db } = await testWorkspace();
    const first = await enqueueJob(db, "market-run", { n: 1 });
    await new Promise((resolve) => setTimeout(resolve, 3));
    const second = await enqueueJob(db, "market-run", { n: 2 });
    const taken = await Promise.all([claimJob(db, "a"), claimJob(db, "b"), claimJob(db, "c")]);
    const ids = taken.flatMap((job) => (job ? [job.id] : []));
    expect(new Set(ids).size).toBe(ids.length);
    expect(ids[0]).toBe(first.id);
    while (await claimJob(db, "d"));
    expect((await findJob(db, second.id))!.state).toBe("running");
  });

  it("ends done with its result, or failed with its sentence after rolling back", async () => {
    const { db, info } = await testWorkspace();
    const good = await enqueueJob(db, "market-run", {});
    const fine = handlers(async () => ({ days: 3 }));
    await runJob(db, info, fine.all, (await claimJob(db, "t", { id: good.id }))!);
    // Days that were run may move items to other shelves, and views are new after it; each waits as a job of its own, once.
    await runJob(db, info, fine.all, (await claimJob(db, "t", { id: (await enqueueJob(db, "market-run", {})).id }))!);
    expect((await listJobs(db)).map(({ kind, state }) => `${kind} ${state}`).sort()).toEqual([
      ...["make-ready waiting", "market-run done", "market-run done", "shelves waiting"],
    ]);
    // Views are made ready last, whatever was asked for since.
    const later = await enqueueJob(db, "link-check", {});
    const order = [await claimJob(db, "t"), await claimJob(db, "t"), await claimJob(db, "t")];
    expect(order.map((job) => job?.kind)).toEqual(["link-check", "shelves", "make-ready"]);
    await runJob(db, info, fine.all, order[0]!);
    expect((await findJob(db, later.id))!.state).toBe("done");
    const bad = await enqueueJob(db, "market-run", {});
    const failing = handlers(async () => giveUp("no-luck", "It did not work.", "Try again."));
    await runJob(db, info, failing.all, (await claimJob(db, "t", { id: bad.id }))!);
    const [last, done] = [await findJob(db, bad.id), await findJob(db, good.id)];
    expect(done).toMatchObject({ state: "done", result: { days: 3 }, error: null });
    expect(last).toMatchObject({ id: bad.id, state: "failed", error: { code: "no-luck", hint: "Try again." } });
    expect([fine.seen.rolledBack, failing.seen.rolledBack]).toEqual([0, 1]);
  });

  it("that breaks unexpectedly shows a reference, not the reason", async () => {
    const { db, info } = await testWorkspace();
    const { id } = await enqueueJob(db, "dispatch", {});
    const { all } = handlers(async () => {
      throw new Error("SELECT secret FROM /etc/passwd");
    });
    await runJob(db, info, all, (await claimJob(db, "t"))!);
    const job = (await findJob(db, id))!;
    expect(job.error!.code).toBe("unexpected");
    expect(job.error!.message).toContain(id.slice(0, 8));
    expect(JSON.stringify(job)).not.toContain("secret");
  });

  it("is cancelled at once while it waits, and at its next step while it runs", async () => {
    const { db, info } = await testWorkspace();
    const waiting = await enqueueJob(db, "market-run", {});
    expect((await cancelJob(db, waiting.id))!.state).toBe("cancelled");
    expect(await claimJob(db, "t")).toBeNull();
    const { id } = await enqueueJob(db, "market-run", {});
    let steps = 0;
    const { all, seen } = handlers(async ({ progress }) => {
      for (; steps < 50; steps++) {
        if (steps === 2) await cancelJob(db, id);
        await progress(steps, 50, "steps");
        await new Promise((resolve) => setTimeout(resolve, 210));
      }
    });
    await runJob(db, info, all, (await claimJob(db, "t"))!);
    expect(await findJob(db, id)).toMatchObject({
      state: "cancelled",
      progress: { done: 2, total: 50, unit: "steps" },
    });
    expect([steps, seen.rolledBack]).toEqual([2, 1]);
    expect((await cancelJob(db, id))!.state).toBe("cancelled");
  });

  it("says how long a running one gave no sign, and nothing of one that waits", async () => {
    const { db } = await testWorkspace();
    const { id } = await enqueueJob(db, "market-run", {});
    expect((await findJob(db, id))!.quietFor).toBeNull();
    await claimJob(db, "t");
    expect((await findJob(db, id))!.quietFor).toBeLessThan(60_000);
    await db
      .update(jobs)
      .set({ heartbeat: Date.now() - 300_000 })
      .where(eq(jobs.id, id));
    expect((await findJob(db, id))!.quietFor).toBeGreaterThanOrEqual(300_000);
  });

  it("left by a dead runner is rolled back and waits again, three times at most", async () => {
    const { db, info } = await testWorkspace();
    const { id } = await enqueueJob(db, "feed-import", {});
    const { all, seen } = handlers(async () => null);
    for (const state of ["waiting", "waiting", "failed"]) {
      await claimJob(db, "gone");
      expect(await recoverJobs(db, info, all)).toBe(1);
      expect((await findJob(db, id))!.state).toBe(state);
    }
    expect((await findJob(db, id))!.error!.code).toBe("job-lost");
    expect(seen.rolledBack).toBe(3);
    expect(await recoverJobs(db, info, all)).toBe(0);
  });

  it("that ends while its runner looks for lost ones is none of them", async () => {
    const { db } = await testWorkspace();
    await enqueueJob(db, "shelves", {});
    const own = new Set([(await claimJob(db, "a"))!.id]);
    const lost = lostJobs(db, own);
    own.clear();
    expect(await lost).toEqual([]);
    expect(await lostJobs(db, own)).toHaveLength(1);
  });

  it("whose runner died after it was told to stop ends cancelled", async () => {
    const { db, info } = await testWorkspace();
    const { id } = await enqueueJob(db, "feed-import", {});
    await claimJob(db, "gone");
    await cancelJob(db, id);
    await recoverJobs(db, info, handlers(async () => null).all);
    const [row] = await db.select().from(jobs).where(eq(jobs.id, id));
    expect(row).toMatchObject({ state: "cancelled", error: null });
  });
});
