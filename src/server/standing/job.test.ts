import { beforeAll, beforeEach, describe, expect, it } from "vitest";
import { testCampaign } from "@/core/market/test-shop";
import type { StandingOrder } from "@/core/moves/standing-order";
import type { Database } from "@/db/client";
import { dispatches, jobs, standingOrders, standingRuns } from "@/db/schema";
import { addRecords } from "../account/commit";
import { editAccount } from "../account/edits";
import { readAccount } from "../account/state";
import { removeFromBasket } from "../dispatch/take-out";
import { startMarketRun } from "../market/run-days";
import { listOrders, lookAtOrder, makeOrder, removeOrder, switchOrder } from "../moves/standing-orders";
import { openMoves, viewMoves } from "../moves/moves";
import { importFeed, runToEnd, runWaiting, testWorkspace } from "../testing";
import { changeWorkspace, type WorkspaceInfo } from "../workspaces";
import { makeDueOrders, queueDueOrders } from "./job";

const FEED = `id,title,price,category,brand,cost\n${Array.from({ length: 40 }, (_, i) => {
  const kind = i % 2 === 0 ? "Rake" : "Hose";
  return `${i + 1},Oak ${kind} ${i + 1},${(9 + 3 * i).toFixed(2)},Garden > ${kind}s,Brackwell,${(4 + i).toFixed(2)}`;
}).join("\n")}\n`;
const IDS = Array.from({ length: 40 }, (_, i) => String(i + 1));

let db: Database;
let info: WorkspaceInfo;

const ORDER: StandingOrder = {
  ...{ name: "Bids", kinds: ["item-bids"], every: 7, most: 5, step: null, spend: null, direction: "both", never: [] },
  guard: { leastReturn: null, mostSpend: null },
};
const make = async (over: Partial<StandingOrder> = {}) => {
  const made = await makeOrder(db, info, "ann", { ...ORDER, ...over });
  if (!made.ok) throw new Error(made.error.message);
  return made.value.id;
};
const runDays = async (days: number) => {
  expect((await startMarketRun(db, info, { days, seed: "standing" })).ok).toBe(true);
  await runWaiting(db, info);
};
const runDue = async () => {
  await queueDueOrders(db);
  await runWaiting(db, info);
};
/** Makes what is due, with something that happens in the account while its moves are worked out. */
const runWhile = async (happens: () => Promise<unknown>) => {
  await makeDueOrders({ db, info }, async (...asked) => {
    const found = await openMoves(...asked);
    await happens();
    return found;
  });
  await runWaiting(db, info);
};
const lastRun = async () => (await db.select().from(standingRuns)).at(-1);
const sentCount = async () => (await db.select().from(dispatches)).length;
const logged = async () => {
  const { rows } = await db.$client.execute(
    "SELECT what, who FROM change_log WHERE about LIKE 'standing-order/%' ORDER BY at",
  );
  return rows.map((row) => String(row["what"]));
};

beforeAll(async () => {
  ({ db, info } = await testWorkspace());
  await importFeed({ db, info }, FEED);
  const start = testCampaign("c:all", { name: "All", dailyBudget: 80_000 }, IDS, 300);
  await addRecords(db, start, "tester", "start");
  expect((await runToEnd(db, info, "dispatch", { takesBack: null })).error).toBeNull();
  await runDays(21);
}, 120_000);

beforeEach(async () => {
  await db.delete(standingOrders);
  await db.delete(standingRuns);
  const { version, waiting } = await readAccount(db);
  if (waiting > 0) await removeFromBasket(db, info, "t", { keys: "all" }, version);
});

describe("a standing order", () => {
  it("watches first: it says what it would do, and nothing goes out", async () => {
    await make();
    const sent = await sentCount();
    await runDue();
    expect(await lastRun()).toMatchObject({ outcome: "watched", moves: 5, changes: 0 });
    expect([await sentCount(), (await readAccount(db)).waiting]).toEqual([sent, 0]);
    // On the same results it is not made again.
    await queueDueOrders(db);
    expect((await db.select().from(jobs)).filter(({ state }) => state === "waiting")).toEqual([]);
    const [line] = await listOrders(db, info);
    expect(line).toMatchObject({ state: "watching", limits: "every 7 days, at most 5 moves; no guard" });
    expect(line!.runs).toHaveLength(1);
  });

  it("switched on sends its moves by itself, with the log saying so, and waits its days until the next time", async () => {
    const id = await make();
    const look = await lookAtOrder(db, info, ORDER);
    expect(look.ok && look.value).toMatchObject({ moves: 5, stops: null });
    expect((await switchOrder(db, "ann", id, "on", "")).ok).toBe(true);
    const sent = await sentCount();
    await runDue();
    expect(await lastRun()).toMatchObject({ outcome: "sent", moves: 5, note: "" });
    expect([await sentCount(), (await readAccount(db)).waiting]).toEqual([sent + 1, 0]);
    const [dispatch] = (await db.select().from(dispatches)).slice(-1);
    expect(dispatch!.who).toBe("Hot Shelf");
    expect(await logged()).toEqual(
      expect.arrayContaining([
        "Standing order “Bids” switched on: its moves go out by themselves",
        "Standing order “Bids”: 5 moves sent",
      ]),
    );
    await runDays(6);
    await runDue();
    expect(await db.select().from(standingRuns)).toHaveLength(1);
    await runDays(1);
    await runDue();
    expect(await db.select().from(standingRuns)).toHaveLength(2);
    expect((await switchOrder(db, "ann", id, "stopped", "Enough")).ok).toBe(true);
    await runDays(7);
    await runDue();
    expect(await db.select().from(standingRuns)).toHaveLength(2);
  });

  it("sends nothing past what a person decided and has not sent, nor past approval", async () => {
    const id = await make();
    await switchOrder(db, "ann", id, "on", "");
    const edit = { action: "budget" as const, keys: ["c:all"], op: { how: "set" as const, mills: 81_000 } };
    expect((await editAccount(db, "ann", null, edit, "EUR")).ok).toBe(true);
    const sent = await sentCount();
    await runDue();
    expect(await lastRun()).toMatchObject({
      outcome: "waits",
      note: "Something else waits in the basket, and goes out with it.",
    });
    expect(await sentCount()).toBe(sent);
    expect((await readAccount(db)).waiting).toBeGreaterThan(1);
  });

  it("sends nothing that somebody decided while it was worked out, nor once it was stopped meanwhile", async () => {
    const id = await make();
    await switchOrder(db, "ann", id, "on", "");
    const edit = { action: "budget" as const, keys: ["c:all"], op: { how: "add" as const, mills: 500 } };
    const sent = await sentCount();
    await runWhile(() => editAccount(db, "ann", null, edit, "EUR"));
    expect(await lastRun()).toMatchObject({
      outcome: "waits",
      note: "Something else waits in the basket, and goes out with it.",
    });
    expect(await sentCount()).toBe(sent);
    const { version } = await readAccount(db);
    await removeFromBasket(db, info, "t", { keys: "all" }, version);
    await switchOrder(db, "ann", id, "stopped", "");
    await switchOrder(db, "ann", id, "on", "");
    await runWhile(() => switchOrder(db, "ann", id, "stopped", "Too much"));
    expect(await lastRun()).toMatchObject({ outcome: "waits", note: "It was stopped while this was worked out." });
    expect(await sentCount()).toBe(sent);
  });

  it("waits for approval where somebody has to give it", async () => {
    expect((await changeWorkspace(db, { approval: true })).ok).toBe(true);
    const id = await make();
    await switchOrder(db, "ann", id, "on", "");
    await runDue();
    expect(await lastRun()).toMatchObject({ outcome: "waits", note: "Somebody has to approve what is sent." });
    await changeWorkspace(db, { approval: false });
  });

  it("is stopped by its guard, with the reason in the log", async () => {
    const id = await make({ guard: { leastReturn: 900, mostSpend: null } });
    await switchOrder(db, "ann", id, "on", "");
    const sent = await sentCount();
    await runDue();
    expect(await lastRun()).toMatchObject({ outcome: "stopped", moves: 0 });
    const [line] = await listOrders(db, info);
    expect(line).toMatchObject({ state: "stopped", who: "Hot Shelf" });
    expect(line!.why).toContain("below 900.00");
    expect(await sentCount()).toBe(sent);
  });

  it("takes what the list of moves shows, and no kind or name that is none", async () => {
    const moves = await viewMoves(db, info, { q: "", show: "open", kind: "item-bids" }, 0, 10);
    const look = await lookAtOrder(db, info, { ...ORDER, most: 3 });
    if (!moves.ok || !look.ok) throw new Error("no moves");
    expect(look.value.words).toEqual(moves.value.lines.slice(0, 3).map(({ about, what }) => `${about}: ${what}`));
    expect((await makeOrder(db, info, "ann", { ...ORDER, kinds: ["wishes"] })).ok).toBe(false);
    const id = await make();
    expect((await makeOrder(db, info, "ann", ORDER)).ok).toBe(false);
    expect((await removeOrder(db, id)).ok).toBe(true);
    expect(await removeOrder(db, id)).toMatchObject({ ok: false, error: { code: "order-gone" } });
    expect(await switchOrder(db, "ann", id, "on", "")).toMatchObject({ ok: false });
  });
});
