import { describe, expect, it } from "vitest";
import { READY_MADE, STARTING_SET } from "@/core/shelves/ready-made";
import { importFeed } from "../testing";
import { recomputeAll, recomputeShelfSet } from "./compute";
import { itemStays } from "./history";
import { pickListSchema, putPicks } from "./picks";
import { listShelfSets, orderShelfSets, removeShelfSet, restoreShelfSet, saveShelfSet } from "./sets";
import { shelfOverlap } from "./overlap";
import { viewShelfSet } from "./view";
import { freshWorkspace, day, db, picks, rule, set, shelves, withFreshWorkspace, workspace } from "./testing";

withFreshWorkspace();

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
    await freshWorkspace(shades.join("\n"));
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
