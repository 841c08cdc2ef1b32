import fc from "fast-check";
import { beforeAll, describe, expect, it } from "vitest";
import { applyDiff, diffRecords, invertDiff } from "@/core/kit/diff";
import type { Structure } from "@/core/account/account";
import type { Edit } from "@/core/account/acts";
import { recordsOf } from "@/core/account/testing";
import { testCampaign } from "@/core/market/test-shop";
import type { Database } from "@/db/client";
import { dispatchChanges } from "@/db/schema";
import { claimJob, runJob } from "../jobs/work";
import { jobHandlers } from "../runner/handlers";
import { editAccount } from "../account/edits";
import { walkAccount } from "../account/serving";
import { listPlanograms, savePlanogram } from "../planogram/planograms";
import { addToBasket, importFeed, runToEnd, testWorkspace, liveStructure, plannedStructure } from "../testing";
import { changeWorkspace, type WorkspaceInfo } from "../workspaces";
import { viewBasket } from "./basket";
import { removeFromBasket } from "./take-out";
import { listDispatches, takeBackChanges, takeBackDispatch, viewDispatch } from "./dispatches";
import { approvalOf, approveBasket } from "../account/approval";
import { startDispatch } from "./dispatches";
import { lookAtArrival } from "./send";
import { asDiff, plannedAccount, readAccount } from "../account/state";

const FEED = `id,title,price,brand\n${Array.from({ length: 12 }, (_, i) => `I${i},Item ${i},${i + 1},Maker ${i % 3}`).join("\n")}\n`;

let workspace: { db: Database; info: WorkspaceInfo };
let begin: Structure;

beforeAll(async () => {
  workspace = await testWorkspace();
  const { db, info } = workspace;
  await importFeed(workspace, FEED);
  await savePlanogram(db, {
    key: "by-brand",
    name: "By brand",
    ladder: [{ by: "brand", largest: null }],
    campaignLine: 1,
    adGroupLine: 1,
    inStockOnly: true,
    campaignName: [{ kind: "field", field: "level-1" }],
    adGroupName: [{ kind: "field", field: "level-1" }],
    purpose: "scale",
    bidding: "fixed",
    goal: null,
    totalBudget: 30_000,
    shareBy: "items",
    startingBid: 300,
    serveOrder: 3,
    replaces: [],
  });
  await runToEnd(db, info, "planogram-apply", { planogram: "by-brand" });
  await runToEnd(db, info, "dispatch", { takesBack: null });
  begin = structuredClone(await liveStructure(db));
});

/** An edit by numbers, made out for the account as it is when its turn comes. */
function editFrom([kind, at, amount]: [number, number, number], structure: Structure): Edit {
  const campaigns = recordsOf(structure, "campaign");
  const keys = [campaigns[at % campaigns.length]!.key];
  const items = [`I${at % 12}`];
  const edits: Edit[] = [
    { action: "budget", keys, op: { how: "set", mills: 1_000 + amount } },
    { action: "status", keys, status: amount % 2 ? "paused" : "on" },
    { action: "item-bid", items, op: { how: "set", mills: 50 + amount } },
    { action: "exclude", items, reason: "wasteful", reviewOn: null, campaign: null },
    { action: "include", items },
    { action: "serve-order", keys, serveOrder: 1 + (amount % 9) },
  ];
  return edits[kind % edits.length]!;
}

const anyEdit = fc.tuple(fc.nat(20), fc.nat(40), fc.nat(900));

async function edit(numbers: [number, number, number]): Promise<void> {
  const { db } = workspace;
  // Some edits do not fit (a bid for an item that nothing serves); those say so and change nothing.
  await editAccount(db, "tester", null, editFrom(numbers, await plannedStructure(db)), "EUR");
}

describe("the account over any history", () => {
  it("is the channel's records with the basket on it, and emptying the basket brings the channel's back", async () => {
    const { db, info } = workspace;
    await fc.assert(
      fc.asyncProperty(fc.array(anyEdit, { maxLength: 8 }), async (edits) => {
        const live = structuredClone(await liveStructure(db));
        for (const numbers of edits) await edit(numbers);
        const planned = await plannedStructure(db);
        const diff = (await readAccount(db)).held;
        expect(applyDiff(live, diff)).toEqual(planned);
        expect(applyDiff(planned, invertDiff(diff))).toEqual(live);
        const basket = await viewBasket(db, info);
        expect(basket.total).toBe(
          Object.keys(diff.added).length + Object.keys(diff.changed).length + Object.keys(diff.removed).length,
        );
        const { serving } = await walkAccount(db, await plannedAccount(db));
        const served = new Set(serving.flatMap(({ rows }) => [...rows]));
        expect(12 - basket.homes.none).toBe(served.size);
        await removeFromBasket(db, info, "tester", { keys: "all" });
        expect(await plannedStructure(db)).toEqual(live);
      }),
      { numRuns: 15 },
    );
  });

  it("keeps why each of its changes was made", async () => {
    const { db, info } = workspace;
    const [first, second] = (await plannedAccount(db)).all("campaign");
    const amounts = [
      { key: first!.key, mills: 9_100, reason: "dry by noon" },
      { key: second!.key, mills: 9_200 },
    ];
    await editAccount(db, "ann", null, { action: "amounts", of: "budget", amounts }, info.currency);
    const { dispatch } = (await runToEnd(db, info, "dispatch", { takesBack: null })).result as { dispatch: number };
    const view = await viewDispatch(db, info, dispatch);
    expect(view.ok && view.value.changes.map(({ key, reason }) => [key, reason]).sort()).toEqual(
      [
        [first!.key, "dry by noon"],
        [second!.key, "2 daily budgets set, each to its own"],
      ].sort(),
    );
    expect((await runToEnd(db, info, "dispatch", { takesBack: dispatch })).error).toBeNull();
  });

  it("goes back dispatch by dispatch to where it began, to the record", async () => {
    const { db, info } = workspace;
    const states = [structuredClone(await liveStructure(db))];
    const sent: number[] = [];
    for (const edits of [
      [
        [0, 1, 7],
        [2, 3, 40],
      ],
      [
        [2, 3, 90],
        [3, 4, 0],
      ],
      [
        [1, 2, 1],
        [2, 7, 11],
        [4, 4, 0],
      ],
    ] as [number, number, number][][]) {
      for (const numbers of edits) await edit(numbers);
      const job = await runToEnd(db, info, "dispatch", { takesBack: null });
      expect(job.error).toBeNull();
      sent.push((job.result as { dispatch: number }).dispatch);
      states.push(structuredClone(await liveStructure(db)));
    }
    // The oldest can't be taken back while a later one stands on the same record.
    expect(await takeBackDispatch(db, sent[0]!)).toMatchObject({ ok: false, error: { code: "dispatch-overtaken" } });
    for (let i = sent.length - 1; i >= 0; i--) {
      const job = await takeBackDispatch(db, sent[i]!);
      expect(job.ok).toBe(true);
      await runJob(db, info, jobHandlers, (await claimJob(db, "test"))!);
      expect(await liveStructure(db)).toEqual(states[i]);
    }
    expect(await liveStructure(db)).toEqual(begin);
  });

  it("keeps what each dispatch changed, and its words", async () => {
    const { db, info } = workspace;
    const changes = await db.select().from(dispatchChanges);
    const rebuilt = [...new Set(changes.map(({ dispatch }) => dispatch))]
      .sort((a, b) => a - b)
      .reduce<Structure>(
        (state, id) => applyDiff(state, asDiff(changes.filter(({ dispatch }) => dispatch === id))),
        {},
      );
    expect(rebuilt).toEqual(await liveStructure(db));
    const first = await viewDispatch(db, info, 1);
    expect(first.ok && first.value.words).toEqual([
      "3 campaigns new.",
      "3 ad groups new.",
      "3 product groups new.",
      "Daily budgets in all: €0.00 → €30.00.",
    ]);
    expect(first.ok && first.value.changes.length).toBe(9);
    expect(await viewDispatch(db, info, 999)).toMatchObject({ ok: false });
  });
});

describe("what arrived", () => {
  it("is read back and held against what was meant, change by change", async () => {
    const { db, info } = workspace;
    const account = await plannedAccount(db);
    const [first, second] = account.all("campaign");
    const op = { how: "set" as const, mills: 7_777 };
    const budgets = { action: "budget" as const, keys: [first!.key, second!.key], op };
    await editAccount(db, "test", null, budgets, info.currency);
    const done = await runToEnd(db, info, "dispatch", { takesBack: null });
    const { dispatch } = done.result as { dispatch: number };
    const asMeant = async () => (await listDispatches(db)).find(({ id }) => id === dispatch)!;
    expect(await asMeant()).toMatchObject({ size: 2, asMeant: 2 });
    // As if the channel had kept another amount of one, and lost the other.
    const sql = "UPDATE channel_books SET body = json_set(body, '$.dailyBudget', 1) WHERE key = ?";
    const body = (await db.$client.execute({ sql: "SELECT body FROM channel_books WHERE key = ?", args: [first!.key] }))
      .rows;
    await db.$client.execute({ sql, args: [first!.key] });
    await lookAtArrival(db, info, dispatch);
    expect(await asMeant()).toMatchObject({ size: 2, asMeant: 1 });
    await db.$client.execute({
      sql: "UPDATE channel_books SET body = ? WHERE key = ?",
      args: [body[0]![0]!, first!.key],
    });
    await lookAtArrival(db, info, dispatch);
    expect(await asMeant()).toMatchObject({ asMeant: 2 });
  });
});

describe("a planogram applied again", () => {
  it("wants the same when its changes were thrown out of the basket or taken back, and leaves what people set once it was sent", async () => {
    const { db, info } = workspace;
    const [old] = recordsOf(await liveStructure(db), "campaign");
    const [row] = await listPlanograms(db);
    await savePlanogram(db, { ...row!.definition, key: "again", serveOrder: 5, replaces: [old!.key] });
    const apply = async () => (await runToEnd(db, info, "planogram-apply", { planogram: "again" })).result;
    const first = await apply();
    expect(first).toMatchObject({ kept: 0 });
    await removeFromBasket(db, info, "tester", { keys: "all" });
    expect(await apply()).toEqual(first);
    const sent = (await runToEnd(db, info, "dispatch", { takesBack: null })).result as { dispatch: number };
    expect((await liveStructure(db))[old!.key]).toMatchObject({ status: "paused" });
    const back = await runToEnd(db, info, "dispatch", { takesBack: sent.dispatch });
    expect(back.error).toBeNull();
    expect((await liveStructure(db))[old!.key]).toMatchObject({ status: "on" });
    expect(await apply()).toEqual(first);
    await runToEnd(db, info, "dispatch", { takesBack: null });
    // Sent and switched on again by hand: that is a decision, and it stays.
    await editAccount(db, "tester", null, { action: "status", keys: [old!.key], status: "on" }, "EUR");
    await runToEnd(db, info, "dispatch", { takesBack: null });
    expect(await apply()).toMatchObject({ changes: 0, kept: 1, keptByHand: [`${old!.name}: status`] });
  });
});

describe("taking back the making of a campaign", () => {
  it("is refused while ad groups hang in it, sent or waiting, since that could not be sent", async () => {
    const { db, info } = workspace;
    const made = testCampaign("c:own", { name: "Own" }, ["I0"], 500);
    const groups = testCampaign("c:own", { name: "Own" }, ["I1"], 500);
    await addToBasket(db, diffRecords({}, { "c:own": made["c:own"]! }));
    const first = (await runToEnd(db, info, "dispatch", { takesBack: null })).result as { dispatch: number };
    const { "c:own": _, ...below } = groups;
    await addToBasket(db, diffRecords({}, below));
    const waiting = await takeBackDispatch(db, first.dispatch);
    expect(waiting).toMatchObject({ ok: false, error: { code: "dispatch-holds-more" } });
    expect(await takeBackChanges(db, "test", first.dispatch, { keys: "all" })).toMatchObject({
      error: { code: "dispatch-holds-more" },
    });
    const second = (await runToEnd(db, info, "dispatch", { takesBack: null })).result as { dispatch: number };
    expect(await takeBackDispatch(db, first.dispatch)).toMatchObject({ error: { code: "dispatch-holds-more" } });
    expect((await runToEnd(db, info, "dispatch", { takesBack: second.dispatch })).error).toBeNull();
    expect((await runToEnd(db, info, "dispatch", { takesBack: first.dispatch })).error).toBeNull();
    expect((await liveStructure(db))["c:own"]).toBeUndefined();
  });
});

describe("a basket that has to be approved", () => {
  it("is sent only as it was approved, by somebody else where people sign in, and so is taking back", async () => {
    const { db, info } = workspace;
    await changeWorkspace(db, { approval: true });
    const [campaign] = (await plannedAccount(db)).all("campaign");
    const budget = (dailyBudget: number) =>
      editAccount(
        db,
        "ada",
        null,
        { action: "budget", keys: [campaign!.key], op: { how: "set", mills: dailyBudget } },
        info.currency,
      );
    await budget(4_321);
    const { version } = await readAccount(db);
    const missing = { ok: false, error: { code: "approval-missing" } };
    expect(await startDispatch(db, "ada", version)).toMatchObject(missing);
    expect(await approveBasket(db, "ada", version, true)).toMatchObject({ ok: false, error: { code: "approval-own" } });
    expect(await approveBasket(db, "ben", version - 1, true)).toMatchObject({
      ok: false,
      error: { code: "basket-moved" },
    });
    expect(await approveBasket(db, "ben", version, true)).toMatchObject({ ok: true, value: { by: "ben" } });
    // Changed after it was approved: that voids it.
    await budget(4_322);
    expect(await approvalOf(db)).toMatchObject({ isNeeded: true, by: null });
    expect(await startDispatch(db, "ada", null)).toMatchObject(missing);
    const now = (await readAccount(db)).version;
    // Where nobody signs in there is only one to ask.
    expect(await approveBasket(db, "ada", now, false)).toMatchObject({ ok: true });
    const sent = await startDispatch(db, "ada", now);
    if (!sent.ok) throw new Error(sent.error.message);
    await runJob(db, info, jobHandlers, (await claimJob(db, "test", { id: sent.value.id }))!);
    const [last] = await listDispatches(db);
    expect(last).toMatchObject({ size: 1, asMeant: 1 });
    expect(await takeBackDispatch(db, last!.id)).toMatchObject({ error: { code: "approval-missing" } });
    await changeWorkspace(db, { approval: false });
  });
});
