import { beforeAll, describe, expect, it } from "vitest";
import { testCampaign } from "@/core/market/test-shop";
import { formatDay, dayAt } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { bidPushes } from "@/db/schema";
import { takeBackEdit } from "../account/edits";
import { addRecords } from "../account/commit";
import { plannedAccount } from "../account/state";
import { startMarketRun } from "../market/run-days";
import { endedPushes } from "../moves/pushes";
import { viewMoves } from "../moves/moves";
import { setRule } from "../moves/house-rules";
import { importFeed, plannedStructure, runToEnd, runWaiting, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { viewPageWork } from "./page-work";
import { bidFilterSchema, lookAtBids, setBids, viewBids, whichBidsSchema, type BidsView } from "./desk";

const KINDS = ["Rake", "Hose", "Spade"];
const FEED = `id,title,price,category,brand,cost\n${Array.from({ length: 60 }, (_, i) => {
  const kind = KINDS[i % 3]!;
  return `${i + 1},Oak ${kind} ${i + 1},${(9 + 2 * i).toFixed(2)},Garden > ${kind}s,Brackwell,${(4 + 0.7 * i).toFixed(2)}`;
}).join("\n")}\n`;
const IDS = Array.from({ length: 60 }, (_, i) => String(i + 1));
const KEYWORDS = ["rake", "hose", "oak spade"].map((text) => ({ type: "keyword", text, match: "broad", bid: 400 }));

const FIRST = 20_700;

let db: Database;
let info: WorkspaceInfo;

const filter = (over: object = {}) => bidFilterSchema.parse({ show: "all", ...over });
const view = async (over: object = {}): Promise<BidsView> => {
  const found = await viewBids(db, info, filter(over), 0, 10_000);
  if (!found.ok) throw new Error(found.error.message);
  return found.value;
};
const which = (over: object, asked: object) => whichBidsSchema.parse({ filter: filter(over), ...asked });
const tomorrow = () => formatDay(dayAt(Date.now(), info.timeZone) + 1);

beforeAll(async () => {
  ({ db, info } = await testWorkspace());
  expect(await viewBids(db, info, filter(), 0, 10)).toMatchObject({ ok: false, error: { code: "moves-no-results" } });
  await importFeed({ db, info }, FEED);
  const start = {
    ...testCampaign("c:all", { name: "All", dailyBudget: 80_000, serveOrder: 7 }, IDS, 400),
    ...testCampaign("c:words", { name: "Words", kind: "keyword", dailyBudget: 40_000 }, IDS.slice(0, 9), 400, KEYWORDS),
  };
  await addRecords(db, start, "tester", "start");
  expect((await runToEnd(db, info, "dispatch", { takesBack: null })).error).toBeNull();
  // Days of their own and no others, so that it is the same run whenever it is made.
  await runToEnd(db, info, "market-run", { from: FIRST, through: FIRST + 74, seed: "bids" });
}, 120_000);

describe("the bid desk", () => {
  it("says of items and keywords what the reports say", async () => {
    const { rows } = await db.$client.execute(
      "SELECT i.item_id AS id, sum(clicks) AS clicks, sum(cost) AS cost, sum(orders) AS orders FROM item_facts f JOIN items i ON i.item_no = f.item_no GROUP BY 1",
    );
    const told = new Map(rows.map((row) => [row["id"], row]));
    const { lines, kinds, total } = await view();
    expect([total, kinds.item, kinds.keyword]).toEqual([60, 60, 3]);
    for (const line of lines) {
      const row = told.get(line.key);
      expect([line.clicks, line.cost, line.orders]).toEqual(
        ["clicks", "cost", "orders"].map((name) => Number(row?.[name] ?? 0)),
      );
    }
    const { rows: terms } = await db.$client.execute(
      "SELECT c.text AS target, sum(clicks) AS clicks, sum(cost) AS cost FROM term_facts JOIN codes c ON c.no = target GROUP BY 1",
    );
    const words = await view({ kind: "keyword" });
    expect(words.lines).toHaveLength(3);
    for (const line of words.lines) {
      const row = terms.find(({ target }) => target === line.key);
      expect([line.clicks, line.cost]).toEqual([Number(row?.["clicks"] ?? 0), Number(row?.["cost"] ?? 0)]);
    }
  });

  it("finds by words and campaigns, sorts with what is not known last, and sums what is found", async () => {
    const hoses = await view({ q: "hose" });
    expect(hoses.total).toBe(20);
    const byCpc = (await view({ sort: "cpc" })).lines.map(({ clicks, cost }) =>
      clicks > 0 ? cost / clicks : Infinity,
    );
    expect(byCpc).toEqual(byCpc.toSorted((a, b) => a - b));
    const open = await view({ show: "proposed" });
    expect(open.total).toBe(open.proposed);
    const cost = open.lines.reduce((sum, { expected }) => sum + (expected?.cost ?? 0), 0);
    expect(open.expected.cost).toBeCloseTo(cost, 6);
    const rest = Object.values(open.none).reduce((sum, count) => sum + count, 0);
    expect(open.total + rest).toBe(60);
  });

  it("sets what is picked, all that is found, and tells what would change before", async () => {
    const { lines, version } = await view({ show: "proposed", sort: "-clicks" });
    const picked = lines.slice(0, 2).map(({ key, proposed }) => ({ key, mills: proposed!.bid }));
    const look = await lookAtBids(db, info, which({}, { which: { lines: picked } }));
    expect(look.ok && look.value.words.join()).toContain(
      `bid the group's bid → €${(picked[0]!.mills / 1000).toFixed(2)}`,
    );
    const done = await setBids(db, info, "ann", version, which({}, { which: { lines: picked } }));
    if (!done.ok) throw new Error(done.error.message);
    const account = await plannedAccount(db);
    for (const { key, mills } of picked) expect(account.find("productGroup", `p:c:all/${key}`)!.bid).toBe(mills);
    // What waits in the basket is not moved again.
    const after = await view();
    for (const { key } of picked) expect(after.lines.find((line) => line.key === key)!.none).toBe("settling");
    expect((await takeBackEdit(db, "ann", done.value.diff)).ok).toBe(true);
    const all = await view({ show: "proposed" });
    const stale = await setBids(
      db,
      info,
      "ann",
      null,
      which({ show: "proposed" }, { which: { proposed: all.proposed + 1 } }),
    );
    expect(!stale.ok && stale.error.code).toBe("bids-changed");
    const whole = await setBids(
      db,
      info,
      "ann",
      null,
      which({ show: "proposed" }, { which: { proposed: all.proposed } }),
    );
    expect(whole.ok && whole.value.changes).toBeGreaterThanOrEqual(all.proposed);
    if (whole.ok) await takeBackEdit(db, "ann", whole.value.diff);
  });

  it("takes pasted bids by ID or name, and names what it does not know", async () => {
    const before = await plannedStructure(db);
    const unknown = await setBids(
      db,
      info,
      "ann",
      null,
      which(
        {},
        {
          which: {
            lines: [
              { key: "Oak Rake 1", mills: 330 },
              { key: "no such", mills: 200 },
            ],
          },
        },
      ),
    );
    expect(!unknown.ok && unknown.error.message).toBe("No items with a bid: “no such”. Nothing was changed.");
    expect(await plannedStructure(db)).toEqual(before);
    const done = await setBids(
      db,
      info,
      "ann",
      null,
      which({}, { which: { lines: [{ key: "oak rake 1", mills: 330 }] } }),
    );
    if (!done.ok) throw new Error(done.error.message);
    expect((await plannedAccount(db)).find("productGroup", "p:c:all/1")!.bid).toBe(330);
    await takeBackEdit(db, "ann", done.value.diff);
  });
});

describe("page work", () => {
  it("names items by what the reports say, within the house rules", async () => {
    expect((await setRule(db, "ann", "pageClicks", 50)).ok).toBe(true);
    expect((await setRule(db, "ann", "falseAlarms", 50)).ok).toBe(true);
    const found = await viewPageWork(db, info);
    if (!found.ok) throw new Error(found.error.message);
    expect(found.value.length).toBeGreaterThan(0);
    const { lines } = await view();
    const told = new Map(lines.map((line) => [line.key, line]));
    for (const { id, clicks, orders, usual, chance } of found.value) {
      expect([clicks, orders]).toEqual([told.get(id)!.clicks, told.get(id)!.orders]);
      expect(clicks).toBeGreaterThanOrEqual(50);
      expect(usual).toBeGreaterThan(orders);
      expect(chance).toBeLessThan(0.5);
    }
    const lost = found.value.map((line) => line.lost!);
    expect(lost).toEqual(lost.toSorted((a, b) => b - a));
    await setRule(db, "ann", "pageClicks", 5_000);
    expect(await viewPageWork(db, info)).toEqual({ ok: true, value: [] });
    await setRule(db, "ann", "pageClicks", null);
    await setRule(db, "ann", "falseAlarms", null);
  });
});

describe("a push", () => {
  it("needs its last day, is kept with what it goes back to, and is proposed to end after it", async () => {
    const { lines } = await view({ kind: "keyword", method: "push" });
    const line = lines.find(({ none }) => none !== "settling")!;
    const bid = line.bid + 150;
    const asked = { which: { lines: [{ key: line.key, mills: bid }] } };
    const push = { kind: "keyword", method: "push" };
    const endless = await setBids(db, info, "ann", null, which(push, asked));
    expect(!endless.ok && endless.error.code).toBe("push-day");
    const done = await setBids(db, info, "ann", null, which(push, { ...asked, until: tomorrow() }));
    if (!done.ok) throw new Error(done.error.message);
    expect(await db.select().from(bidPushes)).toMatchObject([
      { key: line.key, of: "bid", bid, back: line.bid, until: tomorrow(), who: "ann" },
    ]);
    const proposals = async () => {
      const moves = await viewMoves(db, info, { q: "", show: "open", kind: "push-ends" }, 0, 10);
      return moves.ok ? moves.value.lines : [];
    };
    expect(await proposals()).toEqual([]);
    expect(await endedPushes(db, tomorrow())).toEqual([]);
    // Its last day is over once the day after it has begun. What waits in the basket is not moved, so it is sent first.
    await db.update(bidPushes).set({ until: "2020-01-01" });
    expect((await runToEnd(db, info, "dispatch", { takesBack: null })).error).toBeNull();
    expect((await startMarketRun(db, info, { days: 10, seed: "d" })).ok).toBe(true);
    await runWaiting(db, info);
    expect(await proposals()).toMatchObject([
      { amount: { from: bid, to: line.bid }, why: "Its push was until 2020-01-01" },
    ]);
  });
});
