import { beforeEach, describe, expect, it } from "vitest";
import { encodeRollup, encodeStore } from "@/core/results/day-columns";
import { rollUp, storeColumns } from "@/core/results/roll-up-days";
import { dayAt, formatDay } from "@/core/kit/days";
import { blankSet, READY_MADE, returnTiers, STARTING_SET } from "@/core/shelves/ready-made";
import type { ShelfRule, ShelfSet } from "@/core/shelves/shelf-set";
import type { Database } from "@/db/client";
import { decodeLive, liveFigures } from "@/core/shelves/live";
import { dayRollups, jobs, shelfMoves, shelfSets } from "@/db/schema";
import { listJobs } from "../jobs/jobs";
import { importFeed, runToEnd, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { recomputeAll, recomputeShelfSet } from "./compute";
import { itemStays, movements, movementsSchema } from "./history";
import { queueDueShelves } from "./job";
import { keepShelf, keepShelfSchema } from "./keep";
import { fetchLabels, labelSettings, renewLabelToken, setLabelColumns } from "./labels";
import { liveSet } from "./live";
import { listPicks, pickListSchema, putPicks } from "./picks";
import { listShelfSets, orderShelfSets, removeShelfSet, restoreShelfSet, saveShelfSet } from "./sets";
import { shelfOverlap } from "./overlap";
import { viewShelfSet } from "./view";

let workspace: { db: Database; info: WorkspaceInfo };
let db: Database;
const FEED =
  "id,title,price,category,availability,item_group_id\n" +
  "A,Red Hose,50,Garden,in stock,f1\nB,Rake,20,Garden,out of stock,f1\nC,Pot,10,Home,in stock,\nD,Red Pot,8,Home,in stock,\n";

beforeEach(async () => {
  workspace = await testWorkspace(3);
  db = workspace.db;
  await importFeed(workspace, FEED);
});

/** A day with the revenue of items A to D on a cost of 10 each, and 100 clicks. */
async function day(at: number, ...revenue: number[]): Promise<void> {
  const facts = revenue.map((amount, i) => ({
    ...{ campaign: 1, adGroup: 2, itemNo: i + 1, impressions: 1000, clicks: 100, cost: 10_000 },
    ...{ orders: amount > 0 ? 1 : 0, units: 1, revenue: amount },
  }));
  const ads = Buffer.from(encodeRollup(rollUp(facts)).buffer);
  await db.insert(dayRollups).values({ day: at, ads, store: Buffer.from(encodeStore(storeColumns([])).buffer) });
  // What a report or the market does when it has written a day.
  await db.$client.execute("UPDATE workspace SET results_version = results_version + 1");
}

async function shelves(key: string, on?: number): Promise<string[]> {
  const view = await viewShelfSet(db, key, undefined, on);
  if (!view.ok) throw new Error(view.error.message);
  return [...view.value.shelfOf].map((place) => view.value.shelves[place]!.name);
}

const rule = (name: string, field: string, value: string): ShelfRule => ({
  ...{ kind: "rule", key: name.toLowerCase(), name, heat: null, goal: null, note: "", lookAgain: null },
  where: { match: "all", of: [{ field, op: "is", value }] },
});
const picks = (name: string): ShelfRule => ({
  ...{ kind: "pick", key: name.toLowerCase(), name, families: false },
  ...{ heat: null, goal: null, note: "", lookAgain: null },
});
const set = (key: string, ...given: ShelfRule[]): ShelfSet => blankSet(key, key.toUpperCase(), 3, given);
const keep = (asked: object) => keepShelf(db, workspace.info, keepShelfSchema.parse(asked));

describe("history", () => {
  beforeEach(async () => {
    await saveShelfSet(db, { ...returnTiers(3), windowDays: 1, patience: 2 });
    await day(20_100, 40_000, 40_000, 0, 0);
    await day(20_101, 100_000, 40_000, 0, 0);
    // 35 is past the cut of 34.5 downwards for B by less than the margin, and for the first time.
    await day(20_102, 100_000, 34_000, 0, 0);
    await day(20_103, 100_000, 34_000, 30_000, 0);
    await recomputeAll(db);
  });

  it("is by day, also of days that came in together, and leads back to any of them", async () => {
    expect(await shelves("return-tiers", 20_100)).toEqual([
      "Return 3.45 to 5.4",
      "Return 3.45 to 5.4",
      "Return under 1.2",
      "Return under 1.2",
    ]);
    expect((await shelves("return-tiers", 20_101))[0]).toBe("Return 5.4 and up");
    expect((await shelves("return-tiers", 20_102))[1]).toBe("Return 3.45 to 5.4");
    expect(await shelves("return-tiers")).toEqual([
      "Return 5.4 and up",
      "Return 2.4 to 3.45",
      "Return 2.4 to 3.45",
      "Return under 1.2",
    ]);
    expect(await shelves("return-tiers", 20_099)).toEqual(["Unread", "Unread", "Unread", "Unread"]);
  });

  it("names who came and left between two days, and why", async () => {
    const asked = movementsSchema.parse({ from: formatDay(20_100), to: formatDay(20_103) });
    const found = await movements(db, "return-tiers", asked);
    if (!found.ok) throw new Error(found.error.message);
    expect(found.value.moves.map(({ id, from, to, why, value }) => [id, from, to, why, value])).toEqual([
      ["A", "Return 3.45 to 5.4", "Return 5.4 and up", "clearly past the cut", 10],
      ["B", "Return 3.45 to 5.4", "Return 2.4 to 3.45", "2 recomputes in a row past the cut", expect.closeTo(3.4, 5)],
      ["C", "Return under 1.2", "Return 2.4 to 3.45", "clearly past the cut", 3],
    ]);
    expect(found.value.byShelf.map(({ came, left }) => [came, left])).toEqual([
      [1, 0],
      [0, 2],
      [2, 0],
      [0, 0],
      [0, 1],
      [0, 0],
    ]);
    const one = await movements(db, "return-tiers", { ...asked, shelf: "hot" });
    expect(one.ok && one.value.moves.map(({ id }) => id)).toEqual(["A"]);
    expect(await movements(db, "return-tiers", { ...asked, from: formatDay(20_104) })).toMatchObject({
      error: { code: "days-turned" },
    });
  });

  it("says when it was the clicks that an item went past, and not the cut", async () => {
    const facts = rollUp([
      {
        ...{ campaign: 1, adGroup: 2, itemNo: 1, impressions: 9, clicks: 5, cost: 500 },
        orders: 0,
        units: 0,
        revenue: 0,
      },
    ]);
    const store = Buffer.from(encodeStore(storeColumns([])).buffer);
    await db.insert(dayRollups).values({ day: 20_104, ads: Buffer.from(encodeRollup(facts).buffer), store });
    await db.$client.execute("UPDATE workspace SET results_version = results_version + 1");
    await recomputeAll(db);
    const [stay] = (await itemStays(db, 1)).filter(({ set: of }) => of === "return-tiers");
    expect([stay!.shelf, stay!.why]).toEqual(["Unread", "clearly past the least clicks and orders"]);
  });

  it("of an item tells every stay", async () => {
    expect(
      (await itemStays(db, 2)).filter(({ set: of }) => of === "return-tiers").map(({ shelf, since }) => [shelf, since]),
    ).toEqual([
      ["Return 2.4 to 3.45", formatDay(20_103)],
      ["Return 3.45 to 5.4", formatDay(20_100)],
    ]);
  });

  it("goes on over a set that is edited, an item that leaves and one that comes", async () => {
    const renamed = { ...returnTiers(3), windowDays: 1, patience: 2, name: "Other", goal: 4 };
    await saveShelfSet(db, renamed);
    await recomputeShelfSet(db, "return-tiers");
    expect((await shelves("return-tiers", 20_100))[0]).toBe("Return 3.45 to 5.4");
    await importFeed(workspace, FEED.replace(/A,.*\n/, "E,New,9,Home,in stock,\n"), { acceptLoss: true });
    await runToEnd(db, workspace.info, "shelves", {});
    const found = await movements(db, "return-tiers", movementsSchema.parse({ from: formatDay(20_102) }));
    const told = found.ok ? found.value.moves.map(({ id, from, to }) => [id, from, to]) : [];
    expect(told).toContainEqual(["A", "Return 5.4 and up", null]);
    expect(told).toContainEqual(["E", null, "Unread"]);
  });
});

describe("a set without results", () => {
  it("has a history of calendar days, and days never go back when results of earlier ones come", async () => {
    const now = dayAt(Date.now(), "Europe/Berlin");
    await saveShelfSet(db, set("stock", rule("Sold", "availability", "out of stock")));
    await recomputeShelfSet(db, "stock");
    const empty = await movements(db, "return-tiers", movementsSchema.parse({}));
    expect(empty).toMatchObject({ value: { first: null, to: formatDay(now), total: 0 } });
    expect(await movements(db, "stock", movementsSchema.parse({}))).toMatchObject({
      value: { first: formatDay(now), total: 4 },
    });
    await day(20_100, 0, 0, 0, 0);
    await importFeed(workspace, FEED.replace("out of stock", "in stock"));
    await recomputeShelfSet(db, "stock");
    expect((await itemStays(db, 2)).map(({ since, shelf }) => [since, shelf])).toEqual([
      [formatDay(now), "All others"],
      [formatDay(now), "Sold"],
    ]);
    expect(await shelves("stock", now)).toEqual(await shelves("stock"));
  });
});

describe("recomputing by itself", () => {
  it("follows a reading, once for several of them", async () => {
    await importFeed(workspace, FEED);
    const waiting = (await listJobs(db)).filter(({ kind, state }) => kind === "shelves" && state === "waiting");
    expect(waiting).toHaveLength(1);
    await saveShelfSet(db, set("stock", rule("Sold", "availability", "out of stock")));
    await runToEnd(db, workspace.info, "shelves", {});
    expect(await shelves("stock")).toEqual(["All others", "Sold", "All others", "All others"]);
    await importFeed(
      workspace,
      FEED.replace("out of stock", "in stock").replace(
        "A,Red Hose,50,Garden,in stock",
        "A,Red Hose,50,Garden,out of stock",
      ),
    );
    const job = await runToEnd(db, workspace.info, "shelves", {});
    expect(job.result).toMatchObject({ moved: 2, held: [] });
    // A fact is no measure that wavers: who is sold out stands there at once.
    expect(await shelves("stock")).toEqual(["Sold", "All others", "All others", "All others"]);
  });

  it("stops and asks where more items would move than the set lets pass, and goes on when told", async () => {
    const careful = { ...set("stock", rule("Sold", "availability", "out of stock")), askAbove: 0.25 };
    await saveShelfSet(db, careful);
    await recomputeShelfSet(db, "stock");
    await importFeed(workspace, FEED.replaceAll("in stock", "out of stock"));
    const job = await runToEnd(db, workspace.info, "shelves", {});
    expect(job.result).toMatchObject({ held: ["STOCK"] });
    expect((await shelves("stock")).filter((name) => name === "Sold")).toHaveLength(1);
    const view = await viewShelfSet(db, "stock");
    expect(view.ok && view.value.held).toMatchObject({ moved: 3, items: 4 });
    expect(await recomputeShelfSet(db, "stock", { accept: true })).toMatchObject({ value: { moved: 3, held: false } });
    expect((await shelves("stock")).filter((name) => name === "Sold")).toHaveLength(4);
  });

  it("writes nothing while nothing is new", async () => {
    await recomputeAll(db);
    const count = (await db.select().from(shelfMoves)).length;
    await recomputeAll(db);
    expect((await db.select().from(shelfMoves)).length).toBe(count);
  });
});

describe("hand-picked shelves", () => {
  const picked = set("mine", picks("P"));
  const put = (asked: object) => putPicks(db, "mine", "p", pickListSchema.parse(asked));

  it("take a list in any case, keep unknown IDs for when they come, and say what a later list does", async () => {
    await saveShelfSet(db, picked);
    const first = await put({ text: "id\na;z-9" });
    expect(first).toMatchObject({ value: { counts: { added: 2, removed: 0, kept: 0, unknown: 1 }, unknown: ["z-9"] } });
    await recomputeShelfSet(db, "mine");
    expect(await shelves("mine")).toEqual(["P", "All others", "All others", "All others"]);
    const preview = await put({ text: "B", mode: "replace", preview: true });
    expect(preview).toMatchObject({ value: { counts: { added: 1, removed: 2 } } });
    expect((await listPicks(db, "mine", "p")).map(({ id }) => id).sort()).toEqual(["A", "z-9"]);
    await importFeed(workspace, `${FEED}Z-9,Late,5,Home,in stock,\n`);
    await recomputeShelfSet(db, "mine");
    expect(await shelves("mine")).toEqual(["P", "All others", "All others", "All others", "P"]);
  });

  it("know an ID in any case once, and two that differ in their case alone apart", async () => {
    await importFeed(workspace, `${FEED}a,Small a,5,Home,in stock,\n`);
    await saveShelfSet(db, picked);
    expect(await put({ text: "b\nB\nnew\nNEW" })).toMatchObject({ value: { counts: { added: 2, unknown: 1 } } });
    expect(await put({ text: "A, a", mode: "replace" })).toMatchObject({ value: { counts: { added: 2, removed: 2 } } });
    expect((await listPicks(db, "mine", "p")).map(({ id }) => id).sort()).toEqual(["A", "a"]);
    // As a spreadsheet that knows no case gives it back: each is where it was.
    expect(await put({ text: "A\na", mode: "replace" })).toMatchObject({ value: { counts: { added: 0, removed: 0 } } });
  });

  it("complete families, and hold for their days", async () => {
    const shelf = picked.shelves[0]!;
    await saveShelfSet(db, { ...picked, shelves: [{ ...shelf, families: true } as ShelfRule] });
    await put({ text: "A" });
    await put({ text: "C, 2000-01-01, 2000-02-01\nD, 2000-01-01" });
    await recomputeShelfSet(db, "mine");
    // B is of A's family; C's days are over, D's have begun.
    expect(await shelves("mine")).toEqual(["P", "P", "All others", "P"]);
  });

  it("refuse days that are none or turned, and a list of nothing, in a sentence", async () => {
    await saveShelfSet(db, picked);
    expect(await put({ ids: ["A"], from: "soon" })).toMatchObject({ error: { code: "day-unreadable" } });
    expect(await put({ ids: ["A"], from: "2026-02-01", until: "2026-01-01" })).toMatchObject({
      error: { code: "days-turned" },
    });
    expect(await put({ text: " ,; \n" })).toMatchObject({ error: { code: "picks-none" } });
    expect(await putPicks(db, "mine", "q", pickListSchema.parse({ ids: ["A"] }))).toMatchObject({
      error: { code: "shelf-unknown" },
    });
  });

  it("take 50,000 IDs, half of them unknown", async () => {
    const rows = Array.from({ length: 25_000 }, (_, i) => `K${i},Item ${i},5,Home,in stock,`);
    await importFeed(workspace, `${FEED}${rows.join("\n")}\n`);
    await saveShelfSet(db, picked);
    const text = Array.from({ length: 50_000 }, (_, i) => `k${i}`).join(", ");
    const done = await put({ text });
    expect(done).toMatchObject({ value: { counts: { added: 50_000, unknown: 25_000 } } });
    await recomputeShelfSet(db, "mine");
    const view = await viewShelfSet(db, "mine");
    expect(view.ok && view.value.shelves.map(({ items }) => items)).toEqual([25_000, 4]);
  });
});

describe("from anywhere to a shelf", () => {
  it("a search with conditions, and items one by one", async () => {
    const kept = await keep({
      newSet: "Mine",
      name: "Red ones",
      q: "red",
      where: {
        match: "any",
        of: [
          { field: "category", op: "is", value: "Home" },
          { field: "price", op: "at-least", value: "40000" },
        ],
      },
    });
    expect(kept).toMatchObject({ value: { set: "mine", shelf: "red-ones", items: 2 } });
    expect(await keep({ set: "mine", name: "Picked", ids: ["C"] })).toMatchObject({ value: { items: 1 } });
    expect(await shelves("mine")).toEqual(["Red ones", "All others", "Picked", "Red ones"]);
    // The same name again adds to a list; to conditions it can't.
    expect(await keep({ set: "mine", name: "picked", ids: ["B"] })).toMatchObject({ value: { items: 2 } });
    expect(await keep({ set: "mine", name: "Red ones", ids: ["B"] })).toMatchObject({
      error: { code: "shelf-name-taken" },
    });
  });

  it("a shelf of another set goes by what stays when it is renamed", async () => {
    await saveShelfSet(db, set("stock", rule("Sold", "availability", "out of stock")));
    await recomputeShelfSet(db, "stock");
    await keep({
      newSet: "Mine",
      name: "Gone",
      where: { match: "all", of: [{ field: "shelf:stock", op: "is", value: "Sold" }] },
    });
    await saveShelfSet(db, set("stock", { ...rule("Sold", "availability", "out of stock"), name: "Not to be had" }));
    await recomputeAll(db);
    expect(await shelves("mine")).toEqual(["All others", "Gone", "All others", "All others"]);
  });

  it("says in a sentence what can't be a shelf", async () => {
    expect(await keep({ newSet: "Mine", name: "All" })).toMatchObject({ error: { code: "shelf-asks-nothing" } });
    expect(await keep({ name: "X", q: "red" })).toMatchObject({ error: { code: "shelf-set-missing" } });
    const home = { match: "all", of: [{ field: "home", op: "is", value: "None" }] };
    expect(await keep({ newSet: "Mine", name: "X", where: home })).toMatchObject({
      error: { code: "shelf-asks-home" },
    });
    expect(await keep({ newSet: "Mine", name: "X", text: " ; " })).toMatchObject({ error: { code: "picks-none" } });
    expect((await listShelfSets(db)).map(({ definition: { name } }) => name)).not.toContain("Mine");
    expect(await keep({ set: "nowhere", name: "X", q: "red" })).toMatchObject({ error: { code: "shelf-set-unknown" } });
  });
});

describe("sets that lean on each other", () => {
  it("are refused in a circle, can't be removed while they are asked for, and outlive a field that goes away", async () => {
    await saveShelfSet(db, set("a", rule("X", "category", "Home")));
    await saveShelfSet(db, set("b", rule("Y", "shelf:a", "x")));
    expect(await saveShelfSet(db, set("a", rule("X", "shelf:b", "y")))).toMatchObject({
      error: { code: "shelf-sets-in-a-circle" },
    });
    expect(await saveShelfSet(db, set("c", rule("X", "shelf:nowhere", "y")))).toMatchObject({
      error: { code: "shelf-set-asked-gone" },
    });
    expect(await saveShelfSet(db, { ...set("d"), name: "A" })).toMatchObject({
      error: { code: "shelf-set-name-taken" },
    });
    expect(await removeShelfSet(db, "a")).toMatchObject({ error: { code: "shelf-set-in-use" } });
    await recomputeAll(db);
    expect(await shelves("b")).toEqual(["All others", "All others", "Y", "Y"]);
    expect(await removeShelfSet(db, "b")).toMatchObject({ ok: true });
    expect(await removeShelfSet(db, STARTING_SET)).toMatchObject({ error: { code: "shelf-set-needed" } });
    // The feed comes without a column of its own: the shelf holds nothing, says why, and the partition stands.
    const shades = ["id,title,price,shade", "A,Red Hose,50,dark", "B,Rake,20,light", "C,Pot,10,dark", "D,Red Pot,8,"];
    workspace = await testWorkspace(3);
    db = workspace.db;
    await importFeed(workspace, shades.join("\n"));
    await saveShelfSet(db, set("s", rule("Dark", "feed:shade", "dark")));
    await recomputeAll(db);
    expect(await shelves("s")).toEqual(["Dark", "All others", "Dark", "All others"]);
    await importFeed(workspace, shades.map((line) => line.replace(/,[^,]*$/, "")).join("\n"));
    await recomputeAll(db);
    const view = await viewShelfSet(db, "s");
    expect(view.ok && view.value.shelves.map(({ items }) => items)).toEqual([0, 4]);
    expect(view.ok && view.value.missing).toEqual(["feed:shade"]);
  });

  it("overlap in cells that add up to both", async () => {
    await saveShelfSet(db, set("a", rule("X", "category", "Home")));
    await saveShelfSet(db, set("b", rule("Y", "availability", "out of stock")));
    await day(20_100, 1_000, 2_000, 4_000, 8_000);
    await recomputeAll(db);
    const found = await shelfOverlap(db, { first: "a", second: "b" });
    expect(found.ok && found.value.cells.map((row) => row.map(({ items, revenue }) => [items, revenue]))).toEqual([
      [
        [0, 0],
        [2, 12_000],
      ],
      [
        [1, 2_000],
        [1, 1_000],
      ],
    ]);
  });
});

describe("a set that is taken away", () => {
  const mine = set("mine", picks("X"));
  const keys = async () => (await listShelfSets(db)).map(({ definition: { key } }) => key);

  it("comes back with its list and its history", async () => {
    await saveShelfSet(db, mine);
    await putPicks(db, "mine", "x", pickListSchema.parse({ ids: ["C"] }));
    await recomputeShelfSet(db, "mine");
    await removeShelfSet(db, "mine");
    expect(await keys()).not.toContain("mine");
    expect(await viewShelfSet(db, "mine")).toMatchObject({ error: { code: "shelf-set-unknown" } });
    expect(await restoreShelfSet(db, "mine")).toMatchObject({ ok: true });
    expect(await shelves("mine")).toEqual(["All others", "All others", "X", "All others"]);
    expect((await itemStays(db, 3)).filter(({ set: of }) => of === "mine")).toHaveLength(1);
    expect(await restoreShelfSet(db, "mine")).toMatchObject({ error: { code: "shelf-set-unknown" } });
  });

  it("leaves nothing to another one of its key", async () => {
    await saveShelfSet(db, mine);
    await putPicks(db, "mine", "x", pickListSchema.parse({ ids: ["C"] }));
    await recomputeShelfSet(db, "mine");
    await removeShelfSet(db, "mine");
    await saveShelfSet(db, { ...mine, name: "Another" });
    await recomputeShelfSet(db, "mine");
    expect(await shelves("mine")).toEqual(Array.from({ length: 4 }, () => "All others"));
    const [stay, ...older] = (await itemStays(db, 3)).filter(({ set: of }) => of === "mine");
    expect([stay!.shelf, older]).toEqual(["All others", []]);
  });

  it("comes back only where its name is free", async () => {
    await saveShelfSet(db, mine);
    await removeShelfSet(db, "mine");
    await saveShelfSet(db, { ...set("other"), name: "MINE" });
    expect(await restoreShelfSet(db, "mine")).toMatchObject({ error: { code: "shelf-set-name-taken" } });
  });

  it("and others stand in the order that people give them", async () => {
    await saveShelfSet(db, mine);
    await orderShelfSets(db, { keys: ["mine", "return-tiers"] });
    expect(await keys()).toEqual(["mine", "return-tiers", STARTING_SET]);
    expect(await orderShelfSets(db, { keys: ["nowhere"] })).toMatchObject({ error: { code: "shelf-set-unknown" } });
  });
});

describe("two who recompute at once", () => {
  it("keep one set of moves, and a set that is changed meanwhile is computed as it is then", async () => {
    await saveShelfSet(db, set("stock", rule("Sold", "availability", "out of stock")));
    await Promise.all([1, 2, 3].map(() => recomputeShelfSet(db, "stock")));
    expect((await db.select().from(shelfMoves)).filter(({ setKey }) => setKey === "stock")).toHaveLength(1);
    const [, , done] = await Promise.all([
      recomputeShelfSet(db, "stock", { accept: true }),
      saveShelfSet(db, set("stock", rule("Homely", "category", "Home"))),
      recomputeShelfSet(db, "stock", { accept: true }),
    ]);
    expect(done.ok).toBe(true);
    await recomputeShelfSet(db, "stock");
    expect(await shelves("stock")).toEqual(["All others", "All others", "Homely", "Homely"]);
  });

  it("keep the memory of a set that is only given another name", async () => {
    await saveShelfSet(db, { ...returnTiers(3), windowDays: 1 });
    await day(20_100, 40_000, 0, 0, 0);
    await recomputeShelfSet(db, "return-tiers");
    // 34 is below the cut of 34.5 by less than the margin: it stays, and goes on staying under another name.
    await day(20_101, 34_000, 0, 0, 0);
    await recomputeShelfSet(db, "return-tiers");
    await saveShelfSet(db, { ...returnTiers(3), windowDays: 1, name: "Tiers" });
    expect(await recomputeShelfSet(db, "return-tiers")).toMatchObject({ value: { moved: 0 } });
    expect((await shelves("return-tiers"))[0]).toBe("Return 3.45 to 5.4");
  });
});

describe("what a screen cuts by itself", () => {
  it("agrees with the server's preview of the same set, figure by figure", async () => {
    await day(20_100, 100_000, 40_000, 30_000, 0);
    const made = {
      ...returnTiers(3),
      windowDays: 1,
      shelves: [rule("Home", "category", "Home"), ...returnTiers(3).shelves],
    };
    const bytes = await liveSet(db, made);
    if (!bytes.ok) throw new Error(bytes.error.message);
    const figures = liveFigures(made, decodeLive(bytes.value.buffer));
    const view = await viewShelfSet(db, made.key, made);
    if (!view.ok) throw new Error(view.error.message);
    expect(view.value.shelves.map(({ items }) => items)).toEqual([2, 1, 1, 0, 0, 0, 0]);
    figures.shelves.forEach(({ came: _, left: __, ...one }, at) => {
      const { items, families, spendShare, salesShare, gap, priceFrom, priceTo, sums } = view.value.shelves[at]!;
      expect({ ...one, sums: one.sums.revenue }).toEqual({
        items,
        families,
        spendShare,
        salesShare,
        gap,
        priceFrom,
        priceTo,
        sums: sums.revenue,
      });
    });
  });
});

describe("picks with days", () => {
  it("are looked at again on the day they begin, once", async () => {
    const today = formatDay(dayAt(Date.now(), "Europe/Berlin"));
    await saveShelfSet(db, set("mine", picks("X")));
    await putPicks(db, "mine", "x", pickListSchema.parse({ ids: ["A"], from: today }));
    await recomputeShelfSet(db, "mine");
    await db.delete(jobs);
    const waiting = async () => (await listJobs(db)).length;
    await queueDueShelves(db, workspace.info);
    expect(await waiting()).toBe(0);
    // As if it had been computed the day before.
    await db.update(shelfSets).set({ computedAt: Date.now() - 86_400_000 });
    await queueDueShelves(db, workspace.info);
    await queueDueShelves(db, workspace.info);
    expect(await waiting()).toBe(1);
  });
});

describe("the label feed", () => {
  it("is read with its token only, in three forms, and counts what changed since", async () => {
    await saveShelfSet(db, set("stock", rule("Sold & <out>", "availability", "out of stock")));
    await recomputeAll(db);
    await setLabelColumns(db, { columns: [{ no: 0, name: "label_0", setKey: "stock" }] });
    const { token, changedSince } = await labelSettings(db);
    expect(changedSince).toBeNull();
    expect(await fetchLabels(db, "guessed", "csv")).toMatchObject({ error: { code: "label-feed-unknown" } });
    expect(await fetchLabels(db, token, "exe")).toMatchObject({ error: { code: "label-feed-unknown" } });
    const file = await fetchLabels(db, token, "csv");
    expect("file" in file && file.file).toBe(
      "id,label_0\r\nA,All others\r\nB,Sold & <out>\r\nC,All others\r\nD,All others\r\n",
    );
    const xml = await fetchLabels(db, token, "xml");
    expect("file" in xml && xml.file).toContain("<item><id>B</id><label_0>Sold &amp; &lt;out&gt;</label_0></item>");
    expect((await labelSettings(db)).changedSince).toBe(0);
    await importFeed(
      workspace,
      FEED.replace("C,Pot,10,Home,in stock", "C,Pot,10,Home,out of stock").replace(/D,.*\n/, ""),
      { acceptLoss: true },
    );
    await recomputeAll(db);
    // C has another label, D is gone.
    expect((await labelSettings(db)).changedSince).toBe(2);
    const renewed = await renewLabelToken(db);
    expect(await fetchLabels(db, token, "csv")).toMatchObject({ error: { code: "label-feed-unknown" } });
    expect("file" in (await fetchLabels(db, renewed.token, "tsv"))).toBe(true);
  });
});

describe("ready-made sets on a workspace", () => {
  it.each(READY_MADE.map((one) => [one.key, one] as const))(
    "%s can be kept and computed, with and without results",
    async (_, { make }) => {
      const made = make(3);
      expect(await saveShelfSet(db, made)).toMatchObject({ ok: true });
      expect(await recomputeShelfSet(db, made.key)).toMatchObject({ ok: true });
      await day(20_100, 40_000, 0, 5_000, 0);
      expect(await recomputeShelfSet(db, made.key)).toMatchObject({ ok: true });
      const view = await viewShelfSet(db, made.key);
      expect(view.ok && view.value.shelves.reduce((sum, { items }) => sum + items, 0)).toBe(4);
      expect(view.ok && view.value.missing).toEqual([]);
    },
  );
});
