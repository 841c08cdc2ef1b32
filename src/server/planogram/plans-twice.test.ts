import { beforeAll, describe, expect, it } from "vitest";
import { planogramSchema } from "@/core/planogram/planogram";
import { editAccount } from "../account/edits";
import { plannedAccount } from "../account/state";
import { putBack, removeFromBasket } from "../dispatch/take-out";
import { importFeed, runToEnd, testWorkspace } from "../testing";
import { comeIntoStep } from "./in-step";
import { savePlanogram } from "./planograms";

let workspace: Awaited<ReturnType<typeof testWorkspace>>;

const feed = (rows: [id: string, brand: string][]) =>
  `id,title,price,brand\n${rows.map(([id, brand]) => `${id},Rake ${id},5.00,${brand}`).join("\n")}\n`;
const ROWS: [string, string][] = [
  ["1", "Oak"],
  ["2", "Oak"],
  ["3", "Elm"],
];

const planogram = (change: object) =>
  planogramSchema.parse({
    ...{ key: "p", name: "P", ladder: [{ by: "brand", largest: null }], campaignLine: 1, adGroupLine: 1 },
    ...{
      inStockOnly: false,
      campaignName: [{ kind: "field", field: "level-1" }],
      adGroupName: [{ kind: "field", field: "campaign" }],
    },
    ...{ purpose: "scale", bidding: "fixed", goal: null, totalBudget: 40_000, shareBy: "items", startingBid: 300 },
    ...{ serveOrder: 4, replaces: [], keepStep: { how: "propose", most: 3 } },
    ...change,
  });

/** Plans anew and puts that into the basket. @returns how many fields it left as somebody set them */
async function plan(change: object): Promise<number> {
  const { db, info } = workspace;
  await savePlanogram(db, planogram(change));
  const job = await runToEnd(db, info, "planogram-apply", { planogram: "p" });
  expect(job.error).toBeNull();
  return (job.result as { kept: number }).kept;
}

const send = () => runToEnd(workspace.db, workspace.info, "dispatch", { takesBack: null });
const bids = async () => {
  const account = await plannedAccount(workspace.db);
  return Object.fromEntries(account.all("adGroup").map(({ name, bid }) => [name, bid]));
};
const budgets = async () => {
  const account = await plannedAccount(workspace.db);
  return account.all("campaign").reduce((sum, { dailyBudget }) => sum + dailyBudget, 0);
};

beforeAll(async () => {
  workspace = await testWorkspace();
  await importFeed(workspace, feed(ROWS));
});

describe("a plan that is put into the basket more than once", () => {
  it("counts with its last bids and budgets, before anything was sent and after", async () => {
    await plan({});
    expect(await plan({ startingBid: 500, totalBudget: 60_000 })).toBe(0);
    expect([await bids(), await budgets()]).toEqual([{ Oak: 500, Elm: 500 }, 60_000]);
    await send();
    expect(await plan({ startingBid: 600 })).toBe(0);
    expect(await plan({ startingBid: 700, totalBudget: 50_000 })).toBe(0);
    expect([await bids(), await budgets()]).toEqual([{ Oak: 700, Elm: 700 }, 50_000]);
  });

  it("leaves what a person set beside it, and goes on from what was sent where the basket was emptied", async () => {
    const { db, info } = workspace;
    const account = await plannedAccount(db);
    const oak = account.all("adGroup").find(({ name }) => name === "Oak")!;
    const edit = { action: "bid" as const, keys: [oak.key], op: { how: "set" as const, mills: 650 } };
    expect(await editAccount(db, "test", null, edit, info.currency)).toMatchObject({ ok: true });
    expect(await plan({ startingBid: 800 })).toBe(1);
    expect(await bids()).toEqual({ Oak: 650, Elm: 800 });
    expect(await removeFromBasket(db, info, "test", { keys: "all" })).toMatchObject({ ok: true });
    expect(await bids()).toEqual({ Oak: 500, Elm: 500 });
    // What was emptied waits no more, so the same amount set by hand is a person's.
    expect(
      await editAccount(db, "test", null, { ...edit, op: { how: "set", mills: 800 } }, info.currency),
    ).toMatchObject({ ok: true });
    expect(await plan({ startingBid: 900 })).toBe(1);
    expect(await bids()).toEqual({ Oak: 800, Elm: 900 });
    // Emptied by mistake and put back, the plan waits again: what it wanted is still not a person's.
    const emptied = await removeFromBasket(db, info, "test", { keys: "all" });
    expect(await putBack(db, "test", (emptied.ok && emptied.value.undo) || "")).toMatchObject({ ok: true });
    expect(await plan({ startingBid: 950 })).toBe(1);
    expect(await bids()).toEqual({ Oak: 800, Elm: 950 });
    await send();
  });

  it("that is taken back, and taken back again, still knows what people set", async () => {
    const { db, info } = workspace;
    const campaign = (await plannedAccount(db)).all("campaign").find(({ name }) => name === "Elm")!;
    const rename = { action: "rename" as const, keys: [campaign.key], name: "Elm, the tall" };
    expect(await editAccount(db, "test", null, rename, info.currency)).toMatchObject({ ok: true });
    await send();
    const nameNow = async () => (await plannedAccount(db)).find("campaign", campaign.key)!.name;
    await plan({ startingBid: 1_000 });
    const { dispatch } = (await send()).result as { dispatch: number };
    const back = await runToEnd(db, info, "dispatch", { takesBack: dispatch });
    expect(back.error).toBeNull();
    expect(await bids()).toEqual({ Oak: 800, Elm: 950 });
    const again = await runToEnd(db, info, "dispatch", { takesBack: (back.result as { dispatch: number }).dispatch });
    expect(again.error).toBeNull();
    expect(await bids()).toEqual({ Oak: 800, Elm: 1_000 });
    expect(await comeIntoStep(db, "test", "p")).toMatchObject({ ok: true, value: { changes: 0 } });
    expect(await plan({ startingBid: 1_100 })).toBe(2);
    expect([await nameNow(), await bids()]).toEqual(["Elm, the tall", { Oak: 800, Elm: 1_100 }]);
    await send();
  });
});

describe("coming into step", () => {
  it("sees what a colleague changes between its reading and its writing", async () => {
    const { db, info } = workspace;
    await importFeed(workspace, feed([...ROWS, ["4", "Oak"], ["5", "Ash"]]));
    const campaign = (await plannedAccount(db)).all("campaign").find(({ name }) => name === "Oak")!;
    const rename = { action: "rename" as const, keys: [campaign.key], name: "Oak, the best" };
    const open = db.$client.transaction.bind(db.$client);
    let isFirst = true;
    // The colleague is quicker: what was worked out before is out of date when it would be written.
    db.$client.transaction = (async (mode?: "write" | "read" | "deferred") => {
      if (isFirst) {
        isFirst = false;
        expect(await editAccount(db, "colleague", null, rename, info.currency)).toMatchObject({ ok: true });
      }
      return open(mode);
    }) as typeof open;
    const stepped = await comeIntoStep(db, "test", "p");
    db.$client.transaction = open;
    expect(stepped).toMatchObject({ ok: true });
    const account = await plannedAccount(db);
    expect(account.find("campaign", campaign.key)!.name).toBe("Oak, the best");
    expect(account.all("campaign").map(({ name }) => name)).toContain("Ash");
  });
});
