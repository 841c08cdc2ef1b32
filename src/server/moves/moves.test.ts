import { beforeAll, describe, expect, it } from "vitest";
import { testCampaign } from "@/core/market/test-shop";
import type { Database } from "@/db/client";
import { addRecords } from "../account/commit";
import { plannedAccount } from "../account/state";
import { takeBackEdit } from "../account/edits";
import { importFeed, liveStructure, plannedStructure, runToEnd, runWaiting, testWorkspace } from "../testing";
import { startMarketRun } from "../market/run-days";
import type { WorkspaceInfo } from "../workspaces";
import { acceptMoves } from "./accept";
import { recordOfMoves } from "./follow-up";
import { listRules, setRule } from "./house-rules";
import { decideMoves, lookAtMoves, viewMoves, type MoveLine, type MovesView } from "./moves";

const WORDS = ["Oak", "Elm", "Ash", "Fir"];
const FEED = `id,title,price,category,brand,cost\n${Array.from({ length: 40 }, (_, i) => {
  const kind = i % 2 === 0 ? "Rake" : "Hose";
  return `${i + 1},${WORDS[i % 4]} ${kind} ${i + 1},${(9 + 3 * i).toFixed(2)},Garden > ${kind}s,Brackwell,${(4 + i).toFixed(2)}`;
}).join("\n")}\n`;
const IDS = Array.from({ length: 40 }, (_, i) => String(i + 1));

let db: Database;
let info: WorkspaceInfo;

const view = async (filter: object = {}): Promise<MovesView> => {
  const found = await viewMoves(db, info, { q: "", show: "open", ...filter }, 0, 10_000);
  if (!found.ok) throw new Error(found.error.message);
  return found.value;
};
const seen = (...lines: MoveLine[]) => ({ moves: lines.map(({ key, seal }) => ({ key, seal })) });
const accept = (which: Parameters<typeof acceptMoves>[4]) => acceptMoves(db, info, "ann", null, which);

async function runDays(days: number): Promise<void> {
  expect((await startMarketRun(db, info, { days, seed: "moves" })).ok).toBe(true);
  await runWaiting(db, info);
}

beforeAll(async () => {
  ({ db, info } = await testWorkspace());
  expect(await viewMoves(db, info, { q: "", show: "open" }, 0, 10)).toMatchObject({
    ok: false,
    error: { code: "moves-no-results" },
  });
  await importFeed({ db, info }, FEED);
  await runWaiting(db, info);
  const start = {
    ...testCampaign("c:all", { name: "All", dailyBudget: 80_000, serveOrder: 7 }, IDS, 300),
    ...testCampaign("c:push", { name: "Push", dailyBudget: 20_000, serveOrder: 2 }, IDS.slice(0, 6), 150),
  };
  await addRecords(db, start, "tester", "start");
  expect((await runToEnd(db, info, "dispatch", { takesBack: null })).error).toBeNull();
  await runDays(30);
}, 120_000);

describe("moves", () => {
  it("stand by money at stake, and say what they stand on", async () => {
    const { lines, total, stake, kinds, heldBy } = await view();
    expect(heldBy.largestStep).toBe(lines.filter(({ limitedBy }) => limitedBy === "largestStep").length);
    expect(total).toBe(lines.length);
    expect(total).toBeGreaterThan(10);
    const stakes = lines.map((line) => line.stake);
    expect(stakes).toEqual([...stakes].sort((a, b) => b - a));
    expect(stakes.reduce((sum, one) => sum + one, 0)).toBeCloseTo(stake, 6);
    expect(kinds.reduce((sum, { moves }) => sum + moves, 0)).toBe(total);
    expect(lines.find(({ key }) => key === "overlap/c:push")).toMatchObject({ about: "Push", campaignName: "Push" });
    // The clicks that a bid stands on are those of the shop's own table of results.
    const item = lines.find(({ key }) => key.startsWith("item-bid/"))!;
    const { rows } = await db.$client.execute({
      sql: "SELECT sum(clicks), sum(orders) FROM item_facts WHERE item_no = (SELECT item_no FROM items WHERE item_id = ?)",
      args: [item.key.slice("item-bid/".length)],
    });
    expect([Number(rows[0]![0]), Number(rows[0]![1])]).toEqual([item.stands.clicks, item.stands.orders]);
  });

  it("are found by words and by kind", async () => {
    const all = await view();
    const bids = await view({ kind: "item-bids" });
    expect(bids.lines).toEqual(all.lines.filter(({ proposer }) => proposer === "item-bids"));
    const hoses = await view({ q: "hose a click brings" });
    expect(hoses.total).toBeGreaterThan(0);
    expect(hoses.lines.every(({ about, why }) => about.includes("Hose") && why.includes("A click brings"))).toBe(true);
  });

  it("say before what they would change, go into the basket with their reasons, and can be taken back", async () => {
    const before = await plannedStructure(db);
    const { lines } = await view();
    const pushed = new Set(IDS.slice(0, 6).map((id) => `item-bid/${id}`));
    const chosen = lines.filter(({ key }) => key === "overlap/c:push" || pushed.has(key));
    expect(chosen.length).toBeGreaterThan(2);
    const look = await lookAtMoves(db, info, seen(...chosen));
    expect(await plannedStructure(db)).toEqual(before);
    const made = await accept(seen(...chosen));
    if (!look.ok || !made.ok) throw new Error("not made");
    expect(made.value).toMatchObject({ moves: chosen.length, changes: look.value.changes, changed: [], checks: [] });
    expect(await liveStructure(db)).toEqual(before);
    // Bids made together with the pause go where the items are served then.
    const groups = Object.keys(made.value.diff.changed).filter((key) => key.startsWith("p:"));
    expect(groups.length).toBeGreaterThan(0);
    expect(groups.filter((key) => key.startsWith("p:c:push"))).toEqual([]);
    const { rows } = await db.$client.execute(
      "SELECT DISTINCT c.kind, c.reason FROM basket b JOIN causes c ON c.id = b.cause ORDER BY c.reason",
    );
    expect(rows.map((row) => row[0])).toEqual(rows.map(() => "move"));
    const reasons = new Set(rows.map((row) => row[1]));
    for (const { why } of chosen) expect(reasons).toContain(why);
    // What waits in the basket is not proposed once more.
    const open = new Set((await view()).lines.map(({ key }) => key));
    expect(chosen.filter(({ key }) => open.has(key))).toEqual([]);
    expect(await takeBackEdit(db, "ann", made.value.diff)).toMatchObject({ ok: true });
    expect(await plannedStructure(db)).toEqual(before);
  });

  it("that were worked out anew since they were seen are left, and told", async () => {
    const { lines } = await view({ kind: "item-bids" });
    const [first, second] = lines as [MoveLine, MoveLine];
    const stale = { ...second, seal: "old" };
    const made = await accept(seen(first, stale));
    expect(made).toMatchObject({ ok: true, value: { moves: 1, changed: [second.key] } });
    if (made.ok) await takeBackEdit(db, "ann", made.value.diff);
    expect(await accept(seen(stale))).toMatchObject({ ok: false, error: { code: "moves-changed" } });
    const count = (await view()).total;
    const which = { filter: { q: "", show: "open" as const }, total: count + 1 };
    expect(await accept(which)).toMatchObject({ ok: false, error: { code: "moves-changed" } });
  });

  it("take another amount", async () => {
    const [first] = (await view({ kind: "item-bids" })).lines as [MoveLine];
    const made = await accept({ moves: [{ key: first.key, seal: first.seal, amount: 770 }] });
    if (!made.ok) throw new Error(made.error.message);
    const id = first.key.slice("item-bid/".length);
    const groups = (await plannedAccount(db))
      .all("productGroup")
      .filter(({ value, bid }) => value === id && bid === 770);
    expect(groups).toHaveLength(1);
    await takeBackEdit(db, "ann", made.value.diff);
  });

  it("are dismissed until what they stand on has moved, put off till a day, and opened again", async () => {
    const [first, second] = (await view({ kind: "item-bids" })).lines as [MoveLine, MoveLine];
    const decide = (line: MoveLine, how: "dismissed" | "snoozed" | "open", until?: string) =>
      decideMoves(db, info, "ann", { which: seen(line), how, reason: "season is over", ...(until ? { until } : {}) });
    expect((await decide(first, "dismissed")).ok).toBe(true);
    expect(await decide(second, "snoozed", "2020-01-01")).toMatchObject({ ok: false, error: { code: "snooze-day" } });
    expect((await decide(second, "snoozed", "2999-01-01")).ok).toBe(true);
    const open = await view();
    expect(open).toMatchObject({ snoozed: 1, dismissed: 1 });
    expect(open.lines.some(({ key }) => key === first.key || key === second.key)).toBe(false);
    expect((await view({ show: "dismissed" })).lines).toMatchObject([
      { key: first.key, decided: { reason: "season is over", who: "ann" } },
    ]);
    // Twice as many clicks as then: it shows again.
    await db.$client.execute({ sql: "UPDATE moves_decided SET clicks = clicks / 2 WHERE key = ?", args: [first.key] });
    expect((await view()).lines.map(({ key }) => key)).toContain(first.key);
    expect((await decide(second, "open")).ok).toBe(true);
    expect((await view()).lines.map(({ key }) => key)).toContain(second.key);
  });

  it("are followed up once they were sent: what came against what was expected, by hand from the facts", async () => {
    const [move] = (await view({ kind: "item-bids" })).lines as [MoveLine];
    // Everything accepted so far was taken back.
    expect(await recordOfMoves(db, info)).toEqual([]);
    expect((await accept(seen(move))).ok).toBe(true);
    expect(await recordOfMoves(db, info)).toMatchObject([{ key: "item-bids", accepted: 1, sent: 0 }]);
    expect((await runToEnd(db, info, "dispatch", { takesBack: null })).error).toBeNull();
    expect(await recordOfMoves(db, info)).toMatchObject([{ key: "item-bids", sent: 1, moves: 0 }]);
    await runDays(10);
    const [record] = await recordOfMoves(db, info);
    expect(record).toMatchObject({ sent: 1, moves: 1 });
    expect(record!.expected).toBeCloseTo(30 * move.expected.contribution!.mean, 6);
    const id = move.key.slice("item-bid/".length);
    const from = Number((await db.$client.execute("SELECT max(from_day) FROM dispatches")).rows[0]![0]);
    const { rows } = await db.$client.execute({
      sql: `SELECT sum(CASE WHEN day >= ?1 THEN cost ELSE -cost END) FROM item_facts
            WHERE item_no = (SELECT item_no FROM items WHERE item_id = ?2) AND day >= ?1 - 10`,
      args: [from, id],
    });
    const margin = (9 + 3 * (Number(id) - 1) - (4 + Number(id) - 1)) / (9 + 3 * (Number(id) - 1));
    const sales = await db.$client.execute({
      sql: `SELECT sum(CASE WHEN day >= ?1 THEN revenue ELSE -revenue END) FROM item_facts
            WHERE item_no = (SELECT item_no FROM items WHERE item_id = ?2) AND day >= ?1 - 10`,
      args: [from, id],
    });
    // Late orders are still to come, so what is told of the later days is no less than what has been seen.
    const stored = await db.$client.execute("SELECT expected FROM moves_accepted ORDER BY id DESC LIMIT 1");
    const { counted } = JSON.parse(String(stored.rows[0]![0])) as { counted: number };
    const plain = 3 * (Number(sales.rows[0]![0]) * margin * counted - Number(rows[0]![0]));
    expect(record!.came.mean).toBeGreaterThanOrEqual(plain - 1);
  });
});

describe("house rules", () => {
  it("are set within their ends, change what is proposed, and go back", async () => {
    expect(await setRule(db, "ann", "largestStep", 1000)).toMatchObject({
      ok: false,
      error: { code: "rule-out-of-range" },
    });
    expect(await setRule(db, "ann", "luck", 1)).toMatchObject({ ok: false, error: { code: "rule-unknown" } });
    const before = await view({ kind: "item-bids" });
    expect(await setRule(db, "ann", "largestStep", 5)).toMatchObject({
      ok: true,
      value: { value: 5, set: { who: "ann" } },
    });
    const rule = (await listRules(db)).find(({ key }) => key === "largestStep");
    expect(rule).toMatchObject({ value: 5, set: { who: "ann" } });
    // Within the least change of 8 % no step of 5 % is worth making.
    expect((await view({ kind: "item-bids" })).total).toBe(0);
    await setRule(db, "ann", "largestStep", null);
    expect((await view({ kind: "item-bids" })).lines).toEqual(before.lines);
    const { rows } = await db.$client.execute("SELECT what FROM change_log WHERE place = 'house rules' ORDER BY id");
    expect(rows.map((row) => row[0])).toEqual([
      "House rule “Largest step of a bid”: 100 → 5",
      "House rule “Largest step of a bid”: 5 → 100",
    ]);
  });
});
