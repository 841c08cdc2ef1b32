import { CHANNEL_LIMITS } from "../channel/limits";
import { monthOf, type Day } from "../kit/days";
import type { Random } from "../kit/random";
import type { MarketAccount } from "./running-account";
import type { MarketState } from "./day-types";
import type { DrawnFact } from "./draw";

/** How much more than its daily budget a campaign may spend on a day, out of what it left over earlier in the month. */
export const OVERSPEND = CHANNEL_LIMITS.overspend;

/** A sum of money that campaigns spend from in the course of a day: their own, a pool's, or the day cap's. */
export interface Purse {
  /** Mills. */
  limit: number;
  spent: number;
  members: number[];
}

/** Below a mill there is nothing left to spend. */
const NOTHING = 1e-6;

export class Purses {
  constructor(readonly list: Purse[]) {}

  /** Which purse is empty first, and after which share of the day; none within `most`. */
  nextEmpty(rates: number[], active: boolean[], most: number): { purse: Purse | null; after: number } {
    let found: { purse: Purse | null; after: number } = { purse: null, after: most };
    for (const purse of this.list) {
      const rate = purse.members.reduce((sum, c) => (active[c] ? sum + Math.max(0, rates[c]!) : sum), 0);
      if (rate <= NOTHING) continue;
      const after = Math.max(0, purse.limit - purse.spent) / rate;
      if (after < found.after) found = { purse, after };
    }
    return found;
  }

  spend(rates: number[], active: boolean[], share: number): void {
    for (const purse of this.list) {
      for (const c of purse.members) if (active[c]) purse.spent += Math.max(0, rates[c]!) * share;
    }
  }
}

/** The day's purses. What a campaign left over this month may be spent later, within the channel's allowance. */
export function fillPurses(account: MarketAccount, state: MarketState, day: Day): Purses {
  const carry = monthOf(day) === state.month ? state.carry : {};
  const list: Purse[] = account.campaigns.map(({ key, budget }, c) => ({
    limit: budget + Math.min(carry[key] ?? 0, OVERSPEND * budget),
    spent: 0,
    members: [c],
  }));
  for (const { key, budget } of account.pools) {
    const members = account.campaigns.flatMap(({ pool }, c) => (pool === key ? [c] : []));
    if (members.length > 0) list.push({ limit: budget, spent: 0, members });
  }
  if (account.dayCap !== null) {
    list.push({ limit: account.dayCap, spent: 0, members: account.campaigns.map((_, c) => c) });
  }
  return new Purses(list);
}

/** What is left over after a day, and how campaigns that are after clicks bid tomorrow. */
export function nextMoney(
  account: MarketAccount,
  state: MarketState,
  day: Day,
  spent: (campaign: string) => number,
  dryAt: (number | null)[],
): Pick<MarketState, "carry" | "month" | "pace"> {
  const month = monthOf(day);
  const before = month === state.month ? state.carry : {};
  const carry: Record<string, number> = {};
  const pace: Record<string, number> = {};
  account.campaigns.forEach(({ key, budget, bidding }, c) => {
    carry[key] = Math.max(0, (before[key] ?? 0) + budget - spent(key));
    if (bidding !== "clicks") return;
    // Dry before the day's end: bid less. Money left at full bids: bid more, up to the ceiling.
    const dry = dryAt[c] ?? null;
    const factor = dry !== null ? 0.82 + 0.16 * (dry / 24) : spent(key) < 0.9 * budget ? 1.08 : 1;
    pace[key] = Math.min(1, Math.max(0.05, (state.pace[key] ?? 1) * factor));
  });
  return { carry, month, pace };
}

/**
 * Takes clicks back, in seeded order and whatever came of them, where draws went over a purse; and of the views of those
 * campaigns as large a share.
 */
export function keepWithinPurses(
  facts: DrawnFact[],
  campaigns: { key: string }[],
  purses: Purses,
  random: Random,
): void {
  const byCampaign = new Map<string, DrawnFact[]>();
  for (const fact of facts) {
    const list = byCampaign.get(fact.campaign);
    if (list) list.push(fact);
    else byCampaign.set(fact.campaign, [fact]);
  }
  for (const { limit, members } of purses.list) {
    const list = members.flatMap((c) => byCampaign.get(campaigns[c]!.key) ?? []);
    let cost = list.reduce((sum, fact) => sum + fact.cost, 0);
    if (cost <= limit) continue;
    // One entry a click, so that every click is as likely to be the one that was not paid for any more.
    const clicks = list.flatMap((fact) => new Array<DrawnFact>(fact.clicks).fill(fact));
    const drawn = clicks.length;
    while (cost > limit && clicks.length > 0) {
      const at = Math.floor(random() * clicks.length);
      cost -= takeClick(clicks[at]!, random);
      clicks[at] = clicks.at(-1)!;
      clicks.pop();
    }
    const left = clicks.length / drawn;
    for (const fact of list) fact.impressions = Math.max(fact.clicks, Math.floor(fact.impressions * left + random()));
  }
}

/** Takes one click out of a line, and the order with it if it was one that bought. @returns what it cost */
function takeClick(fact: DrawnFact, random: Random): number {
  // In whole mills, and so that what is left costs no more a click than the bid.
  const cpc = Math.floor(fact.cost / fact.clicks);
  if (random() < fact.orders / fact.clicks) {
    const price = fact.revenue / fact.units;
    fact.units -= Math.min(fact.units - (fact.orders - 1), Math.round(fact.units / fact.orders));
    fact.orders--;
    fact.revenue = fact.orders === 0 ? 0 : fact.units * price;
    if (fact.orders === 0) fact.units = 0;
  }
  fact.clicks--;
  fact.cost = fact.clicks === 0 ? 0 : fact.cost - cpc;
  return cpc;
}
