import { describe, expect, it } from "vitest";
import { blankSet } from "@/core/shelves/ready-made";
import { shelfSetSchema } from "@/core/shelves/shelf-set";
import { recomputeShelfSet } from "../shelves/compute";
import { saveShelfSet } from "../shelves/sets";
import { storeAdDay } from "../results/ad-day.testing";
import { loadWindow } from "../results/load";
import { importFeed, testWorkspace } from "../testing";
import { clickWorths } from "./click-worths";
import { loadEvidence } from "../evidence/items";

describe("what a click on an item is worth", () => {
  it("is nothing anybody knows without results, then orders × value by evidence, towards the campaign's own goal", async () => {
    const workspace = await testWorkspace(3);
    await importFeed(workspace, "id,title,price,category\nA,Hose,50,Garden\nB,Rake,20,Garden\n");
    expect((await clickWorths(workspace.db))(0, null)).toBeNull();
    await storeAdDay(workspace, 20_700, [
      [1, 100, 30_000, 50_000],
      [2, 100, 30_000, 20_000],
    ]);
    const worthOf = await clickWorths(workspace.db);
    const { orderRate, orderValue } = await loadEvidence(
      workspace.db,
      await loadWindow(workspace.db, { from: 20_700 - 89, to: 20_700 }),
    );
    for (const row of [0, 1]) {
      const sales = orderRate[row]! * orderValue[row]!;
      expect(worthOf(row, null)).toEqual({ sales: expect.closeTo(sales, 9), margin: null, goal: 3 });
      expect(worthOf(row, 4.5)).toMatchObject({ goal: 4.5 });
    }
    expect(worthOf(0, null)!.sales).toBeGreaterThan(worthOf(1, null)!.sales);
    // A shelf's own goal stands before the workspace's, and after the campaign's.
    const dear = shelfSetSchema.parse({
      ...blankSet("dear", "Dear", 3, []),
      shelves: [
        {
          ...{ kind: "rule", key: "dear", name: "Dear", goal: 6 },
          where: { match: "all", of: [{ field: "price", op: "at-least", value: "30000" }] },
        },
      ],
    });
    expect((await saveShelfSet(workspace.db, dear)).ok).toBe(true);
    expect((await recomputeShelfSet(workspace.db, "dear")).ok).toBe(true);
    const withShelf = await clickWorths(workspace.db);
    expect([withShelf(0, null)!.goal, withShelf(1, null)!.goal, withShelf(0, 4.5)!.goal]).toEqual([6, 3, 4.5]);
  });
});
