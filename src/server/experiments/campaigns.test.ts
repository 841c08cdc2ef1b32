import { beforeAll, describe, expect, it } from "vitest";
import { definitionSchema } from "@/core/experiments/definition";
import { testCampaign } from "@/core/market/test-shop";
import type { Database } from "@/db/client";
import { experiments } from "@/db/schema";
import { addRecords } from "../account/commit";
import { readAccount } from "../account/state";
import { startMarketRun } from "../market/run-days";
import { importFeed, runToEnd, runWaiting, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { viewExperiment } from "./experiments";
import { planExperiment } from "./plan";
import { beginExperiment } from "./run";
import { KINDS } from "./testing";

const ITEMS = KINDS.flatMap((kind) => [1, 2, 3].map((no) => ({ kind, id: `${kind}${no}` })));
const FEED = `id,title,price,category,brand,cost\n${ITEMS.map(({ kind, id }, i) => `${id},Oak ${id},${12 + (i % 7)}.00,Garden > ${kind}s,Brackwell,5.00`).join("\n")}\n`;

let db: Database;
let info: WorkspaceInfo;
const definition = definitionSchema.parse({
  ...{ name: "Half the money", design: "campaigns", change: { kind: "budget", percent: -80 }, campaigns: KINDS },
  ...{ measure: "cost", least: 500, days: 14 },
});
const runDays = async (days: number) => {
  expect((await startMarketRun(db, info, { days, seed: "campaigns" })).ok).toBe(true);
  await runWaiting(db, info);
};

beforeAll(async () => {
  ({ db, info } = await testWorkspace());
  expect(await importFeed({ db, info }, FEED)).toMatchObject({ state: "done" });
  const structure = KINDS.map((kind) =>
    testCampaign(
      kind,
      { dailyBudget: 3_000 },
      ITEMS.filter((item) => item.kind === kind).map(({ id }) => id),
      700,
    ),
  );
  await addRecords(db, Object.assign({}, ...structure), "ann", "test");
  await runToEnd(db, info, "dispatch", { takesBack: null });
  await runDays(35);
}, 120_000);

describe("an experiment with campaigns", () => {
  it("pairs those that had clicks, and what arms brought is that of SQL", async () => {
    const plan = await planExperiment(db, info, { definition, seed: "s" });
    if (!plan.ok) throw new Error(plan.error.message);
    const { arms, pairs, left, changes } = plan.value;
    expect(2 * pairs + left.odd + left.quiet).toBe(KINDS.length);
    expect(changes).toBe(pairs);
    // The shop's sales are told by item, so no campaign has any.
    expect(arms!.with.brought.everything).toBeNull();
    const { rows } = await db.$client.execute("SELECT sum(cost) / 35.0 AS n FROM item_facts");
    const told = arms!.with.brought.cost! + arms!.without.brought.cost!;
    expect(told).toBeLessThanOrEqual(Number(rows[0]!["n"]) + 1e-6);
    if (left.odd + left.quiet === 0) expect(told).toBeCloseTo(Number(rows[0]!["n"]), 6);
  });

  it("changes one arm alone, and finds that a fifth of the money spends less", async () => {
    const begun = await beginExperiment(db, info, "ann", null, { definition, seed: "s" });
    if (!begun.ok) throw new Error(begun.error.message);
    await runToEnd(db, info, "dispatch", { takesBack: null });
    const [row] = await db.select().from(experiments);
    const { arms } = row!;
    if (arms.of !== "campaigns") throw new Error("It is one with campaigns.");
    const { live } = await readAccount(db);
    for (const key of arms.with) expect(live.find("campaign", key)!.dailyBudget).toBe(600);
    for (const key of arms.without) expect(live.find("campaign", key)!.dailyBudget).toBe(3_000);
    await runDays(14);
    const seen = await viewExperiment(db, info, begun.value.id);
    expect(seen).toMatchObject({ ok: true, value: { stage: "over", finding: "less", isHarmful: false } });
  });
});
