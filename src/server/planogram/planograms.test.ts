import { beforeAll, describe, expect, it } from "vitest";
import { recordsOf } from "@/core/account/testing";
import type { Planogram } from "@/core/planogram/planogram";
import type { Database } from "@/db/client";
import { editAccount } from "../account/edits";
import { readAccount } from "../account/state";
import { windowOfDays } from "../results/window";
import { recomputeShelfSet } from "../shelves/compute";
import { listShelfSets, saveShelfSet } from "../shelves/sets";
import { importFeed, liveStructure, runToEnd, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { previewPlanogram, savePlanogram, splitFields } from "./planograms";
import { viewAccount, viewProductGroups } from "./workbench";

const FEED = [
  "id,title,price,brand,category,gtin,availability",
  ...Array.from({ length: 30 }, (_, i) => {
    const stock = i % 10 === 9 ? "out of stock" : "in stock";
    return `I${i},Rake ${i},${10 + i},Maker${i % 3},Garden > ${i % 2 ? "Rakes" : "Hoses"},400000000000${i % 7},${stock}`;
  }),
].join("\n");

const PLAN: Planogram = {
  key: "by-shelf",
  name: "By shelf",
  ladder: [
    { by: "shelf:return-tiers", largest: null },
    { by: "brand", largest: null },
  ],
  campaignLine: 1,
  adGroupLine: 1,
  inStockOnly: false,
  campaignName: [{ kind: "field", field: "level-1" }],
  adGroupName: [{ kind: "field", field: "level-1" }],
  purpose: "scale",
  bidding: "fixed",
  goal: null,
  totalBudget: 30_000,
  shareBy: "items",
  startingBid: 400,
  serveOrder: 3,
  replaces: [],
};

let db: Database;
let info: WorkspaceInfo;

beforeAll(async () => {
  const workspace = await testWorkspace();
  ({ db, info } = workspace);
  await importFeed(workspace, FEED);
  const all = { ...PLAN, key: "all", name: "All", ladder: [{ by: "category2", largest: null }], campaignLine: 0 };
  await savePlanogram(db, { ...all, campaignName: [{ kind: "field", field: "planogram" }], serveOrder: 5 });
  await runToEnd(db, info, "planogram-apply", { planogram: "all" });
  await runToEnd(db, info, "dispatch", { takesBack: null });
  await runToEnd(db, info, "market-run", { from: 20_700, through: 20_760, seed: "s" });
  await recomputeShelfSet(db, "return-tiers");
  await savePlanogram(db, PLAN);
  await runToEnd(db, info, "planogram-apply", { planogram: "by-shelf" });
  await runToEnd(db, info, "dispatch", { takesBack: null });
});

describe("the fields of a ladder", () => {
  it("are those that divide something: no item's own texts but the items themselves", async () => {
    const offered = (await splitFields(db)).map(({ by }) => by);
    expect(offered).toEqual(expect.arrayContaining(["id", "brand", "category1", "shelf:return-tiers"]));
    for (const own of ["gtin", "title", "link", "image", "description"]) expect(offered).not.toContain(own);
  });

  it("are refused in a sentence where a script asks for another one", async () => {
    const asked = await previewPlanogram(db, { ...PLAN, ladder: [{ by: "gtin", largest: null }], adGroupLine: 1 });
    expect(asked).toMatchObject({ ok: false, error: { code: "planogram-split-unfit" } });
    const ladder = [{ by: "feed:colour", largest: null }];
    const gone = await previewPlanogram(db, { ...PLAN, ladder, adGroupLine: 1 });
    expect(gone).toMatchObject({ ok: false, error: { code: "planogram-field-gone" } });
  });
});

describe("a shelf that is given another name", () => {
  it("stays where it is in campaigns: a new plan only tells its new name", async () => {
    const before = await liveStructure(db);
    const set = (await listShelfSets(db)).find(({ definition }) => definition.key === "return-tiers");
    const shelves = set!.definition.shelves.map((shelf) => ({ ...shelf, name: `Tier ${shelf.key}`, value: undefined }));
    await saveShelfSet(db, { ...set!.definition, shelves });
    await recomputeShelfSet(db, "return-tiers");
    await runToEnd(db, info, "planogram-apply", { planogram: "by-shelf" });
    const { held } = await readAccount(db);
    expect([Object.keys(held.added), Object.keys(held.removed)]).toEqual([[], []]);
    // Names follow where people left them alone; keys, values and groups are what they were.
    for (const [from, to] of Object.values(held.changed)) {
      expect({ ...to, name: null, items: null }).toEqual({ ...from, name: null, items: null });
    }
    const renamed = Object.values(held.changed).filter(([from]) => from.type === "campaign");
    expect(renamed.length).toBeGreaterThan(0);
    for (const [, to] of renamed) expect("name" in to && to.name).toMatch(/^(Tier|Unread)/);
    await runToEnd(db, info, "dispatch", { takesBack: null });
    expect(Object.keys(await liveStructure(db)).sort()).toEqual(Object.keys(before).sort());
  });
});

describe("the workbench", () => {
  it("agrees with SQL on spend and sales, and with the catalogue on items", async () => {
    const window = await windowOfDays(db, 30);
    const { lines, version } = await viewAccount(db, window, 3);
    expect(version).toBe((await readAccount(db)).version);
    const { rows } = await db.$client.execute({
      sql: `SELECT c.text, sum(f.cost), sum(f.revenue), sum(f.orders) FROM item_facts f JOIN codes c ON c.no = f.campaign
            WHERE f.day BETWEEN ? AND ? GROUP BY c.text`,
      args: [window.from, window.to],
    });
    expect(rows.length).toBeGreaterThan(0);
    for (const row of rows) {
      const { sums } = lines.find(({ key }) => key === String(row[0]))!;
      expect([sums.cost, sums.revenue, sums.orders]).toEqual([Number(row[1]), Number(row[2]), Number(row[3])]);
    }
    // Every item stands in one campaign of the plan by shelf.
    const mine = lines.filter(({ level, key }) => level === "campaign" && key.startsWith("c:by-shelf"));
    expect(mine.reduce((sum, { items }) => sum + items, 0)).toBe(30);
    for (const { key, items } of mine) {
      const below = lines.filter(({ parent }) => parent === key);
      expect(below.reduce((sum, line) => sum + line.items, 0)).toBe(items);
      for (const group of below) {
        const { lines: units } = await viewProductGroups(db, group.key, null);
        expect(units.reduce((sum, line) => sum + line.items, 0)).toBe(group.items);
      }
    }
  });

  it("marks what waits, and nothing else", async () => {
    const [campaign] = recordsOf(await liveStructure(db), "campaign");
    await editAccount(
      db,
      "tester",
      null,
      { action: "budget", keys: [campaign!.key], op: { how: "set", mills: 77_000 } },
      "EUR",
    );
    const { lines } = await viewAccount(db, null, 3);
    expect(lines.filter(({ waiting }) => waiting !== null).map(({ key, waiting }) => [key, waiting])).toEqual([
      [campaign!.key, "changed"],
    ]);
  });
});
