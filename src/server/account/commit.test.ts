import { beforeEach, describe, expect, it } from "vitest";
import { recordSchema, type AccountRecord } from "@/core/account/records";
import { Draft } from "@/core/account/draft";
import { ok } from "@/core/kit/outcome";
import { openDatabase, type Database } from "@/db/client";
import { changeLog } from "@/db/schema";
import { viewBasket } from "../dispatch/basket";
import { removeFromBasket } from "../dispatch/take-out";
import { approveBasket } from "./approval";
import { startDispatch, takeBackChanges, takeBackDispatch } from "../dispatch/dispatches";
import { dispatchJob } from "../dispatch/send";
import { cancelJob, findJob } from "../jobs/jobs";
import { claimJob, runJob, type JobHandlers } from "../jobs/work";
import { actAs } from "../person";
import { jobHandlers } from "../runner/handlers";
import { liveStructure, plannedStructure, runWaiting, testWorkspace } from "../testing";
import { changeWorkspace, type WorkspaceInfo } from "../workspaces";
import { addRecords, commit } from "./commit";
import { editAccount, takeBackEdit } from "./edits";
import { readAccount } from "./state";

let db: Database;
let info: WorkspaceInfo;

function campaign(key: string): AccountRecord {
  const base = { kind: "feed", purpose: "scale", bidding: "fixed", goal: null, status: "on", serveOrder: 3 };
  return recordSchema.parse({
    ...{ type: "campaign", key, name: key, dailyBudget: 10_000, inStockOnly: false, origin: null },
    ...base,
  });
}

beforeEach(async () => {
  ({ db, info } = await testWorkspace());
  const keys = ["a", "b", "c"];
  await addRecords(db, Object.fromEntries(keys.map((key) => [key, campaign(key)])), "tester", "start");
  await send();
});

/** Sends the basket as a person does, and has the runner do it. */
async function send(): Promise<number> {
  const job = await startDispatch(db, "tester", null);
  if (!job.ok) throw new Error(job.error.message);
  await runWaiting(db, info);
  return ((await findJob(db, job.value.id))!.result as { dispatch: number }).dispatch;
}

function budget(key: string, dailyBudget: number, stamp: number | null = null, who = "tester") {
  return editAccount(db, who, stamp, { action: "budget", keys: [key], op: { how: "set", mills: dailyBudget } }, "EUR");
}

async function budgets(read: typeof liveStructure): Promise<Record<string, number>> {
  const records = Object.values(await read(db));
  return Object.fromEntries(records.map((record) => [record.key, (record as { dailyBudget: number }).dailyBudget]));
}

describe("sending", () => {
  it("takes what was there when it was asked for; an edit made while it is under way stays in the basket", async () => {
    await budget("a", 20_000);
    await budget("b", 21_000);
    expect((await startDispatch(db, "tester", null)).ok).toBe(true);
    // The runner has not begun, then is in the middle of it: both times somebody goes on working.
    await budget("a", 30_000);
    const job = (await claimJob(db, "test"))!;
    const handlers: JobHandlers = {
      ...jobHandlers,
      dispatch: {
        ...dispatchJob,
        run: (context, input) =>
          dispatchJob.run(
            {
              ...context,
              progress: async () => {
                await budget("c", 40_000);
              },
            },
            input,
          ),
      },
    };
    await runJob(db, info, handlers, job);
    expect((await findJob(db, job.id))!.state).toBe("done");
    expect(await budgets(liveStructure)).toEqual({ a: 20_000, b: 21_000, c: 10_000 });
    expect(await budgets(plannedStructure)).toEqual({ a: 30_000, b: 21_000, c: 40_000 });
    await send();
    expect(await budgets(liveStructure)).toEqual({ a: 30_000, b: 21_000, c: 40_000 });
    expect((await viewBasket(db, info)).total).toBe(0);
  });

  it("is refused when the basket is not what the person looked at, or one is on its way", async () => {
    await budget("a", 20_000);
    const { version } = await viewBasket(db, info);
    await budget("b", 21_000);
    expect(await startDispatch(db, "tester", version)).toMatchObject({ error: { code: "basket-moved" } });
    expect(await budgets(liveStructure)).toEqual({ a: 10_000, b: 10_000, c: 10_000 });
    expect((await startDispatch(db, "tester", (await viewBasket(db, info)).version)).ok).toBe(true);
    expect(await startDispatch(db, "tester", null)).toMatchObject({ error: { code: "dispatch-under-way" } });
    // What is on its way can't be taken out any more.
    expect(await removeFromBasket(db, info, "tester", { keys: ["a"] })).toMatchObject(ok({ removed: 0 }));
    await runWaiting(db, info);
    expect(await budgets(liveStructure)).toEqual({ a: 20_000, b: 21_000, c: 10_000 });
  });

  it("that fails or is cancelled leaves all in the basket, with what was decided since on top", async () => {
    await budget("a", 20_000);
    const job = await startDispatch(db, "tester", null);
    if (!job.ok) throw new Error(job.error.message);
    await budget("a", 33_000);
    await cancelJob(db, job.value.id);
    expect(await budgets(plannedStructure)).toEqual({ a: 33_000, b: 10_000, c: 10_000 });
    expect((await viewBasket(db, info)).total).toBe(1);
    await budget("b", 10);
    expect((await startDispatch(db, "tester", null)).ok).toBe(true);
    await runWaiting(db, info);
    expect(await budgets(liveStructure)).toEqual({ a: 10_000, b: 10_000, c: 10_000 });
    // Mended, it goes out.
    await budget("b", 11_000);
    await send();
    expect(await budgets(liveStructure)).toEqual({ a: 33_000, b: 11_000, c: 10_000 });
    expect((await viewBasket(db, info)).total).toBe(0);
  });
});

describe("a change that was taken out of the basket, or cancelled out", () => {
  const seenVersion = async () => (await viewBasket(db, info)).version;
  const raise = (stamp: number) =>
    editAccount(db, "ben", stamp, { action: "budget", keys: ["a"], op: { how: "percent", percent: 10 } }, "EUR");

  it("is told to whoever builds on having seen it, who then builds on nothing else", async () => {
    await budget("a", 50_000);
    const seen = await seenVersion();
    expect(await removeFromBasket(db, info, "cleo", { keys: ["a"] })).toMatchObject(ok({ removed: 1 }));
    const refused = await raise(seen);
    expect(refused).toMatchObject({ error: { code: "account-moved", message: expect.stringContaining("by cleo") } });
    expect(await budgets(plannedStructure)).toMatchObject({ a: 10_000 });
    // Looked at as it is now, it may.
    expect((await raise(await seenVersion())).ok).toBe(true);
    expect(await budgets(plannedStructure)).toMatchObject({ a: 11_000 });
  });

  it("also where another edit set it back to what the channel has", async () => {
    await budget("a", 50_000);
    const seen = await seenVersion();
    await budget("a", 10_000, null, "dan");
    expect((await viewBasket(db, info)).total).toBe(0);
    expect(await raise(seen)).toMatchObject({ error: { message: expect.stringContaining("by dan") } });
    expect((await budget("b", 12_000, seen)).ok).toBe(true);
  });
});

describe("changes made at the same time", () => {
  it("are all there afterwards: fifty writers over three connections, none lost", async () => {
    const others = await Promise.all(
      [1, 2].map(() => openDatabase(`file:${process.env["HOTSHELF_DATA_DIR"]}/${info.slug}.db`)),
    );
    const doors = [db, ...others];
    const keys = Array.from({ length: 50 }, (_, i) => `n${i}`);
    const tried = new Set<string>();
    await Promise.all(
      keys.map(async (key, i) => {
        for (;;) {
          tried.add(key);
          const done = await addRecords(doors[i % doors.length]!, { [key]: campaign(key) }, `w${i}`, "");
          if (done.ok) return;
          expect(done.error.code).toBe("account-busy");
        }
      }),
    );
    expect(tried.size).toBe(50);
    expect(
      Object.keys(await plannedStructure(db))
        .filter((key) => key.startsWith("n"))
        .sort(),
    ).toEqual(keys.sort());
    expect((await readAccount(db)).rows.length).toBe(50);
  });

  it("decide on what is there when they are written, not on what was there when they began", async () => {
    let rounds = 0;
    const done = await commit(db, "tester", null, async ({ planned }) => {
      rounds++;
      const now = planned.find("campaign", "a")!;
      // Another one writes between the reading and the writing, once.
      if (rounds === 1) await budget("a", 15_000);
      const draft = new Draft(planned);
      draft.put({ ...now, dailyBudget: now.dailyBudget + 1_000 });
      return ok({ into: { draft, cause: { kind: "records" as const, id: "" }, reason: "t" }, told: null, value: null });
    });
    expect(done.ok).toBe(true);
    expect(rounds).toBe(2);
    expect((await budgets(plannedStructure))["a"]).toBe(16_000);
  });

  it("that were drafted on the account as it was before are no changes of it as it is", async () => {
    const { planned } = await readAccount(db);
    const draft = new Draft(planned);
    draft.put({ ...planned.find("campaign", "a")!, dailyBudget: 99_000 });
    await budget("b", 16_000);
    const into = { draft, cause: { kind: "records" as const, id: "" }, reason: "late" };
    await expect(commit(db, "tester", null, () => ok({ into, told: null, value: null }))).rejects.toThrow("drafted");
    expect((await budgets(plannedStructure))["a"]).not.toBe(99_000);
  });

  it("of one record are refused to whoever did not see the other one, and say by whom", async () => {
    const { version } = await readAccount(db);
    expect((await budget("a", 15_000, version, "Ada")).ok).toBe(true);
    const late = await budget("a", 16_000, version, "Ben");
    expect(late).toMatchObject({ error: { code: "account-moved" } });
    expect(!late.ok && late.error.message).toBe('"a" was changed meanwhile by Ada. Nothing was changed.');
    // Other records are nobody's concern.
    expect((await budget("b", 16_000, version, "Ben")).ok).toBe(true);
    expect(await budgets(plannedStructure)).toEqual({ a: 15_000, b: 16_000, c: 10_000 });
  });
});

describe("taking back", () => {
  it("an edit is refused once it was changed again", async () => {
    const first = await budget("a", 20_000);
    await budget("a", 25_000);
    if (!first.ok) throw new Error(first.error.message);
    expect(await takeBackEdit(db, "tester", first.value.diff)).toMatchObject({ error: { code: "change-overtaken" } });
    expect((await budgets(plannedStructure))["a"]).toBe(25_000);
  });

  it("and taking that back never wipes a later change", async () => {
    await budget("a", 20_000);
    const first = await send();
    const back = async (id: number) => {
      const job = await takeBackDispatch(db, id);
      if (!job.ok) return job;
      await runWaiting(db, info);
      return (await findJob(db, job.value.id))!.result as { dispatch: number };
    };
    const second = (await back(first)) as { dispatch: number };
    await budget("a", 15_000);
    const third = await send();
    const fourth = (await back(third)) as { dispatch: number };
    await back(fourth.dispatch);
    expect((await budgets(liveStructure))["a"]).toBe(15_000);
    // Taking back the second would set 20.00 and lose the 15.00 that came after it.
    expect(await back(second.dispatch)).toMatchObject({ error: { code: "dispatch-overtaken" } });
    expect((await budgets(liveStructure))["a"]).toBe(15_000);
  });

  it("goes past what else waits in the basket, and stops for what it would meet there", async () => {
    await budget("a", 20_000);
    const sent = await send();
    await budget("b", 12_000);
    const job = await takeBackDispatch(db, sent);
    expect(job.ok).toBe(true);
    await runWaiting(db, info);
    expect(await budgets(liveStructure)).toEqual({ a: 10_000, b: 10_000, c: 10_000 });
    expect((await budgets(plannedStructure))["b"]).toBe(12_000);
    const later = await send();
    await budget("b", 14_000);
    expect(await takeBackDispatch(db, later)).toMatchObject({ error: { code: "basket-in-use" } });
  });
});

describe("taking back where somebody approves what is sent", () => {
  it("goes through the basket and waits for approval like anything else", async () => {
    await budget("a", 20_000);
    await budget("b", 21_000);
    const sent = await send();
    await changeWorkspace(db, { approval: true });
    expect(await takeBackDispatch(db, sent)).toMatchObject({ error: { code: "approval-missing" } });
    await runWaiting(db, info);
    expect(await budgets(liveStructure)).toEqual({ a: 20_000, b: 21_000, c: 10_000 });
    expect(await takeBackChanges(db, "ben", sent, { keys: "all" })).toEqual(ok({ changes: 2 }));
    expect(await budgets(plannedStructure)).toEqual({ a: 10_000, b: 10_000, c: 10_000 });
    expect(await startDispatch(db, "ben", null)).toMatchObject({ error: { code: "approval-missing" } });
    await approveBasket(db, "cleo", (await viewBasket(db, info)).version, true);
    await send();
    expect(await budgets(liveStructure)).toEqual({ a: 10_000, b: 10_000, c: 10_000 });
  });
});

describe("who it was", () => {
  it("stands in the basket, in the history and in the change log", async () => {
    await actAs("Ada", () => budget("a", 20_000, null, "Ada"));
    expect((await viewBasket(db, info)).changes.map(({ who }) => who)).toEqual(["Ada"]);
    await actAs("Ben", () => startDispatch(db, "Ben", null));
    await runWaiting(db, info);
    const { rows } = await db.$client.execute("SELECT who FROM dispatches ORDER BY id DESC LIMIT 1");
    expect(rows[0]![0]).toBe("Ben");
    const log = await db.select().from(changeLog);
    expect(log.map(({ who, what }) => `${who}: ${what}`).at(-1)).toBe("Ben: Dispatch 2 sent: 1 change");
    expect(log.every(({ who }) => who !== "you")).toBe(true);
  });
});
