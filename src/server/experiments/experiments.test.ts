import { setTimeout as sleep } from "node:timers/promises";
import { beforeAll, describe, expect, it } from "vitest";
import { definitionSchema } from "@/core/experiments/definition";
import { testCampaign } from "@/core/market/test-shop";
import type { Database } from "@/db/client";
import { dispatches, experimentDays, experiments } from "@/db/schema";
import { addRecords } from "../account/commit";
import { editAccount } from "../account/edits";
import { readAccount } from "../account/state";
import { startMarketRun } from "../market/run-days";
import { removeFromBasket } from "../dispatch/take-out";
import { importFeed, runToEnd, runWaiting, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { listExperiments, learnFrom, learnedRules, viewExperiment, type ExperimentLine } from "./experiments";
import { queueDueExperiments } from "./job";
import { planExperiment } from "./plan";
import { beginExperiment, endExperiment, forgetExperiment } from "./run";
import { KINDS } from "./testing";

const FEED = `id,title,price,category,brand,cost\n${Array.from({ length: 84 }, (_, i) => {
  const kind = KINDS[i % KINDS.length]!;
  return `${i + 1},Oak ${kind} ${i + 1},${(9 + (i % 9) * 3).toFixed(2)},Garden > ${kind}s,Brackwell,${(4 + (i % 9)).toFixed(2)}`;
}).join("\n")}\n`;

const IDS = Array.from({ length: 84 }, (_, i) => String(i + 1));

let db: Database;
let info: WorkspaceInfo;

const define = (over: Record<string, unknown> = {}) =>
  definitionSchema.parse({
    ...{ name: "Half price", design: "items", change: { kind: "item-bid", percent: -60 }, together: "category" },
    ...{ measure: "clicks", least: 1, days: 14 },
    ...over,
  });
const runDays = async (days: number) => {
  expect((await startMarketRun(db, info, { days, seed: "experiments" })).ok).toBe(true);
  for (let round = 0; round < 400; round++) {
    await runWaiting(db, info);
    const { rows } = await db.$client.execute("SELECT count(*) AS n FROM jobs WHERE state = 'waiting'");
    if (rows[0]!["n"] === 0) return;
    await sleep(20);
  }
  throw new Error("The days did not come to their end.");
};
const send = async () =>
  expect(await runToEnd(db, info, "dispatch", { takesBack: null })).toMatchObject({ state: "done" });
const begin = async (definition = define(), seed = "s") => {
  const begun = await beginExperiment(db, info, "ann", null, { definition, seed });
  if (!begun.ok) throw new Error(begun.error.message);
  return begun.value.id;
};
const see = async (id: number) => {
  const seen = await viewExperiment(db, info, id);
  if (!seen.ok) throw new Error(seen.error.message);
  return seen.value;
};

beforeAll(async () => {
  ({ db, info } = await testWorkspace());
  expect(await importFeed({ db, info }, FEED)).toMatchObject({ state: "done" });
  await addRecords(db, testCampaign("all", { dailyBudget: 2_000_000 }, IDS, 600), "ann", "test");
  await send();
});

describe("an experiment with items", () => {
  it("is planned by the past, or says that there is none", async () => {
    expect(await planExperiment(db, info, { definition: define(), seed: "s" })).toMatchObject({
      ok: false,
      error: { code: "experiment-young" },
    });
    await runDays(42);
    const plan = await planExperiment(db, info, { definition: define(), seed: "s" });
    expect(plan).toMatchObject({ ok: true, value: { change: "Bid −60 %", pairs: 7, left: { quiet: 0, odd: 0 } } });
    if (!plan.ok) return;
    const { arms, broughtADay, leastFound, daysToFind } = plan.value;
    // Each arm's clicks a day are those of SQL on its items.
    const { rows } = await db.$client.execute("SELECT sum(clicks) / 42.0 AS n FROM item_facts");
    expect(arms!.with.brought.clicks! + arms!.without.brought.clicks!).toBeCloseTo(Number(rows[0]!["n"]), 6);
    expect(broughtADay).toBe(arms!.with.brought.clicks);
    expect(leastFound).toBeGreaterThan(0);
    expect(daysToFind === null || daysToFind > 0).toBe(true);
  });

  it("goes through the basket, finds what halved bids do to clicks, and is taken back", async () => {
    const id = await begin();
    expect(await see(id)).toMatchObject({
      stage: "waiting",
      start: null,
      verdict: "It begins once the basket is sent.",
    });
    const [row] = await db.select().from(experiments);
    const { arms } = row!;
    if (arms.of !== "items") throw new Error("It is one with items.");
    expect(arms.with.flat().length).toBe(42);
    // The same can't be tried twice at a time.
    expect(await beginExperiment(db, info, "ann", null, { definition: define(), seed: "t" })).toMatchObject({
      error: { code: "experiment-overlap", message: "“Half price” runs on some of the same." },
    });
    await send();
    expect(await see(id)).toMatchObject({ stage: "running", days: 0, finding: "open" });
    await runDays(14);
    const seen = await see(id);
    expect(seen).toMatchObject({ stage: "over", days: 14, finding: "less" });
    expect(seen.effect!.high).toBeLessThan(0);
    expect(seen.verdict).toMatch(/^“Bid −60 %” lowers clicks by [\d.]+ a day/);
    expect(seen.points.at(-1)).toMatchObject({ mean: seen.effect!.mean, day: seen.until });
    // By hand: what the arms had a day, and what they had before.
    const a = await clicksADay(arms.with.flat(), row!.beforeFrom, row!.beforeTo);
    const b = await clicksADay(arms.without.flat(), row!.beforeFrom, row!.beforeTo);
    const [c, d] = [
      await clicksADay(arms.with.flat(), seen.start!, seen.until!),
      await clicksADay(arms.without.flat(), seen.start!, seen.until!),
    ];
    const [plain, corrected] = [c - d, c - d - (a - b)];
    expect(seen.effect!.mean).toBeGreaterThanOrEqual(Math.min(plain, corrected) - 1e-9);
    expect(seen.effect!.mean).toBeLessThanOrEqual(Math.max(plain, corrected) + 1e-9);
    const ended = await endExperiment(db, info, "ann", null, id, { how: "take back" });
    expect(ended).toMatchObject({ ok: true, value: { overtaken: 0, changes: seen.changes } });
    await send();
    const bids = new Set((await readAccount(db)).live.all("productGroup").map(({ bid }) => bid));
    expect([...bids]).toEqual([null]);
    expect(await see(id)).toMatchObject({ stage: "ended", ended: { how: "taken back", by: "ann" }, finding: "less" });
    expect(await endExperiment(db, info, "ann", null, id, { how: "leave" })).toMatchObject({
      error: { code: "experiment-ended" },
    });
  });

  it("leaves a rule with where it comes from, which can be taken back", async () => {
    const [{ id }] = (await listExperiments(db, info)) as [ExperimentLine];
    await learnFrom(db, info, "ben", id, { text: "Bids below half lose most clicks." });
    expect(await learnedRules(db, info)).toMatchObject([
      { id, learned: { by: "ben", text: "Bids below half lose most clicks." } },
    ]);
    await learnFrom(db, info, "ben", id, { text: "" });
    expect(await learnedRules(db, info)).toEqual([]);
  });

  it("is forgotten only where it never began", async () => {
    const id = await begin(define({ name: "Never sent" }));
    expect(await forgetExperiment(db, info, id)).toMatchObject({
      error: { message: "Its changes wait in the basket." },
    });
    const { rows } = await readAccount(db);
    await removeFromBasket(db, info, "ann", { keys: rows.map(({ key }) => key) });
    expect(await see(id)).toMatchObject({ stage: "dropped" });
    expect(await forgetExperiment(db, info, id)).toMatchObject({ ok: true });
    expect(await viewExperiment(db, info, id)).toMatchObject({ error: { code: "experiment-unknown" } });
  });

  async function clicksADay(items: number[], from: number, to: number): Promise<number> {
    const { rows } = await db.$client.execute({
      sql: "SELECT sum(clicks) * 1.0 / ? AS n FROM item_facts WHERE day BETWEEN ? AND ? AND item_no IN (SELECT value FROM json_each(?))",
      args: [to - from + 1, from, to, JSON.stringify(items)],
    });
    return Number(rows[0]!["n"]);
  }
});

describe("an experiment by days", () => {
  it("is switched on and off by itself, day by day as planned, and goes back at its end", async () => {
    const id = await begin(
      define({
        name: "Days off",
        design: "days",
        change: { kind: "pause" },
        campaigns: ["all"],
        measure: "clicks",
        days: 14,
      }),
    );
    await send();
    const first = (await db.select().from(dispatches)).length;
    await runDays(9);
    // Somebody else's change in the same campaign disturbs it, and is told.
    const group = { action: "bid" as const, keys: ["g:all"], op: { how: "percent" as const, percent: 1 } };
    await editAccount(db, "ben", null, group, "EUR");
    await send();
    await runDays(6);
    const seen = await see(id);
    const days = await db.select().from(experimentDays);
    expect(seen.dayByDay.map(({ on }) => on)).toEqual(seen.dayByDay.map(({ stood }) => stood));
    expect(days.filter(({ stood }) => stood === true)).toHaveLength(7);
    // On days with the change the campaign is paused, and brings nothing.
    const { rows } = await db.$client.execute({
      sql: "SELECT day, sum(clicks) AS n FROM item_facts WHERE day >= ? GROUP BY day",
      args: [seen.start!],
    });
    const clicks = new Map(rows.map((row) => [Number(row["day"]), Number(row["n"])]));
    for (const { day, on } of seen.dayByDay) expect([day, (clicks.get(day) ?? 0) > 0]).toEqual([day, !on]);
    expect(seen).toMatchObject({ stage: "over", finding: "less", counted: 14 });
    expect(seen.breaches).toMatchObject([{ changes: 1, day: seen.start! + 9 }]);
    const mean = seen.dayByDay.reduce((sum, { day, on }) => sum + (on ? 1 : -1) * (clicks.get(day) ?? 0), 0) / 7;
    expect(seen.effect!.mean).toBeCloseTo(mean, 9);
    // The day after the last one stands as before, and every switch is in the history.
    expect((await readAccount(db)).live.find("campaign", "all")!.status).toBe("on");
    const switches = seen.dayByDay.filter(({ on }, at) => at > 0 && on !== seen.dayByDay[at - 1]!.on).length;
    const isOnAtEnd = seen.dayByDay.at(-1)!.on;
    expect((await db.select().from(dispatches)).length - first).toBe(switches + (isOnAtEnd ? 1 : 0) + 1);
  });
});

describe("an experiment that does not stand as it was made", () => {
  it("says how much of it does, and no switch goes out after its end", async () => {
    const id = await begin(define({ name: "In part" }));
    const { rows } = await readAccount(db);
    await removeFromBasket(db, info, "ann", { keys: rows.slice(0, 2).map(({ key }) => key) });
    await send();
    const seen = await see(id);
    expect(seen).toMatchObject({ stage: "running", standing: seen.changes - 2 });
    expect(await endExperiment(db, info, "ann", null, id, { how: "take back" })).toMatchObject({
      value: { changes: seen.changes - 2, overtaken: 2 },
    });
    await send();
    const late = await runToEnd(db, info, "dispatch", { takesBack: null, switches: { experiment: id, isOn: true } });
    expect(late).toMatchObject({ state: "failed", error: { code: "experiment-ended" } });
    expect(new Set((await readAccount(db)).live.all("productGroup").map(({ bid }) => bid))).toEqual(new Set([null]));
  });
});

describe("an experiment that hardly anybody sees", () => {
  it("says so instead of finding no difference", async () => {
    const id = await begin(define({ name: "Asleep", change: { kind: "item-bid", percent: 20 }, measure: "orders" }));
    await send();
    await editAccount(db, "ben", null, { action: "status", keys: ["all"], status: "paused" }, "EUR");
    await send();
    await runDays(8);
    const seen = await see(id);
    expect(seen).toMatchObject({ stage: "running", effect: null, finding: "open", month: null, points: [] });
    expect(seen.verdict).toMatch(/^Not yet: without the change there are 0 clicks a day, and were \d/);
    expect(seen.breaches).toMatchObject([{ changes: 1 }]);
    await editAccount(db, "ben", null, { action: "status", keys: ["all"], status: "on" }, "EUR");
    expect(await endExperiment(db, info, "ann", null, id, { how: "take back" })).toMatchObject({ ok: true });
    await send();
  });
});

describe("harm", () => {
  it("stops an experiment by itself once it is sure enough, and takes its change back", async () => {
    await runDays(1);
    const id = await begin(
      define({ name: "No ads", change: { kind: "exclude" }, measure: "revenue", days: 42 }),
      "harm",
    );
    await send();
    for (let day = 0; day < 30 && (await see(id)).stage === "running"; day++) {
      await runDays(1);
      await queueDueExperiments(db, info);
      await runWaiting(db, info);
    }
    const seen = await see(id);
    expect(seen).toMatchObject({ stage: "ended", ended: { how: "harm" }, isHarmful: true });
    expect(seen.days).toBeLessThan(30);
    const [last] = (await db.select().from(dispatches)).slice(-1);
    expect(last!.words.length).toBeGreaterThan(0);
    expect((await readAccount(db)).live.all("exclusion")).toEqual([]);
  });
});
