import { beforeAll, describe, expect, it } from "vitest";
import { planogramSchema } from "@/core/planogram/planogram";
import { editAccount } from "../account/edits";
import { walkAccount } from "../account/serving";
import { plannedAccount } from "../account/state";
import { importFeed, runToEnd, runWaiting, testWorkspace } from "../testing";
import { comeIntoStep, outOfStep } from "./in-step";
import { savePlanogram } from "./planograms";

interface Row {
  id: string;
  brand: string;
  stock?: boolean;
}
const ROWS: Row[] = Array.from({ length: 20 }, (_, i) => ({ id: `I${i}`, brand: i < 12 ? "Oak" : "Elm" }));
const feed = (rows: Row[]) =>
  `id,title,price,brand,category,availability\n${rows
    .map(({ id, brand, stock = true }) => `${id},Rake ${id},10,${brand},Garden,${stock ? "in stock" : "out of stock"}`)
    .join("\n")}\n`;
const planogram = (change: object) =>
  planogramSchema.parse({
    ...{ key: "p", name: "P", ladder: ["brand", "id"].map((by) => ({ by, largest: null })), campaignLine: 1 },
    ...{ adGroupLine: 1, inStockOnly: true, campaignName: [{ kind: "field", field: "level-1" }] },
    ...{
      adGroupName: [{ kind: "field", field: "campaign" }],
      purpose: "scale",
      bidding: "fixed",
      goal: null,
      totalBudget: 40_000,
    },
    ...{ shareBy: "items", startingBid: 300, serveOrder: 4, replaces: [], keepStep: { how: "propose", most: 3 } },
    ...change,
  });

let workspace: Awaited<ReturnType<typeof testWorkspace>>;

beforeAll(async () => {
  workspace = await testWorkspace();
  await importFeed(workspace, feed(ROWS));
  await savePlanogram(workspace.db, planogram({}));
  await runToEnd(workspace.db, workspace.info, "planogram-apply", { planogram: "p" });
  await runToEnd(workspace.db, workspace.info, "dispatch", { takesBack: null });
}, 60_000);

const read = (rows: Row[]) => importFeed(workspace, feed(rows), { acceptLoss: true });
const proof = async () => (await walkAccount(workspace.db, await plannedAccount(workspace.db))).proof;

describe("a planogram kept in step", () => {
  it("has nothing to say while the catalogue is as it was planned, or only sold out", async () => {
    const { db, info } = workspace;
    expect(await outOfStep(db, info)).toEqual([]);
    await read(ROWS.map((row, i) => (i === 3 ? { ...row, stock: false } : row)));
    expect(await outOfStep(db, info)).toEqual([]);
  });

  it("proposes homes for newcomers and other ones for items that changed; budgets stay as a person set them", async () => {
    const { db, info } = workspace;
    const campaign = (await plannedAccount(db)).all("campaign").find(({ name }) => name === "Oak")!;
    const budget = { action: "budget" as const, keys: [campaign.key], op: { how: "set" as const, mills: 33_000 } };
    await editAccount(db, "test", null, budget, info.currency);
    await read([
      ...ROWS.map((row, i) => (i === 0 ? { ...row, brand: "Elm" } : row)),
      { id: "N1", brand: "Oak" },
      { id: "N2", brand: "Ash" },
    ]);
    const [step] = await outOfStep(db, info);
    expect(step).toMatchObject({ key: "p", homed: 3, moved: 0, homeless: 0 });
    expect((await proof()).none).toBe(3);
    expect(await comeIntoStep(db, "test", "p")).toMatchObject({ ok: true, value: { changes: step!.changes } });
    expect(await proof()).toMatchObject({ none: 0, one: 22, several: 0 });
    const account = await plannedAccount(db);
    expect(account.find("campaign", campaign.key)!.dailyBudget).toBe(33_000);
    expect(account.all("campaign").map(({ name }) => name)).toEqual(["Oak", "Elm", "Ash"]);
    expect(await outOfStep(db, info)).toEqual([]);
    await runToEnd(db, info, "dispatch", { takesBack: null });
  });

  it("comes into step by itself after a reading, but not where more items move than it lets pass", async () => {
    const { db, info } = workspace;
    await savePlanogram(db, planogram({ keepStep: { how: "apply", most: 3 } }));
    const now = [...ROWS.map((row, i) => (i === 0 ? { ...row, brand: "Elm" } : row)), { id: "N1", brand: "Oak" }];
    await read([...now, { id: "N2", brand: "Ash" }, { id: "N3", brand: "Elm" }]);
    await runWaiting(db, info);
    expect((await proof()).none).toBe(0);
    expect(await outOfStep(db, info)).toEqual([]);

    // A brand that is called otherwise takes all its items out of the groups that name them.
    await read([...now.map((row) => ({ ...row, brand: row.brand === "Oak" ? "Oakwood" : row.brand }))]);
    await runWaiting(db, info);
    const [step] = await outOfStep(db, info);
    expect(step!.homed + step!.moved).toBeGreaterThan(3);
    // Said to be the same brand by another name: the same campaign goes on, with its key and so its history.
    const oak = (await plannedAccount(db)).all("campaign").find(({ name }) => name === "Oak")!;
    const rename = { action: "rename-value" as const, by: "brand", from: "Oak", to: "Oakwood" };
    expect(await editAccount(db, "test", null, rename, info.currency)).toMatchObject({ ok: true });
    const [left] = await outOfStep(db, info);
    expect(left?.homed ?? 0).toBe(0);
    await comeIntoStep(db, "test", "p");
    const account = await plannedAccount(db);
    expect(account.find("campaign", oak.key)).toMatchObject({ name: "Oakwood", status: "on" });
    expect(account.all("campaign").filter(({ name }) => name.startsWith("Oak"))).toHaveLength(1);
    expect(await proof()).toMatchObject({ none: 0, several: 0 });
    expect(await outOfStep(db, info)).toEqual([]);
  });
});
