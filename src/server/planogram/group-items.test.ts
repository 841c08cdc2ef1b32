import { beforeAll, describe, expect, it } from "vitest";
import { diffRecords } from "@/core/kit/diff";
import { testCampaign } from "@/core/market/test-shop";
import type { Database } from "@/db/client";
import { lookAtEdit } from "../account/homes-between";
import { addToBasket, importFeed, runToEnd, testWorkspace } from "../testing";
import { groupItemsSchema, itemsOfGroup } from "./group-items";
import { viewAccount, viewProductGroups } from "./workbench";

const ITEMS = Array.from({ length: 8 }, (_, i) => `I${i}`);
const FEED = `id,title,price,category\n${ITEMS.map((id, i) => `${id},Rake ${i},${10 + i},Garden > Rakes`).join("\n")}\n`;
const WINDOW = { from: 20_700, to: 20_709 };

let db: Database;

beforeAll(async () => {
  const workspace = await testWorkspace();
  ({ db } = workspace);
  await importFeed(workspace, FEED);
  await addToBasket(db, diffRecords({}, testCampaign("c:a", { name: "A", serveOrder: 2 }, ITEMS, 900)));
  await addToBasket(db, diffRecords({}, testCampaign("c:b", { name: "B", serveOrder: 7 }, ITEMS.slice(0, 3), 700)));
  await addToBasket(db, diffRecords({}, testCampaign("c:p", { name: "P", status: "paused" }, ITEMS, 700)));
  await runToEnd(db, workspace.info, "dispatch", { takesBack: null });
  await runToEnd(db, workspace.info, "market-run", { from: WINDOW.from, through: WINDOW.to, seed: "s" });
  await addToBasket(db, diffRecords({}, testCampaign("c:n", { name: "N", serveOrder: 9 }, ITEMS.slice(0, 2), 300)));
}, 60_000);

async function spent(where: string): Promise<number> {
  const sql = `SELECT sum(f.cost) FROM item_facts f JOIN items i ON i.item_no = f.item_no JOIN codes c ON c.no = f.campaign WHERE ${where}`;
  return Number((await db.$client.execute(sql)).rows[0]![0] ?? 0);
}

describe("the items of a group", () => {
  it("tell what they did in its campaign, as SQL does, and who serves them without it", async () => {
    const { total, items } = await itemsOfGroup(db, groupItemsSchema.parse({ group: "c:a", sort: "-cost" }), WINDOW);
    expect(total).toBe(ITEMS.length);
    for (const { id, sums, next } of items) {
      expect(sums.cost).toBe(await spent(`i.item_id = '${id}' AND c.text = 'c:a'`));
      // B comes before the new one in serve order; where neither holds the item nobody is left, the paused one least of all.
      expect(next).toBe(ITEMS.indexOf(id) < 3 ? "B" : null);
    }
    const costs = items.map(({ sums }) => sums.cost);
    expect(costs).toEqual([...costs].sort((a, b) => b - a));
    expect(costs[0]).toBeGreaterThan(0);
    expect((await itemsOfGroup(db, groupItemsSchema.parse({ group: "gone" }), WINDOW)).total).toBe(0);
  });
});

describe("the workbench", () => {
  it("says why a line is off, and what the items of a new one did before wherever they were served", async () => {
    const { lines } = await viewAccount(db, WINDOW, 3);
    const of = (key: string) => lines.find((line) => line.key === key)!;
    expect([of("c:a").off, of("c:p").off, of("g:c:p").off, of("c:n").off]).toEqual([null, "paused", "above", "new"]);
    expect(of("c:a").past).toBeNull();
    expect(of("c:n").sums.cost).toBe(0);
    expect(of("c:n").past?.cost).toBe(await spent("i.item_id IN ('I0', 'I1')"));
    expect(of("c:n").past!.cost).toBeGreaterThan(0);
  });

  it("sums a product group over its items in its own ad group", async () => {
    const { lines } = await viewProductGroups(db, "g:c:a", WINDOW);
    const units = lines.filter(({ items }) => items > 0);
    expect(units.reduce((sum, { sums }) => sum + sums.cost, 0)).toBe(await spent("c.text = 'c:a'"));
    expect(lines.map(({ off }) => off)).toEqual(ITEMS.map(() => null));
  });
});

describe("what becomes of items when a campaign is paused", () => {
  it("is told before: who serves them first then, and how many are left without a home", async () => {
    const pause = (keys: string[]) => lookAtEdit(db, { action: "status", keys, status: "paused" }, "EUR");
    // A holds all eight items and serves first; B takes three over, the others have nobody.
    expect(await pause(["c:a"])).toMatchObject({
      ok: true,
      value: { homes: { homed: 0, moved: 3, homeless: 5, takers: [{ campaign: "c:b", name: "B", items: 3 }] } },
    });
    expect(await pause(["c:b"])).toMatchObject({ ok: true, value: { homes: { moved: 0, homeless: 0, takers: [] } } });
    const all = await pause(["c:a", "c:b", "c:n"]);
    expect(all).toMatchObject({ ok: true, value: { homes: { moved: 0, homeless: 8 } } });
    expect(await lookAtEdit(db, { action: "serve-order", keys: ["c:b"], serveOrder: 1 }, "EUR")).toMatchObject({
      ok: true,
      value: { homes: { homed: 0, moved: 3, homeless: 0 } },
    });
    expect(await pause(["gone"])).toMatchObject({ ok: false, error: { code: "record-gone" } });
  });
});
