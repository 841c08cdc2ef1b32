import { beforeAll, describe, expect, it } from "vitest";
import { diffRecords } from "@/core/kit/diff";
import { testCampaign } from "@/core/market/test-shop";
import { addToBasket, importFeed, testWorkspace } from "../../testing";
import { soloStart } from "./solo-start";

let workspace: Awaited<ReturnType<typeof testWorkspace>>;
const start = (...items: string[]) => soloStart(workspace.db, workspace.info, { items });

beforeAll(async () => {
  workspace = await testWorkspace();
  const rows = [
    ["1", "Oak rake small", "Tools > Rakes"],
    ["2", "Oak rake large", "Tools > Rakes"],
    ["3", "Steel fork", "Tools > Forks"],
    ["4", "Basil seeds", "Seeds"],
    ["5", "Chive seeds", "Seeds"],
  ];
  const lines = rows.map(([id, title, category]) => `${id},${title},9.00,${category}`);
  await importFeed(workspace, `id,title,price,category\n${lines.join("\n")}\n`);
  const { db } = workspace;
  await addToBasket(db, diffRecords({}, testCampaign("c:t", { name: "Tools", dailyBudget: 60_000 }, ["1", "2"], 350)));
  const last = { name: "All the rest", purpose: "catch-all", dailyBudget: 900_000, serveOrder: 9 } as const;
  await addToBasket(db, diffRecords({}, testCampaign("c:r", last, ["1", "2", "3"], 200)));
});

describe("a campaign of their own", () => {
  it("begins with a quarter of what serves its items now, at the bid they have, called after what they share", async () => {
    expect(await start("1", "2")).toEqual({
      ...{ name: "Oak rake", from: { name: "Tools", items: 2 }, dailyBudget: 15_000, bid: 350 },
    });
    // Most are served by Tools; their titles begin with nothing alike, but all lie in one category.
    expect(await start("1", "2", "3")).toMatchObject({ name: "Tools", from: { name: "Tools", items: 2 }, bid: 350 });
    expect(await start("3")).toMatchObject({ name: "Steel fork", dailyBudget: 225_000, bid: 200 });
  });

  it("begins with a whole number of cents, as amounts are written", async () => {
    await addToBasket(
      workspace.db,
      diffRecords({}, testCampaign("c:s", { name: "Seeds", dailyBudget: 4_500 }, ["5"], 200)),
    );
    expect(await start("5")).toMatchObject({ from: { name: "Seeds" }, dailyBudget: 1_130 });
  });

  it("begins with usual amounts where nothing serves them, and without a name where they share nothing", async () => {
    expect(await start("4")).toEqual({ name: "Basil seeds", from: null, dailyBudget: 5_000, bid: 400 });
    expect(await start("3", "4")).toMatchObject({ name: "", from: { items: 1 } });
    expect(await start("unknown")).toMatchObject({ name: "", from: null });
  });
});
