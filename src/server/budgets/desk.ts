import { between } from "drizzle-orm";
import { z } from "zod";
import { campaignReturns, type CampaignDay, type CampaignReturn } from "@/core/budgets/money-desk";
import { paceOfMonth, type MonthPace } from "@/core/budgets/month";
import { salesAt, salesBetween } from "@/core/budgets/response";
import { SHARE_WAYS, shareTotal, type SharedOut, type ShareWay } from "@/core/budgets/share-total";
import { STOP_DAYS } from "@/core/budgets/stop-days";
import { worthsOf } from "@/core/bids/worths";
import type { Account } from "@/core/account/account";
import { amountSchema } from "@/core/account/records/basics";
import { windowEnding, type Day, type Window } from "@/core/kit/days";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { stockCover, THIN_DAYS } from "@/core/budgets/stock-cover";
import type { Database } from "@/db/client";
import { campaignDays, monthPlans } from "@/db/schema";
import { loadCatalogue } from "../catalogue/load";
import { loadMoves, rememberShown, type AllMoves } from "../moves/moves";
import { remember } from "../read/memo";
import { loadLag, seenOn } from "../results/lag";
import { codeTexts, forEachDay } from "../results/load";
import type { WorkspaceInfo } from "../workspaces";
import { monthPlan, type MonthPlan } from "./month-plan";

/** A point of a campaign's curve, mills a day. */
export interface CurvePoint {
  spend: number;
  sales: number;
  low: number;
  high: number;
}

/** What a campaign's money brings. Money in mills a day. */
export interface DeskLine extends Omit<CampaignReturn, "response"> {
  /** Days that the curve was learned from, and how many per cent more sales one per cent more spend brings there. */
  days: number;
  elasticity: number;
  curve: CurvePoint[];
  /** Share of its items' sales that comes from items with less than {@link THIN_DAYS} days of stock; null where stock is not known. */
  thinStock: number | null;
}

export interface MoneyDesk {
  version: number;
  from: Day;
  to: Day;
  lines: DeskLine[];
  /** What a unit of money more would bring beyond itself; null where nobody spends. */
  priceOfMoney: number | null;
  money: number;
  full: number;
  /** Orders of the shop in the last fortnight over those of the one before; null where the shop tells of none. */
  demand: number | null;
  month: MonthPace & { set: MonthPlan | null; budgets: number; cap: number | null };
}

/** Points of a curve, and how far beyond what was seen it is drawn. */
const POINTS = 32;
const BEYOND = 2;

interface Loaded {
  all: AllMoves;
  returns: CampaignReturn[];
  spentBy: Map<Day, number>;
  orders: Map<Day, number>;
}

/** Reports of the window by campaign and day, and what is learned from them. Worked out once for what they stand on. */
async function loadReturns(db: Database, info: WorkspaceInfo): Promise<Outcome<Loaded>> {
  const all = await loadMoves(db, info);
  if (!all.ok) return all;
  const { window, ground, stamp } = all.value;
  return remember(db, "returns of money", [stamp], async () => {
    const { days, orders } = await dailyResults(db, window);
    const spentBy = new Map<Day, number>();
    for (const { day, cost } of days) spentBy.set(day, (spentBy.get(day) ?? 0) + cost);
    return ok({ all: all.value, returns: campaignReturns(ground, days, orders, window.to), spentBy, orders });
  });
}

async function dailyResults(db: Database, window: Window): Promise<{ days: CampaignDay[]; orders: Map<Day, number> }> {
  const lag = await loadLag(db);
  const names = await codeTexts(db, "campaign");
  const dry = new Map(
    (
      await db
        .select()
        .from(campaignDays)
        .where(between(campaignDays.day, window.from, window.to))
    ).map(({ day, campaign, dryAt }) => [`${day} ${campaign}`, dryAt]),
  );
  const days: CampaignDay[] = [];
  const orders = new Map<Day, number>();
  await forEachDay(db, window, (day, ads, store) => {
    const seen = seenOn(lag, day);
    const byCampaign = new Map<number, CampaignDay>();
    ads.campaign.forEach((code, i) => {
      let one = byCampaign.get(code);
      if (!one) {
        const dryAt = dry.get(`${day} ${code}`) ?? null;
        byCampaign.set(code, (one = { campaign: names.get(code) ?? "", day, cost: 0, sales: 0, dryAt }));
      }
      one.cost += ads.cost[i]!;
      one.sales += ads.revenue[i]! / seen;
    });
    days.push(...byCampaign.values());
    let sold = 0;
    for (let i = 0; i < store.orders.length; i++) sold += store.orders[i]!;
    if (store.orders.length > 0) orders.set(day, sold);
  });
  return { days, orders };
}

/** What money brings, campaign by campaign, in the account with its basket; and how the month goes. */
export async function viewMoneyDesk(db: Database, info: WorkspaceInfo): Promise<Outcome<MoneyDesk>> {
  const plans = await db.select().from(monthPlans);
  return rememberShown(db, info, "money desk", [JSON.stringify(plans)], () => makeView(db, info));
}

async function makeView(db: Database, info: WorkspaceInfo): Promise<Outcome<MoneyDesk>> {
  const loaded = await loadReturns(db, info);
  if (!loaded.ok) return loaded;
  const { all, returns, spentBy, orders } = loaded.value;
  const { ground, window, version } = all;
  const worths = worthsOf(ground);
  const thin = await thinStock(db, all);
  const plan = await monthPlan(db, window.to);
  const lately = windowEnding(window.to, STOP_DAYS);
  const spent = returns.reduce((sum, one) => sum + one.spent, 0);
  const running = ground.account.all("campaign").filter(({ status }) => status === "on");
  return ok({
    ...{ version, from: lately.from, to: lately.to },
    lines: returns.map((one) => lineOf(one, thin?.get(one.key) ?? null)),
    priceOfMoney: worths.full > 0 ? 1 / Math.min(1, worths.factor.next) - 1 : null,
    ...{ money: worths.money, full: worths.full, demand: demandChange(orders, lately) },
    month: {
      ...paceOfMonth(spentBy, window.to, plan?.mills ?? null, plan?.over ?? 0, spent),
      set: plan,
      budgets: running.reduce((sum, { dailyBudget }) => sum + dailyBudget, 0),
      cap: ground.account.all("dayCap")[0]?.dailyBudget ?? null,
    },
  });
}

function lineOf({ response, ...one }: CampaignReturn, thinOf: number | null): DeskLine {
  const most = BEYOND * Math.max(response.spend, one.full.cost, one.spent);
  const curve = Array.from({ length: POINTS + 1 }, (_, i) => {
    const spend = (most * i) / POINTS;
    return { spend, sales: salesAt(response, spend), ...salesBetween(response, spend) };
  });
  return { ...one, days: response.days, elasticity: response.elasticity, curve, thinStock: thinOf };
}

function demandChange(orders: ReadonlyMap<Day, number>, { from, to }: Window): number | null {
  const sum = (first: Day, last: Day) => {
    let count = 0;
    for (let day = first; day <= last; day++) count += orders.get(day) ?? 0;
    return count;
  };
  const before = sum(from - STOP_DAYS, from - 1);
  return before > 0 ? sum(from, to) / before : null;
}

/** Of each campaign the share of its items' sales that comes from items whose stock is thin; null where no feed tells stock. */
async function thinStock(db: Database, { ground }: AllMoves): Promise<Map<string, number> | null> {
  const { columns } = await loadCatalogue(db, ["stock"]);
  const stock = columns["stock"];
  if (stock?.kind !== "number") return null;
  return stockCover(ground, stock.values, THIN_DAYS);
}

export const shareAskSchema = z.object({
  /** Mills a day. */
  total: amountSchema,
  way: z.enum(Object.keys(SHARE_WAYS) as [ShareWay, ...ShareWay[]]),
  /** Per cent; null for any. */
  step: z.number().min(1).max(1000).nullable().default(50),
  room: z.number().min(0).max(1000).nullable().default(20),
  parts: z.record(z.string(), z.number().min(0).max(1_000_000)).optional(),
  /** Campaigns that take part; all that run where none are named. */
  keys: z.array(z.string()).max(10_000).optional(),
});

/** A sharing-out with the names it is about; nothing is changed by it. */
export interface SharedMoney extends SharedOut {
  version: number;
  names: Record<string, string>;
}

/** Says what a total shared out would give to each running campaign, and what is expected of it. */
export async function lookAtShare(
  db: Database,
  info: WorkspaceInfo,
  { keys, ...ask }: z.output<typeof shareAskSchema>,
): Promise<Outcome<SharedMoney>> {
  const loaded = await loadReturns(db, info);
  if (!loaded.ok) return loaded;
  const { all, returns } = loaded.value;
  const known = new Map(returns.map((one) => [one.key, one]));
  const taking = runningOf(all.ground.account, keys);
  if (!taking.ok) return taking;
  const shared = shareTotal(
    taking.value.map(({ key, dailyBudget }) => ({ key, budget: dailyBudget, known: known.get(key) ?? null })),
    ask,
  );
  if (!shared.ok) return shared;
  const names = Object.fromEntries(taking.value.map(({ key, name }) => [key, name]));
  return ok({ ...shared.value, version: all.version, names });
}

function runningOf(account: Account, keys: readonly string[] | undefined) {
  const running = account.all("campaign").filter(({ status }) => status === "on");
  if (!keys) return ok(running);
  const named = new Set(keys);
  const found = running.filter(({ key }) => named.has(key));
  return found.length === named.size
    ? ok(found)
    : fail("share-paused", "Some of these campaigns don't run, so they take no money.", "Pick campaigns that run.");
}
