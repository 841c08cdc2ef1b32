import { beforeAll, describe, expect, it } from "vitest";
import type { Planogram } from "@/core/planogram/planogram";
import { isHomeKind } from "@/core/account/homes";
import type { Database } from "@/db/client";
import { walkAccount } from "../account/serving";
import { plannedAccount } from "../account/state";
import { importFeed, runToEnd, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { savePlanogram, splitValues } from "./planograms";
import { provePlanogram, type PlanProof } from "./prove";

const FEED = [
  "id,title,price,brand,category,availability",
  ...Array.from({ length: 40 }, (_, i) => {
    const stock = i % 10 === 9 ? "out of stock" : "in stock";
    return `I${i},Rake ${i},${10 + i},Maker${i % 4},Garden > ${i % 2 ? "Rakes" : "Hoses"},${stock}`;
  }),
].join("\n");

const PLAN: Planogram = {
  ...{ key: "makers", name: "Makers", ladder: [{ by: "brand", largest: null }], campaignLine: 1, adGroupLine: 1 },
  ...{
    inStockOnly: false,
    campaignName: [{ kind: "field", field: "level-1" }],
    adGroupName: [{ kind: "field", field: "planogram" }],
  },
  ...{ purpose: "scale", bidding: "fixed", goal: null, totalBudget: 40_000, shareBy: "items", startingBid: 400 },
  ...{ serveOrder: 3, replaces: [] },
};
const ALL: Planogram = {
  ...PLAN,
  ...{ key: "all", name: "All", ladder: [{ by: "category2", largest: null }], campaignLine: 0, adGroupLine: 0 },
  ...{ campaignName: [{ kind: "field", field: "planogram" }], totalBudget: 50_000, serveOrder: 5 },
};

let db: Database;
let info: WorkspaceInfo;
let all: string;

beforeAll(async () => {
  const workspace = await testWorkspace();
  ({ db, info } = workspace);
  await importFeed(workspace, FEED);
  await savePlanogram(db, ALL);
  await runToEnd(db, info, "planogram-apply", { planogram: "all" });
  await runToEnd(db, info, "dispatch", { takesBack: null });
  all = (await plannedAccount(db)).all("campaign")[0]!.key;
});

async function prove(change: Partial<Planogram>): Promise<PlanProof> {
  const proved = await provePlanogram(db, { ...PLAN, ...change });
  if (!proved.ok) throw new Error(proved.error.message);
  return proved.value;
}

describe("a proof", () => {
  it("says what would be, worked out by hand: beside a campaign that serves later, first, or is paused", async () => {
    // All 40 items have a home now. Makers would serve them first; All takes over when its money is gone.
    expect(await prove({})).toEqual({
      live: null,
      before: { none: 0, one: 40, several: 0, leaks: 0 },
      after: { none: 0, one: 0, several: 40, leaks: 0 },
      own: { none: 0, one: 40, several: 0, leaks: 0 },
      leftOutBy: [],
      lost: 0,
      takes: [{ campaign: all, name: "All", items: 40, isPaused: false }],
      servedFirstByOthers: [],
      money: { plan: 40_000, others: 50_000, total: 90_000 },
    });
    const later = await prove({ serveOrder: 7 });
    expect([later.takes, later.servedFirstByOthers.map(({ items }) => items)]).toEqual([[], [40]]);
    const instead = await prove({ replaces: [all] });
    expect(instead.after).toEqual({ none: 0, one: 40, several: 0, leaks: 0 });
    expect(instead.takes).toEqual([{ campaign: all, name: "All", items: 40, isPaused: true }]);
    expect(instead.money).toEqual({ plan: 40_000, others: 0, total: 40_000 });
  });

  it("counts what would lose its home, and tells it from what is left out and served elsewhere", async () => {
    const where = { match: "all" as const, of: [{ field: "brand", op: "is-not" as const, value: "Maker3" }] };
    const beside = await prove({ where, inStockOnly: true });
    // Every fourth is Maker3; of the rest, I9 and I29 are sold out (I19 and I39 are Maker3).
    expect(beside.leftOutBy).toEqual([
      { rule: "filter", items: 10 },
      { rule: "sold out", items: 2 },
    ]);
    expect([beside.own.one, beside.lost]).toEqual([28, 0]);
    const alone = await prove({ where, inStockOnly: true, replaces: [all] });
    // The two sold-out ones that are left out can't be bought, and of Maker3 those neither: I19 and I39.
    expect([alone.lost, alone.after]).toEqual([8, { none: 12, one: 28, several: 0, leaks: 0 }]);
  });

  it("is what the account is once the plan is applied", async () => {
    const where = { match: "any" as const, of: [{ field: "price", op: "at-least" as const, value: "30000" }] };
    const planogram = { ...PLAN, where, replaces: [all] };
    const proof = await prove(planogram);
    await savePlanogram(db, planogram);
    await runToEnd(db, info, "planogram-apply", { planogram: "makers" });
    const { serving, catalogue } = await walkAccount(db, await plannedAccount(db));
    const homes = new Map<number, number>();
    for (const { campaign, rows } of serving) {
      if (isHomeKind(campaign.kind)) for (const row of rows) homes.set(row, (homes.get(row) ?? 0) + 1);
    }
    const count = (holds: (homes: number) => boolean) =>
      Array.from({ length: catalogue.length }, (_, row) => homes.get(row) ?? 0).filter(holds).length;
    expect(proof.after).toEqual({
      none: count((n) => n === 0),
      one: count((n) => n === 1),
      several: count((n) => n > 1),
      leaks: 0,
    });
    expect(proof.after.one).toBe(20);
  });
});

describe("values to choose from", () => {
  it("come with their items, and not for what divides nothing", async () => {
    const values = await splitValues(db, "brand");
    expect(values.map(({ label, items }) => [label, items])).toEqual(
      ["Maker0", "Maker1", "Maker2", "Maker3"].map((name) => [name, 10]),
    );
    await expect(splitValues(db, "title")).rejects.toMatchObject({ failure: { code: "split-field-unknown" } });
  });
});
