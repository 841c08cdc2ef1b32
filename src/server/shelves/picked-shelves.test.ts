import { describe, expect, it } from "vitest";
import { dayAt, formatDay } from "@/core/kit/days";
import type { ShelfRule } from "@/core/shelves/shelf-set";
import { jobs, shelfSets } from "@/db/schema";
import { listJobs } from "../jobs/jobs";
import { importFeed } from "../testing";
import { recomputeAll, recomputeShelfSet } from "./compute";
import { queueDueShelves } from "./job";
import { listPicks, pickListSchema, putPicks } from "./picks";
import { listShelfSets, saveShelfSet } from "./sets";
import { viewShelfSet } from "./view";
import { FEED, db, keep, picks, rule, set, shelves, withFreshWorkspace, workspace } from "./testing";

withFreshWorkspace();

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
