import { between } from "drizzle-orm";
import { STOP_DAYS } from "@/core/budgets/stop-days";
import { windowEnding, type Window } from "@/core/kit/days";
import type { Account } from "@/core/account/account";
import { flexWords, HELD, type Campaign } from "@/core/account/records/campaign";
import type { Database } from "@/db/client";
import { campaignDays } from "@/db/schema";
import { readAccount } from "../account/state";
import { campaignStops } from "../results/campaign-stops";
import { loadCube } from "../results/cubes";
import { codeTexts, loadCodes, resultDays } from "../results/load";

/** What a purse gave out lately. Money in mills. */
interface Drawn {
  /** A day on average. */
  spent: number;
  /** Days of the window on which it ran out, of how many, and at what hour on average; null where it never did. */
  dryDays: number;
  days: number;
  dryAt: number | null;
}

export interface CampaignMoney extends Drawn {
  key: string;
  name: string;
  status: Campaign["status"];
  dailyBudget: number;
  pool: string | null;
  serveOrder: number;
  flex: string;
}

export interface PoolMoney extends Drawn {
  key: string;
  name: string;
  dailyBudget: number;
  /** What its campaigns may spend by their own budgets together. */
  membersBudget: number;
  members: number;
}

export interface BudgetsView {
  version: number;
  from: number | null;
  to: number | null;
  campaigns: CampaignMoney[];
  pools: PoolMoney[];
  cap: (Drawn & { dailyBudget: number; campaignsBudget: number }) | null;
  /** Running campaigns' budgets a day together, and what they spent. */
  total: { dailyBudget: number; spent: number };
}

/** A purse with less than this share left is empty: money comes in clicks, which never fill it to the last mill. */
const EMPTY = 0.98;

/** Budgets, pools and the day cap with what draws on them and when each runs out. */
export async function viewBudgets(db: Database): Promise<BudgetsView> {
  const { live, planned, version } = await readAccount(db);
  const span = await resultDays(db);
  const window = span && { ...windowEnding(span.to, STOP_DAYS), from: Math.max(span.from, span.to - STOP_DAYS + 1) };
  const spent = window ? await dailySpend(db, window) : new Map<string, Map<number, number>>();
  const hours = window ? await hourlySpend(db, window) : new Map<string, Float64Array>();
  const dry = (await campaignStops(db)).stops;
  const told = window ? await toldDays(db, window) : new Map<string, Map<number, ToldDay>>();
  const days = window ? window.to - window.from + 1 : 0;
  const campaigns = planned.all("campaign").map((campaign): CampaignMoney => {
    const { key, name, status, dailyBudget, pool = null, serveOrder, flex } = campaign;
    const stop = dry.get(key);
    return {
      ...{ key, name, status, dailyBudget, pool, serveOrder, flex: flexWords(flex ?? HELD) },
      ...{ spent: meanOf(spent, [key], days), dryDays: stop?.days ?? 0, days, dryAt: stop?.hour ?? null },
    };
  });
  /** @param ran the same purse with those that drew on it, as the channel has it */
  const purse = (keys: string[], budget: number, ran: { budget: number | undefined; keys: string[] }): Drawn => {
    const isAsItRan =
      ran.budget === budget && keys.length === ran.keys.length && keys.every((key) => ran.keys.includes(key));
    return {
      spent: meanOf(spent, keys, days),
      days,
      ...((isAsItRan ? toldStops(keys, told, window) : null) ?? stopsOf(keys, budget, spent, hours, window)),
    };
  };
  const running = runningOf(planned);
  const sum = (list: readonly Campaign[]) => list.reduce((total, { dailyBudget }) => total + dailyBudget, 0);
  const cap = planned.all("dayCap")[0];
  const keysOf = (list: readonly Campaign[]) => list.map(({ key }) => key);
  return {
    ...{ version, from: window?.from ?? null, to: window?.to ?? null },
    campaigns: campaigns.sort((a, b) => b.spent - a.spent || (a.name < b.name ? -1 : 1)),
    pools: planned.all("pool").map(({ key, name, dailyBudget }) => {
      const members = membersOf(planned, key);
      const own = { key, name, dailyBudget, membersBudget: sum(members), members: members.length };
      const ran = { budget: live.find("pool", key)?.dailyBudget, keys: keysOf(membersOf(live, key)) };
      return { ...own, ...purse(keysOf(members), dailyBudget, ran) };
    }),
    cap: cap
      ? {
          ...{ dailyBudget: cap.dailyBudget, campaignsBudget: sum(running) },
          ...purse(keysOf(running), cap.dailyBudget, {
            budget: live.all("dayCap")[0]?.dailyBudget,
            keys: keysOf(runningOf(live)),
          }),
        }
      : null,
    total: { dailyBudget: sum(running), spent: meanOf(spent, keysOf(running), days) },
  };
}

function runningOf(account: Account): Campaign[] {
  return account.all("campaign").filter(({ status }) => status === "on");
}

function membersOf(account: Account, pool: string): Campaign[] {
  return runningOf(account).filter((campaign) => campaign.pool === pool);
}

function meanOf(spent: Map<string, Map<number, number>>, keys: string[], days: number): number {
  const total = keys.reduce((sum, key) => sum + [...(spent.get(key)?.values() ?? [])].reduce((a, b) => a + b, 0), 0);
  return days === 0 ? 0 : Math.round(total / days);
}

/** What the channel says of a campaign's day. */
interface ToldDay {
  budget: number;
  cost: number;
  dryAt: number | null;
}

async function toldDays(db: Database, window: Window): Promise<Map<string, Map<number, ToldDay>>> {
  const names = await codeTexts(db, "campaign");
  const rows = await db
    .select()
    .from(campaignDays)
    .where(between(campaignDays.day, window.from, window.to));
  const days = new Map<string, Map<number, ToldDay>>();
  for (const { campaign, day, ...told } of rows) {
    const key = names.get(campaign) ?? "";
    const own = days.get(key) ?? new Map<number, ToldDay>();
    days.set(key, own.set(day, told));
  }
  return days;
}

/**
 * On how many days a purse that is as it was ran out by the channel's own word: all that draw on it stopped, one of them at
 * least with money of its own left. What was spent tells less, since chance leaves it a little short of the purse.
 * @returns null where the channel says of none of them that it ever stopped
 */
function toldStops(
  keys: string[],
  told: Map<string, Map<number, ToldDay>>,
  window: Window | null,
): Pick<Drawn, "dryDays" | "dryAt"> | null {
  if (!window) return null;
  let [dryDays, hours, isTold] = [0, 0, false];
  for (let day = window.from; day <= window.to; day++) {
    const rows = keys.flatMap((key) => told.get(key)?.get(day) ?? []);
    const stops = rows.flatMap(({ dryAt }) => dryAt ?? []);
    isTold ||= stops.length > 0;
    const hasMoneyLeft = rows.some(({ budget, cost }) => cost < budget * EMPTY);
    if (stops.length === 0 || stops.length < rows.length || !hasMoneyLeft) continue;
    dryDays++;
    hours += Math.max(...stops);
  }
  return isTold ? { dryDays, dryAt: dryDays === 0 ? null : hours / dryDays } : null;
}

/** On how many days campaigns together spent as much as a purse holds, and when: by the hours in which they usually spend. */
function stopsOf(
  keys: string[],
  budget: number,
  spent: Map<string, Map<number, number>>,
  hours: Map<string, Float64Array>,
  window: Window | null,
): Pick<Drawn, "dryDays" | "dryAt"> {
  if (!window || keys.length === 0) return { dryDays: 0, dryAt: null };
  let dryDays = 0;
  for (let day = window.from; day <= window.to; day++) {
    const total = keys.reduce((sum, key) => sum + (spent.get(key)?.get(day) ?? 0), 0);
    if (total >= budget * EMPTY) dryDays++;
  }
  if (dryDays === 0) return { dryDays, dryAt: null };
  const days = window.to - window.from + 1;
  let sum = 0;
  for (let hour = 0; hour < 24; hour++) {
    const more = keys.reduce((total, key) => total + (hours.get(key)?.[hour] ?? 0), 0) / days;
    if (sum + more >= budget * EMPTY) return { dryDays, dryAt: hour + (budget * EMPTY - sum) / more };
    sum += more;
  }
  return { dryDays, dryAt: 24 };
}

/** Spend by campaign and day. */
async function dailySpend(db: Database, window: Window): Promise<Map<string, Map<number, number>>> {
  const { ads } = await loadCube(db, "item", window, true);
  const { texts } = await loadCodes(db);
  const { campaign, day } = ads.dimensions;
  const spent = new Map<number, Map<number, number>>();
  for (let line = 0; line < ads.length; line++) {
    const byDay = spent.get(campaign![line]!) ?? new Map<number, number>();
    spent.set(campaign![line]!, byDay);
    byDay.set(day![line]!, (byDay.get(day![line]!) ?? 0) + ads.sums.cost[line]!);
  }
  return new Map([...spent].map(([code, byDay]) => [texts.get(code) ?? "", byDay]));
}

/** Spend by campaign and hour of the day, over the window. */
async function hourlySpend(db: Database, window: Window): Promise<Map<string, Float64Array>> {
  const { ads } = await loadCube(db, "hour", window, false);
  const { texts } = await loadCodes(db);
  const { campaign, hour } = ads.dimensions;
  const spent = new Map<string, Float64Array>();
  for (let line = 0; line < ads.length; line++) {
    const key = texts.get(campaign![line]!) ?? "";
    const byHour = spent.get(key) ?? new Float64Array(24);
    spent.set(key, byHour);
    byHour[hour![line]!]! += ads.sums.cost[line]!;
  }
  return spent;
}
