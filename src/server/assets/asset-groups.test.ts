import { beforeAll, describe, expect, it } from "vitest";
import { assetsKey } from "@/core/account/records/assets";
import { leastAssets, testCampaign } from "@/core/market/test-shop";
import { diffRecords } from "@/core/kit/diff";
import { planogramSchema } from "@/core/planogram/planogram";
import { editAccount } from "../account/edits";
import { plannedAccount } from "../account/state";
import { savePlanogram } from "../planogram/planograms";
import { addToBasket, importFeed, runToEnd, testWorkspace } from "../testing";
import { assetsOf, listAssetGroups, lookAtAssets, lookAtAssetsSchema } from "./asset-groups";

const ITEMS = Array.from({ length: 12 }, (_, i) => `I${i}`);
const FEED = `id,title,price,category,brand,image_link\n${ITEMS.map(
  (id, i) =>
    `${id},Rake ${i},${10 + i},Garden > ${i % 3 ? "Rakes" : "Hoses"},${i % 2 ? "Oak" : ""},https://s.example/${i}.png`,
).join("\n")}\n`;
const line = (field: string) => [{ kind: "field" as const, field }];

let workspace: Awaited<ReturnType<typeof testWorkspace>>;

beforeAll(async () => {
  workspace = await testWorkspace();
  const { db, info } = workspace;
  await importFeed(workspace, FEED);
  await addToBasket(db, diffRecords({}, testCampaign("c:a", { name: "A", kind: "asset" }, ITEMS.slice(0, 8), 900)));
  await addToBasket(db, diffRecords({}, testCampaign("c:b", { name: "B", kind: "asset" }, ITEMS.slice(6), 900)));
  await runToEnd(db, info, "dispatch", { takesBack: null });
  await runToEnd(db, info, "market-run", { from: 20_700, through: 20_704, seed: "s" });
}, 60_000);

describe("asset groups", () => {
  it("say how far their ads reach, what they share, and what they did, as SQL does", async () => {
    const { db, info } = workspace;
    const { groups } = await listAssetGroups(db, info, { from: 20_700, to: 20_704 });
    expect(groups.map(({ items, complete, shared, sharesWith }) => [items, complete, shared, sharesWith])).toEqual([
      [8, 8, 2, "c:b"],
      [6, 6, 2, "c:a"],
    ]);
    for (const { adGroup, sums } of groups) {
      const sql = `SELECT sum(f.clicks) FROM item_facts f JOIN codes c ON c.no = f.ad_group WHERE c.text = '${adGroup}'`;
      expect(sums.clicks).toBe(Number((await db.$client.execute(sql)).rows[0]![0]));
      expect(sums.clicks).toBeGreaterThan(0);
    }
  });

  it("are looked at before anything is kept, and edited many at once with a way back", async () => {
    const { db, info } = workspace;
    const assets = {
      ...leastAssets("g:c:a"),
      headlines: [line("title"), line("brand")],
      descriptions: [line("brand")],
    };
    const asked = lookAtAssetsSchema.parse({ assets, adGroup: "g:c:a", find: "rake 3" });
    const look = await lookAtAssets(db, info, asked);
    if (!look.ok) throw new Error(look.error.message);
    expect([look.value.of, look.value.readiness.complete]).toEqual([8, 4]);
    expect(look.value.samples).toMatchObject([
      { id: "I3", ad: { headlines: ["Rake 3", "Oak"], descriptions: ["Oak"] } },
    ]);
    const keys = ["g:c:a", "g:c:b"];
    const done = await editAccount(db, "test", null, { action: "assets", keys, assets: asked.assets }, info.currency);
    expect(done).toMatchObject({ ok: true, value: { changes: 2 } });
    const { groups } = await listAssetGroups(db, info, null);
    expect(groups.map(({ complete, waiting }) => [complete, waiting])).toEqual([
      [4, "changed"],
      [3, "changed"],
    ]);
    expect(await assetsOf(db, "g:c:b")).toMatchObject({ ok: true, value: { headlines: asked.assets.headlines } });
    expect(await assetsOf(db, "gone")).toMatchObject({ ok: false, error: { code: "asset-group-gone" } });
  });

  it("belong to asset campaigns alone", async () => {
    const { db, info } = workspace;
    await addToBasket(db, diffRecords({}, testCampaign("c:f", { name: "F" }, ITEMS, 300)));
    const intent = { action: "assets" as const, keys: ["g:c:f"], assets: leastAssets("g:c:f") };
    expect(await editAccount(db, "test", null, intent, info.currency)).toMatchObject({
      ok: false,
      error: { code: "edit-unfit" },
    });
  });

  it("are made by a ladder, follow a new plan but for what was changed by hand, and go with their kind", async () => {
    const { db, info } = workspace;
    const { key: _, adGroup: __, type: ___, ...assets } = leastAssets("");
    const planogram = (change: object) =>
      planogramSchema.parse({
        ...{ key: "p", name: "P", ladder: [{ by: "category", largest: null }], campaignLine: 0, adGroupLine: 1 },
        ...{
          inStockOnly: true,
          campaignName: [{ kind: "field", field: "planogram" }],
          adGroupName: [{ kind: "field", field: "level-1" }],
        },
        ...{ purpose: "scale", bidding: "fixed", goal: null, totalBudget: 100_000, shareBy: "evenly" },
        ...{ startingBid: 300, serveOrder: 4, replaces: [], kind: "asset", assets, ...change },
      });
    const apply = async (change: object) => {
      expect(await savePlanogram(db, planogram(change))).toMatchObject({ ok: true });
      expect(await runToEnd(db, info, "planogram-apply", { planogram: "p" })).toMatchObject({ state: "done" });
      const account = await plannedAccount(db);
      return account.all("adGroup").flatMap((group) => (group.campaign === "c:p" ? [[group, account] as const] : []));
    };
    const made = await apply({});
    expect(made).toHaveLength(2);
    const [hoses, rakes] = made.map(([{ key }]) => key) as [string, string];
    for (const [{ key }, account] of made) {
      expect(account.find("assets", assetsKey(key))).toMatchObject({ headlines: assets.headlines });
    }
    const own = { ...assets, headlines: [line("title"), line("price")] };
    await editAccount(db, "test", null, { action: "assets", keys: [rakes], assets: own }, info.currency);
    await runToEnd(db, info, "dispatch", { takesBack: null });
    const [[, again]] = (await apply({ assets: { ...assets, headlines: [line("brand"), line("title")] } })) as [
      (typeof made)[number],
    ];
    expect(again.find("assets", assetsKey(hoses))!.headlines).toEqual([line("brand"), line("title")]);
    expect(again.find("assets", assetsKey(rakes))!.headlines).toEqual(own.headlines);
    const [[, asFeed]] = (await apply({ kind: "feed" })) as [(typeof made)[number]];
    expect(asFeed.all("assets").filter(({ adGroup }) => adGroup.startsWith("g:p"))).toEqual([]);
    expect(asFeed.find("campaign", "c:p")!.kind).toBe("feed");
  });
});
