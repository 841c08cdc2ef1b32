import { beforeEach, describe, expect, it } from "vitest";
import { encodeRollup, encodeStore } from "@/core/results/day-columns";
import { rollUp, storeColumns } from "@/core/results/roll-up-days";
import { dayAt, formatDay } from "@/core/kit/days";
import { returnTiers } from "@/core/shelves/ready-made";
import { dayRollups, shelfMoves } from "@/db/schema";
import { listJobs } from "../jobs/jobs";
import { importFeed, runToEnd } from "../testing";
import { recomputeAll, recomputeShelfSet } from "./compute";
import { itemStays, movements, movementsSchema } from "./history";
import { saveShelfSet } from "./sets";
import { viewShelfSet } from "./view";
import { FEED, day, db, rule, set, shelves, withFreshWorkspace, workspace } from "./testing";

withFreshWorkspace();

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
      ["B", "Return 3.45 to 5.4", "Return 2.4 to 3.45", "2 days in a row past the cut", expect.closeTo(3.4, 5)],
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

  it("moves nothing, and counts no day, when something else than a day of results comes in", async () => {
    // B stood beyond the cut on one day alone; a placement file and a dispatch move what results are known by, not the days.
    await day(20_104, 100_000, 36_000, 30_000, 0);
    await recomputeAll(db);
    await day(20_105, 100_000, 34_000, 30_000, 0);
    await recomputeAll(db);
    const before = await shelves("return-tiers");
    for (let i = 0; i < 3; i++) {
      await db.$client.execute("UPDATE workspace SET results_version = results_version + 1");
      await recomputeAll(db);
    }
    expect(await shelves("return-tiers")).toEqual(before);
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
