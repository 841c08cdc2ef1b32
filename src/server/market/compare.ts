import { z } from "zod";
import { dayAt, formatDay } from "@/core/kit/days";
import { type Outcome, fail, giveUp, ok } from "@/core/kit/outcome";
import { planAccount } from "@/core/market/running-account";
import { simulateDay } from "@/core/market/day";
import { firstState, type MarketState } from "@/core/market/day-types";
import { bestFound } from "@/core/market/best-found";
import { contributionParts, daysWithoutAds, truthOfAccount, type TrueDay } from "@/core/market/judge";
import { UpperBound } from "@/core/market/upper-bound";
import type { World } from "@/core/market/world-types";
import { Account } from "@/core/account/account";
import type { Columns } from "@/core/kit/columns";
import type { Database } from "@/db/client";
import { marketState } from "@/db/schema";
import { servedColumns } from "../account/serving";
import { readAccount } from "../account/state";
import { loadCatalogue } from "../catalogue/load";
import { enqueueJob, type JobView } from "../jobs/jobs";
import type { JobContext, JobHandler } from "../jobs/work";
import { resultDays } from "../results/load";
import type { WorkspaceInfo } from "../workspaces";
import { channelChoice } from "../channel/choice";
import { loadWorld } from "./world";

export const compareSchema = z.object({
  days: z.int().min(1).max(120).default(14),
  seed: z.string().min(1).max(60).optional(),
});

/** What one version of the account brings over the days. Mills. */
export interface VersionResult {
  name: string;
  /** As reports will show it, drawn from the seed. */
  drawn: { cost: number; revenue: number; orders: number; clicks: number };
  /** Without noise: what it is worth in truth. */
  truth: { cost: number; revenue: number; orders: number; clicks: number; storeRevenue: number };
  /** Sales added to the shop's × margin − spend, over items whose costs are known; null where none are. */
  contribution: number | null;
  /** What of it is sales that rivals were kept from on own pages. */
  held: number | null;
  /** Ad sales that no account could pass for the money, and the most that a search which knows the truth found to reach. */
  bound: { sales: number; contribution: number | null };
  found: { sales: number };
  days: { day: string; cost: number; revenue: number }[];
}

export interface Comparison {
  from: string;
  to: string;
  seed: string;
  /** The account's version that was compared with itself as sent. */
  version: number;
  versions: VersionResult[];
}

/** Queues a run of the account as it is and as it will be with the basket, on the same days and seed. Nothing is kept. */
export async function startComparison(
  db: Database,
  info: WorkspaceInfo,
  input: z.output<typeof compareSchema>,
): Promise<Outcome<JobView>> {
  if ((await channelChoice(db)).kind !== "market") {
    return fail(
      "market-not-channel",
      "This workspace sends to another channel, of which the test market knows nothing.",
      "A workspace for trials has its own test market.",
    );
  }
  return ok(await enqueueJob(db, "market-compare", { ...input, seed: input.seed ?? info.marketSeed }));
}

async function run(context: JobContext, raw: unknown): Promise<Comparison> {
  const { db, info } = context;
  const { days, seed } = compareSchema.parse(raw);
  const span = await resultDays(db);
  const from = span ? span.to + 1 : dayAt(Date.now(), info.timeZone);
  const [kept] = await db.select().from(marketState);
  const state = kept?.state ?? firstState();
  const { live, planned, version } = await readAccount(db);
  const versions: [string, Account][] = [
    ["Live", live],
    ["With the basket", planned],
  ];
  // One world for both: what it has worked out for the judge serves the second version too.
  const found = await loadWorld(db, info, Account.EMPTY);
  if (!found) giveUp("market-no-catalogue", "There is no catalogue to run the market on.");
  const window = { from, to: from + days - 1 };
  const yardstick = await makeYardstick(db, found, window);
  const results: VersionResult[] = [];
  for (const [i, [name, source]] of versions.entries()) {
    const tell = (done: number) => context.progress(i * days + done, versions.length * days, "days");
    const span = { from, days, seed: seed ?? info.marketSeed, state };
    results.push(await runVersion(db, info, yardstick, name, source, span, tell));
  }
  return {
    from: formatDay(from),
    to: formatDay(from + days - 1),
    seed: seed ?? info.marketSeed,
    version,
    versions: results,
  };
}

/** What versions are measured by. */
interface Yardstick {
  world: World;
  catalogue: Columns;
  span: { from: number; to: number };
  sales: UpperBound;
  /** Ad sales of the best that a search finds, by the money it may spend: two versions that spend alike have one search. */
  found: Map<number, number>;
  /** Null where no item's costs are known. */
  added: { margins: Float64Array; bound: UpperBound; without: TrueDay[] } | null;
}

async function makeYardstick(
  db: Database,
  { world, catalogue }: { world: World; catalogue: Columns },
  span: { from: number; to: number },
): Promise<Yardstick> {
  const { columns } = await loadCatalogue(db, ["margin"]);
  const margins = columns["margin"]?.kind === "number" ? columns["margin"].values : null;
  const isKnown = margins?.some((margin) => Number.isFinite(margin)) ?? false;
  return {
    ...{ world, catalogue, span, sales: new UpperBound(world), found: new Map() },
    added:
      margins && isKnown
        ? {
            margins,
            bound: new UpperBound(world, { margins }),
            without: daysWithoutAds(world, catalogue, span.from, span.to),
          }
        : null,
  };
}

function sumOfBest({ world, catalogue, span }: Yardstick, money: number): number {
  return bestFound(world, catalogue, span.from, span.to, money).reduce((sum, day) => sum + day.revenue, 0);
}

async function runVersion(
  db: Database,
  info: WorkspaceInfo,
  yardstick: Yardstick,
  name: string,
  source: Account,
  { from, days, seed, state }: { from: number; days: number; seed: string; state: MarketState },
  tell: (done: number) => Promise<void>,
): Promise<VersionResult> {
  const { world, span, sales, found, added } = yardstick;
  const { catalogue: served, valueOf } = await servedColumns(db, info, source);
  const account = planAccount(world, source, served, valueOf);
  const drawn = { cost: 0, revenue: 0, orders: 0, clicks: 0 };
  const truth = { ...drawn, storeRevenue: 0 };
  const byDay: VersionResult["days"] = [];
  const trueDays: TrueDay[] = [];
  // Orders of earlier days come in whatever is decided now, so they are left out of the comparison.
  let now: MarketState = { ...state, late: [] };
  let certain = now;
  for (let day = from; day < from + days; day++) {
    await tell(day - from);
    const result = simulateDay(world, account, day, now, { noise: true, seed });
    // Late orders count for the day of their click: the comparison does not wait for them.
    const late = result.state.late.filter((order) => order.day === day);
    now = { ...result.state, late: [] };
    const sum = { day: formatDay(day), cost: 0, revenue: 0 };
    for (const { cost, clicks } of result.facts) {
      sum.cost += cost;
      drawn.clicks += clicks;
    }
    for (const { orders, revenue } of [...result.facts, ...late]) {
      sum.revenue += revenue;
      drawn.orders += orders;
    }
    drawn.cost += sum.cost;
    drawn.revenue += sum.revenue;
    byDay.push(sum);
    const sure = truthOfAccount(world, account, day, day, certain);
    certain = sure.state;
    const [worth] = sure.days;
    trueDays.push(worth!);
    for (const key of ["cost", "revenue", "orders", "clicks", "storeRevenue"] as const) truth[key] += worth![key];
    await new Promise((resolve) => setImmediate(resolve));
  }
  const best = found.get(truth.cost) ?? sumOfBest(yardstick, truth.cost);
  found.set(truth.cost, best);
  const parts = added && contributionParts(world, trueDays, added.without, added.margins);
  const round = <T extends Record<string, number>>(sums: T) =>
    Object.fromEntries(Object.entries(sums).map(([key, value]) => [key, Math.round(value)])) as T;
  return {
    name,
    drawn: round(drawn),
    truth: round(truth),
    contribution: parts && Math.round(parts.total),
    held: parts && Math.round(parts.held),
    bound: {
      sales: Math.round(sales.sales(span.from, span.to, truth.cost)),
      contribution: added && Math.round(added.bound.contribution(span.from, span.to, truth.cost)),
    },
    found: { sales: Math.round(best) },
    days: byDay.map((day) => ({ ...day, cost: Math.round(day.cost), revenue: Math.round(day.revenue) })),
  };
}

/** Nothing is stored, so there is nothing to undo. */
async function rollBack(): Promise<void> {}

export const marketCompare: JobHandler = { run, rollBack };
