import { beforeEach, describe, expect, it } from "vitest";
import { diffRecords } from "@/core/kit/diff";
import { editSchema } from "@/core/account/acts";
import { testCampaign } from "@/core/market/test-shop";
import type { Database } from "@/db/client";
import { editAccount } from "../account/edits";
import { readAccount } from "../account/state";
import { cancelJob, findJob } from "../jobs/jobs";
import {
  addToBasket,
  importFeed,
  liveStructure,
  plannedStructure,
  runToEnd,
  runWaiting,
  testWorkspace,
} from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { basketFilterSchema, viewBasket } from "./basket";
import { basketRemoveSchema, putBack, removeFromBasket } from "./take-out";
import { scheduledDispatch, startDispatch, takeBackChanges, viewDispatch } from "./dispatches";

const ITEMS = Array.from({ length: 6 }, (_, i) => `I${i}`);
const FEED = `id,title,price,category\n${ITEMS.map((id, i) => `${id},Rake ${i},${10 + i},Garden > Rakes`).join("\n")}\n`;

let db: Database;
let info: WorkspaceInfo;

beforeEach(async () => {
  ({ db, info } = await testWorkspace());
  await importFeed({ db, info }, FEED);
  await addToBasket(db, diffRecords({}, testCampaign("c:a", { name: "A" }, ITEMS, 500)), "first");
  await addToBasket(db, diffRecords({}, testCampaign("c:b", { name: "B" }, ITEMS.slice(0, 2), 700)), "second");
});

const edit = (intent: object) => editAccount(db, "ann", null, editSchema.parse(intent), "EUR");
const look = (filter: object) => viewBasket(db, info, 0, 1000, basketFilterSchema.parse(filter));

describe("the basket", () => {
  it("lists every record once, by campaign and by cause, readable ones first", async () => {
    await edit({ action: "exclude", items: ["I3"], reason: "wasteful" });
    const all = await look({ all: "true" });
    expect(all.found).toBe(all.total);
    expect(new Set(all.changes.map(({ key }) => key)).size).toBe(all.total);
    expect(all.byCampaign.reduce((sum, { changes }) => sum + changes, 0)).toBe(all.total);
    expect(all.byCause.reduce((sum, { changes }) => sum + changes, 0)).toBe(all.total);
    const readable = await look({});
    expect(readable.found).toBe(readable.readable);
    expect(readable.found).toBeLessThan(all.found);
    expect(all.changes.slice(0, readable.found).map(({ key }) => key)).toEqual(readable.changes.map(({ key }) => key));
    const b = await look({ campaign: "c:b" });
    expect(new Set(b.changes.map(({ campaignName }) => campaignName))).toEqual(new Set(["B"]));
    const none = await look({ campaign: "" });
    expect(none.changes.map(({ text, item }) => [text, item])).toEqual([
      ["Item I3 excluded everywhere: wasteful", "Rake 3"],
    ]);
    const second = all.byCause.find(({ reason }) => reason === "second")!.cause;
    expect((await look({ cause: second, campaign: "c:a" })).found).toBe(0);
    expect((await look({ cause: second, campaign: "c:b", all: "true" })).found).toBe(b.total - 1 - 9);
    expect((await look({ q: "campaign b" })).changes.map(({ key }) => key)).toContain("c:b");
  });

  it("gives all that a filter finds back, with what hangs below it, and nothing else", async () => {
    const second = (await look({})).byCause.find(({ reason }) => reason === "second")!.cause;
    const { found } = await look({ cause: second, all: "true" });
    const asked = { keys: { q: "", cause: second, all: true } };
    expect(await removeFromBasket(db, info, "ann", asked)).toMatchObject({ ok: true, value: { removed: found } });
    const left = await plannedStructure(db);
    expect(Object.keys(left).sort()).toEqual(Object.keys(testCampaign("c:a", {}, ITEMS, 500)).sort());
  });

  it("warns of items that would be served at a price of nothing", async () => {
    const free = FEED.replace(/^(I4,[^,]*),[^,]*/m, "$1,0");
    await importFeed({ db, info }, free);
    const { checks } = await look({});
    expect(checks.find(({ code }) => code === "price-zero")).toMatchObject({
      grave: false,
      message: expect.stringContaining("1 item would be served at a price of 0"),
    });
  });

  it("takes nothing out for a filter that it does not understand", () => {
    expect(basketRemoveSchema.safeParse({ keys: { q: "", reason: "second" } }).success).toBe(false);
    expect(basketRemoveSchema.safeParse({ keys: { cause: 1 } }).success).toBe(true);
  });

  it("is put back as it was: each change with its cause and who decided it, once, and unless it was changed since", async () => {
    await edit({ action: "budget", keys: ["c:a"], op: { how: "set", mills: 7_000 } });
    const told = async () =>
      (await readAccount(db)).rows
        .map(({ key, before, after, cause, who }) => ({ key, before, after, cause, who }))
        .sort((a, b) => (a.key < b.key ? -1 : 1));
    const before = await told();
    const emptied = await removeFromBasket(db, info, "bob", { keys: "all" });
    const undo = emptied.ok ? emptied.value.undo! : "";
    expect(await told()).toEqual([]);
    expect(await putBack(db, "bob", undo)).toEqual({ ok: true, value: { changes: before.length } });
    expect(await told()).toEqual(before);
    expect(await putBack(db, "bob", undo)).toMatchObject({ error: { code: "edit-undone" } });
    const one = await removeFromBasket(db, info, "bob", { keys: ["c:a"] });
    await addToBasket(db, diffRecords({}, testCampaign("c:a", { name: "Another" }, ITEMS, 500)), "third");
    expect(await putBack(db, "bob", (one.ok && one.value.undo) || "")).toMatchObject({
      error: { code: "change-overtaken" },
    });
    expect((await plannedStructure(db))["c:a"]).toMatchObject({ name: "Another" });
  });

  it("is not taken out over what others changed since it was seen", async () => {
    const { version } = await readAccount(db);
    await edit({ action: "budget", keys: ["c:a"], op: { how: "set", mills: 9_000 } });
    expect(await removeFromBasket(db, info, "bob", { keys: ["c:a"] }, version)).toMatchObject({
      error: { code: "account-moved" },
    });
    expect(await removeFromBasket(db, info, "bob", { keys: ["c:b"] }, version)).toMatchObject({ ok: true });
  });

  it("tells the effect that past results speak of, how many changes have no part in it, and what negatives stop", async () => {
    await runToEnd(db, info, "dispatch", { takesBack: null });
    await runToEnd(db, info, "market-run", { from: 20_700, through: 20_709, seed: "s" });
    await edit({ action: "item-bid", items: ["I4"], op: { how: "set", mills: 250 } });
    const bids = (await look({})).effect!;
    expect(bids.unknown).toBe(0);
    expect(bids.cost).toBeLessThan(0);
    await edit({ action: "slot-factor", keys: ["c:a"], slot: "lead-row", factor: 2 });
    expect((await look({})).effect).toMatchObject({ unknown: 1, cost: bids.cost, isRestructured: false });
    expect((await look({})).negatives).toEqual({ terms: null, placements: null });
    const { rows } = await db.$client.execute(
      `SELECT c.text AS text, sum(cost) AS cost, sum(revenue) AS revenue FROM term_facts f JOIN codes c ON c.no = f.term
       GROUP BY c.text HAVING sum(cost) > 0 ORDER BY cost DESC, c.text LIMIT 1`,
    );
    const [shown] = (
      await db.$client.execute(
        `SELECT c.text AS text, sum(impressions) AS n FROM placement_facts f JOIN codes c ON c.no = f.placement GROUP BY c.text ORDER BY n DESC, c.text LIMIT 1`,
      )
    ).rows;
    const keepOut = (what: "term" | "placement", value: unknown) =>
      edit({
        ...{ action: "keep-out", scope: null, reason: "wasteful", reviewOn: null },
        values: [{ what, match: "exact", value: String(value) }],
      });
    await keepOut("term", rows[0]!["text"]);
    await keepOut("placement", shown!["text"]);
    const { terms, placements } = (await look({})).negatives;
    // Ten days are known; an exact negative stops plurals too, so at least the term itself.
    expect(terms).toMatchObject({ negatives: 1, days: 10 });
    expect(terms!.cost).toBeGreaterThanOrEqual(Number(rows[0]!["cost"]) / 10);
    expect(placements).toEqual({
      ...{ negatives: 1, places: 1, days: 10, impressions: Number(shown!["n"]) / 10, cost: null, revenue: null },
    });
  });
});

describe("a dispatch", () => {
  it("set for later waits, can be called off, and sends what lay there when it was set", async () => {
    expect(await startDispatch(db, "ann", null, Date.now() - 1)).toMatchObject({ error: { code: "dispatch-when" } });
    const set = await startDispatch(db, "ann", null, Date.now() + 60_000);
    if (!set.ok) throw new Error(set.error.message);
    expect(await scheduledDispatch(db)).toMatchObject({ job: set.value.id });
    await runWaiting(db, info);
    expect(await liveStructure(db)).toEqual({});
    await cancelJob(db, set.value.id);
    expect(await scheduledDispatch(db)).toBeNull();
    expect(Object.keys(await plannedStructure(db))).toContain("c:b");

    const again = await startDispatch(db, "ann", null, Date.now() + 60_000);
    if (!again.ok) throw new Error(again.error.message);
    await edit({ action: "budget", keys: ["c:a"], op: { how: "set", mills: 7_000 } });
    await db.$client.execute({ sql: "UPDATE jobs SET not_before = 1 WHERE id = ?", args: [again.value.id] });
    await runWaiting(db, info);
    expect((await findJob(db, again.value.id))!.state).toBe("done");
    const live = (await liveStructure(db))["c:a"] as { dailyBudget: number };
    expect(live.dailyBudget).not.toBe(7_000);
    expect((await look({})).total).toBe(1);
  });

  it("gives single changes back through the basket, unless they were changed since or hold others", async () => {
    await runToEnd(db, info, "dispatch", { takesBack: null });
    await edit({ action: "budget", keys: ["c:a"], op: { how: "set", mills: 7_000 } });
    await edit({ action: "budget", keys: ["c:b"], op: { how: "set", mills: 8_000 } });
    await runToEnd(db, info, "dispatch", { takesBack: null });
    const before = await liveStructure(db);
    expect(await takeBackChanges(db, "ann", 2, { keys: ["c:b"] })).toEqual({ ok: true, value: { changes: 1 } });
    const planned = await plannedStructure(db);
    expect(planned["c:a"]).toEqual(before["c:a"]);
    expect(planned["c:b"]).not.toEqual(before["c:b"]);
    await edit({ action: "budget", keys: ["c:a"], op: { how: "set", mills: 9_000 } });
    expect(await takeBackChanges(db, "ann", 2, { keys: ["c:a"] })).toMatchObject({
      error: { code: "dispatch-overtaken" },
    });
    expect(await takeBackChanges(db, "ann", 2, { keys: ["nothing"] })).toMatchObject({
      error: { code: "dispatch-changes-unknown" },
    });
    expect(await takeBackChanges(db, "ann", 1, { keys: ["g:c:b"] })).toMatchObject({
      error: { code: "dispatch-holds-more" },
    });
  });

  it("shows the days before and after it, of what it touched and of all", async () => {
    await runToEnd(db, info, "dispatch", { takesBack: null });
    await runToEnd(db, info, "market-run", { from: 20_700, through: 20_709, seed: "s" });
    await edit({ action: "budget", keys: ["c:b"], op: { how: "set", mills: 1_000 } });
    await runToEnd(db, info, "dispatch", { takesBack: null });
    const early = await viewDispatch(db, info, 2);
    expect(early.ok && early.value.effect).toBeNull();
    await runToEnd(db, info, "market-run", { from: 20_710, through: 20_713, seed: "s" });
    const view = await viewDispatch(db, info, 2);
    const effect = view.ok ? view.value.effect! : null;
    expect(effect).toMatchObject({ days: 4, campaigns: 1 });
    const spent = async (from: number, to: number, campaign: string) => {
      const sql = `SELECT sum(f.cost) FROM item_facts f JOIN codes c ON c.no = f.campaign WHERE f.day BETWEEN ? AND ? AND c.text LIKE ?`;
      const { rows } = await db.$client.execute({ sql, args: [from, to, campaign] });
      return Number(rows[0]![0]);
    };
    expect(effect!.touched.before.cost).toBe(await spent(20_706, 20_709, "c:b"));
    expect(effect!.touched.after.cost).toBe(await spent(20_710, 20_713, "c:b"));
    expect(effect!.all.before.cost).toBe(await spent(20_706, 20_709, "%"));
    expect((await viewDispatch(db, info, 99)).ok).toBe(false);
  });

  it("has the same list of changes however it is read", async () => {
    const found = (await look({})).changes.map(({ text }) => text);
    await runToEnd(db, info, "dispatch", { takesBack: null });
    const view = await viewDispatch(db, info, 1);
    expect(view.ok && view.value.changes.map(({ text }) => text).sort()).toEqual([...found].sort());
    expect((await look({})).effect).toBeNull();
  });
});
