// HOTSHELF_DATA_DIR=… node --import tsx bench/structures.ts: builds each structure to start from on the demo, runs it for 30 days
// with ten seeds, and prints docs/structures.md. It takes some twenty minutes; run it on a
// copy, since shelf sets that a structure needs are added.
import { writeFileSync } from "node:fs";
import { Account } from "@/core/account/account";
import { formatDay } from "@/core/kit/days";
import { bestFound } from "@/core/market/best-found";
import { simulateDay } from "@/core/market/day";
import { firstState, type MarketState } from "@/core/market/day-types";
import { contributionOf, daysWithoutAds, truthOfAccount, type TrueDay } from "@/core/market/judge";
import { planAccount } from "@/core/market/running-account";
import { UpperBound } from "@/core/market/upper-bound";
import { NO_PLANS_BEFORE, replan } from "@/core/planogram/merge";
import { plannedRecords } from "@/core/planogram/planned-records";
import type { Planogram } from "@/core/planogram/planogram";
import { TEMPLATES, type Template } from "@/core/planogram/templates";
import { marketState } from "@/db/schema";
import { newPlanogram } from "@/app/w/[workspace]/planogram/new-planogram";
import { accountColumns } from "@/server/account/serving";
import { readAccount } from "@/server/account/state";
import { loadCatalogue } from "@/server/catalogue/load";
import { shelfSetOf } from "@/core/account/records/labels";
import { READY_MADE } from "@/core/shelves/ready-made";
import { listShelfSets, saveShelfSet } from "@/server/shelves/sets";
import { recomputeShelfSet } from "@/server/shelves/compute";
import { loadWorld } from "@/server/market/world";
import { planFor, splitFields } from "@/server/planogram/planograms";
import { viewAccount } from "@/server/planogram/workbench";
import { resultDays } from "@/server/results/load";
import { findWorkspace } from "@/server/workspaces";

const DAYS = 30;
const SEEDS = 10;

const { db, info } = (await findWorkspace("quillmoor"))!;
const { live } = await readAccount(db);
const { world, catalogue } = (await loadWorld(db, info, Account.EMPTY))!;
const from = (await resultDays(db))!.to + 1;
const to = from + DAYS - 1;
const [kept] = await db.select().from(marketState);
const state: MarketState = { ...(kept?.state ?? firstState()), late: [] };
const margins = (await loadCatalogue(db, ["margin"])).columns["margin"];
const known = margins?.kind === "number" ? margins.values : null;
const without = known && daysWithoutAds(world, catalogue, from, to);
const bound = new UpperBound(world);
// Sets that a template needs and that the demo does not keep are made first, as its builder offers.
for (const key of new Set(TEMPLATES.flatMap(({ needs }) => needs.flatMap((need) => shelfSetOf(need) ?? [])))) {
  const ready = READY_MADE.find((one) => one.key === key);
  if (!ready || (await listShelfSets(db)).some(({ definition }) => definition.key === key)) continue;
  await saveShelfSet(db, ready.make(info.goal));
  await recomputeShelfSet(db, key);
}
const fields = await splitFields(db);
const base = newPlanogram(
  fields,
  (await viewAccount(db, { from: from - 30, to: from - 1 }, info.goal)).lines,
  info.goal,
  [],
  "",
);

interface Row {
  name: string;
  campaigns: number;
  cost: number;
  sales: number;
  drawn: number[];
  contribution: number | null;
  found: number;
  limit: number;
}

async function measure(name: string, account: Account): Promise<Row> {
  const ready = planAccount(world, account, await accountColumns(db, account));
  const days: TrueDay[] = [];
  let certain = state;
  for (let day = from; day <= to; day++) {
    const sure = truthOfAccount(world, ready, day, day, certain);
    certain = sure.state;
    days.push(sure.days[0]!);
  }
  const cost = days.reduce((sum, day) => sum + day.cost, 0);
  const sales = days.reduce((sum, day) => sum + day.revenue, 0);
  const drawn = Array.from({ length: SEEDS }, (_, seed) => {
    let now = state;
    let [spent, sold] = [0, 0];
    for (let day = from; day <= to; day++) {
      const result = simulateDay(world, ready, day, now, { noise: true, seed: `structure ${seed}` });
      for (const { cost: amount } of result.facts) spent += amount;
      for (const { revenue } of [...result.facts, ...result.state.late]) sold += revenue;
      now = { ...result.state, late: [] };
    }
    return sold / spent;
  });
  const best = bestFound(world, catalogue, from, to, cost).reduce((sum, day) => sum + day.revenue, 0);
  return {
    ...{ name, campaigns: account.all("campaign").filter(({ status }) => status === "on").length, cost, sales, drawn },
    contribution: known && without && contributionOf(world, days, without, known),
    ...{ found: sales / best, limit: sales / bound.sales(from, to, cost) },
  };
}

async function accountOf(template: Template): Promise<Account | null> {
  if (template.needs.some((need) => !fields.some(({ by }) => by === need))) return null;
  const planogram: Planogram = { ...base, ...template.change(base), key: `t-${template.key}` };
  const planned = await planFor(db, planogram);
  if (!planned.ok) return null;
  const records = plannedRecords(planogram, planned.value.plan, planned.value.catalogue);
  return replan(live, records, NO_PLANS_BEFORE, planogram.key, planogram.replaces).draft.after();
}

const rows: Row[] = [await measure("The untidy account as it is", live)];
const missing: string[] = [];
for (const template of TEMPLATES) {
  const account = await accountOf(template);
  if (account) rows.push(await measure(template.name, account));
  else missing.push(template.name);
  console.error(template.name, account ? "done" : "can't be built here");
}

const euros = (mills: number) => Math.round(mills / 1000).toLocaleString("en");
const percent = (share: number) => `${(100 * share).toFixed(1)} %`;
const spread = (values: number[]) => {
  const sorted = [...values].sort((a, b) => a - b);
  return `${sorted[1]!.toFixed(2)} to ${sorted[SEEDS - 2]!.toFixed(2)}`;
};
const table = [
  "| structure | campaigns | spend | sales | ROAS in truth | ROAS as drawn, 8 of 10 seeds | contribution | of the best found | of the limit |",
  "| --- | --: | --: | --: | --: | --: | --: | --: | --: |",
  ...rows.map(
    ({ name, campaigns, cost, sales, drawn, contribution, found, limit }) =>
      `| ${name} | ${campaigns} | ${euros(cost)} | ${euros(sales)} | ${(sales / cost).toFixed(2)} | ${spread(drawn)} | ${contribution === null ? "–" : euros(contribution)} | ${percent(found)} | ${percent(limit)} |`,
  ),
].join("\n");
writeFileSync(process.argv[2] ?? "/dev/stdout", `${table}\n`);
console.error(`${formatDay(from)} to ${formatDay(to)}`, missing);
process.exit(0);
