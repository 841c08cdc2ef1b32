import { expect, it } from "vitest";
import { isBusy } from "@/db/turns";
import { firstAsks } from "@/db/schema";
import { bulkInsert, bulkSelect } from "./bulk";
import { testWorkspace } from "./testing";

it("reads every row once, over pages and gaps, as it was written", async () => {
  const { db } = await testWorkspace();
  const rows = Array.from({ length: 10_001 }, (_, i): [string, number] => [`a "quoted" ü ${i}`, i]);
  await bulkInsert(db.$client, firstAsks, ["path", "at"], rows);
  await db.$client.execute("DELETE FROM first_asks WHERE at % 7 = 3");
  const left = rows.filter(([, at]) => at % 7 !== 3);
  const read = async (where?: string) => {
    const found: unknown[][] = [];
    for await (const page of bulkSelect(db.$client, firstAsks, ["path", "at"], where)) found.push(...page);
    return found;
  };
  expect(await read()).toEqual(left);
  expect(await read("at >= 9000 OR at < 5")).toEqual(left.filter(([, at]) => at >= 9000 || at < 5));
  expect(await read("at < 0")).toEqual([]);
});

it("tells a lock of another process from all else, however deep it was passed on", () => {
  const busy = Object.assign(new Error("x"), { code: "SQLITE_BUSY_SNAPSHOT" });
  expect(isBusy(new Error("failed query", { cause: busy }))).toBe(true);
  expect(
    [null, new Error("x"), Object.assign(new Error("x"), { code: "SQLITE_FULL", cause: busy })].map(isBusy),
  ).toEqual([false, false, false]);
});
