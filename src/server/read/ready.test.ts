import { afterAll, beforeAll, expect, it } from "vitest";
import { openDatabase, type Database } from "@/db/client";
import { firstAsks, ready } from "@/db/schema";
import { testWorkspace } from "../testing";
import { listFirstAsks, noteFirstAsk } from "./first-asks";
import { allStored, rememberReady, storeWhatIsReady } from "./ready";

let one: Database;
let other: Database;
let made = 0;
let url: string;

beforeAll(async () => {
  const { db, info } = await testWorkspace();
  one = db;
  // Another process has a database and a memory of its own.
  url = `file:${process.env["HOTSHELF_DATA_DIR"]}/${info.slug}.db`;
  other = await openDatabase(url);
  storeWhatIsReady();
});
afterAll(() => other.$client.close());

const value = () => ({
  sums: Float64Array.of(1.5, NaN, -0),
  places: Uint32Array.of(3, 4),
  by: new Map([["a", { text: "ü – 1" }]]),
  none: null,
});
const ask = async (db: Database, stamp: (string | number)[], build: string | undefined = "b1", keep = 2) => {
  const found = await rememberReady(db, "thing", stamp, () => (made++, value()), keep, build);
  await allStored();
  return found;
};

it("waits for no turn to write, which whoever asks may hold", async () => {
  const tx = await one.$client.transaction("write");
  const found = rememberReady(one, "other thing", [1], () => 7, 1, "b1");
  expect(await found).toBe(7);
  await tx.commit();
  tx.close();
  await allStored();
  expect(await rememberReady(other, "other thing", [1], () => 8, 1, "b1")).toBe(7);
  await one.delete(ready);
});

const stored = async () =>
  (await one.select({ stamp: ready.stamp, build: ready.build }).from(ready)).map(Object.values);

it("is worked out once for all processes, and comes back as it was", async () => {
  await ask(one, [1, "x"]);
  expect(await ask(other, [1, "x"])).toEqual(value());
  expect(made).toBe(1);
});

it("is worked out anew of something else, by another build, and from sources", async () => {
  await ask(other, [2, "x"]);
  expect(made).toBe(2);
  await ask(other, [1, "y"], undefined);
  expect(made).toBe(3);
  // The build is no part of the stamp: two processes of two builds never meet in one memory.
  const third = await openDatabase(url);
  await ask(third, [2, "x"], "b2");
  third.$client.close();
  expect(made).toBe(4);
  // What another build made is never read again.
  expect(await stored()).toEqual([['[2,"x"]', "b2"]]);
});

it("lets the oldest of a name go", async () => {
  for (const n of [3, 4, 5]) {
    await ask(one, [n], "b2");
    await new Promise((resolve) => setTimeout(resolve, 2));
  }
  expect((await stored()).map(([stamp]) => stamp).sort()).toEqual(["[4]", "[5]"]);
});

it("is worked out again where what is stored can't be read", async () => {
  await one.update(ready).set({ body: Buffer.from("no such thing") });
  const before = made;
  expect(await ask(other, [5], "b2")).toEqual(value());
  expect(made).toBe(before + 1);
});

it("what pages asked first is kept for a fortnight, last asked first, long questions left out", async () => {
  const day = 24 * 60 * 60_000;
  await noteFirstAsk(one, "till?days=30", 0);
  await noteFirstAsk(one, "moves?limit=4", 2 * day);
  await noteFirstAsk(one, "till?days=30", 3 * day);
  await noteFirstAsk(one, `items?q=${"x".repeat(3000)}`, 3 * day);
  expect(await listFirstAsks(one, 4 * day)).toEqual(["till?days=30", "moves?limit=4"]);
  expect(await listFirstAsks(one, 16.5 * day)).toEqual(["till?days=30"]);
  // Noted within the hour already: nothing is written.
  await noteFirstAsk(one, "till?days=30", 3 * day + 1000);
  expect((await one.select().from(firstAsks)).map(({ at }) => at)).toContain(3 * day);
});
