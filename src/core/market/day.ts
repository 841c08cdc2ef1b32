import type { Day } from "../kit/days";
import { randomFrom } from "../kit/random";
import type { MarketAccount } from "./running-account";
import { categoryLines, type Moment } from "./category-lines";
import type { DayOptions, DayResult, Line, MarketState } from "./day-types";
import { Collector, mergeFacts, placementFacts } from "./draw";
import { hourAtShare, shareAtHour } from "./hours";
import { learn } from "./learning";
import { runsOn, todaysOffers } from "./offers";
import { fillPurses, keepWithinPurses, nextMoney } from "./purses";
import { spreadDay } from "./spread";
import { storeSales } from "./store-sales";
import type { Category, World } from "./world-types";

/** Hours at which the bids of a campaign with dayparts change, as shares of the day's traffic; the last is the end. */
function boundaries(account: MarketAccount): { share: number; hour: number }[] {
  const list: { share: number; hour: number }[] = [];
  for (let hour = 1; hour < 24; hour++) {
    if (account.campaigns.some(({ hours }) => hours && hours[hour] !== hours[hour - 1])) {
      list.push({ share: shareAtHour(hour), hour });
    }
  }
  return [...list, { share: 1, hour: 24 }];
}

/**
 * Runs one day. Budgets run out in the course of it and bids change by the hour: the day is cut wherever a purse is
 * empty or a daypart begins, and from there on the next home in serve order serves, at its own bid.
 */
export function simulateDay(
  world: World,
  account: MarketAccount,
  day: Day,
  state: MarketState,
  options: DayOptions,
): DayResult {
  const { campaigns } = account;
  const offers = todaysOffers(world, account, state);
  const purses = fillPurses(account, state, day);
  const moment: Moment = {
    day,
    active: campaigns.map((campaign) => campaign.budget > 0 && runsOn(campaign, day)),
    hourFactor: campaigns.map(({ hours }) => hours?.[0] ?? 1),
  };
  const compute = (category: Category) => categoryLines(world, account, offers, category, moment);
  const lines = world.categories.map(compute);
  const rates = new SpendRates(lines, campaigns.length);
  const dryAt: (number | null)[] = campaigns.map(() => null);
  const collected = new Collector(world, campaigns);
  // From which share of the day on each category's lines have stood as they are.
  const since = lines.map(() => 0);
  let passed = 0;
  const renew = (changed: Set<number>) => {
    world.categories.forEach((category, i) => {
      if (![...changed].some((c) => account.campaignsOf[i]!.has(c))) return;
      collected.add(lines[i]!, since[i]!, passed);
      since[i] = passed;
      lines[i] = compute(category);
      rates.replace(i, lines[i] as Line[]);
    });
  };
  for (const { share: end, hour } of boundaries(account)) {
    while (passed < end) {
      const empty = purses.nextEmpty(rates.total, moment.active, end - passed);
      purses.spend(rates.total, moment.active, empty.after);
      passed = empty.purse ? passed + empty.after : end;
      if (!empty.purse) break;
      const dry = new Set(empty.purse.members.filter((c) => moment.active[c]));
      for (const c of dry) {
        moment.active[c] = false;
        dryAt[c] = hourAtShare(passed);
      }
      renew(dry);
    }
    if (hour === 24) break;
    const changed = new Set<number>();
    campaigns.forEach(({ hours }, c) => {
      if (!hours || hours[hour] === moment.hourFactor[c]) return;
      moment.hourFactor[c] = hours[hour]!;
      changed.add(c);
    });
    renew(changed);
  }
  lines.forEach((part, i) => collected.add(part, since[i]!, 1));

  const dry = new Set(campaigns.flatMap((_, c) => (dryAt[c] === null ? [] : [c])));
  const drawn = collected.draw(options.noise ? randomFrom(options.seed, world.seed, "day", day) : null, dry);
  if (options.noise) keepWithinPurses(drawn, campaigns, purses, randomFrom(options.seed, world.seed, "order", day));
  const random = options.noise ? randomFrom(options.seed, world.seed, "spread", day) : null;
  const { seen, late, hours } = spreadDay(drawn, collected.hourWeights, day, random);
  const facts = mergeFacts(seen);
  const due = state.late.filter((order) => order.due <= day);
  const waiting = state.late.filter((order) => order.due > day);
  const spent = new Map<string, number>();
  for (const fact of facts) spent.set(fact.campaign, (spent.get(fact.campaign) ?? 0) + fact.cost);
  return {
    facts,
    arrived: due,
    placements: placementFacts(drawn),
    hours,
    store: storeSales(world, drawn, seen, due, day, options),
    campaigns: campaigns.map(({ key, budget }, c) => ({
      campaign: key,
      budget,
      cost: spent.get(key) ?? 0,
      dryAt: dryAt[c] as number | null,
    })),
    state: {
      ...nextMoney(account, state, day, (key) => spent.get(key) ?? 0, dryAt),
      learned: learn(state.learned, [...facts, ...due.map((order) => ({ ...order, clicks: 0 }))]),
      late: [...waiting, ...late],
    },
  };
}

/** Mills a day each campaign spends as things stand, kept up as categories change. */
class SpendRates {
  readonly total: number[];
  private readonly parts: Map<number, number>[];

  constructor(lines: Line[][], campaigns: number) {
    this.total = new Array<number>(campaigns).fill(0);
    this.parts = lines.map(ratesOf);
    for (const part of this.parts) for (const [c, rate] of part) this.total[c] = this.total[c]! + rate;
  }

  replace(category: number, lines: Line[]): void {
    for (const [c, rate] of this.parts[category]!) this.total[c] = this.total[c]! - rate;
    this.parts[category] = ratesOf(lines);
    for (const [c, rate] of this.parts[category]) this.total[c] = this.total[c]! + rate;
  }
}

function ratesOf(lines: Line[]): Map<number, number> {
  const rates = new Map<number, number>();
  for (const { campaign, impressions, ctr, cpc } of lines) {
    rates.set(campaign, (rates.get(campaign) ?? 0) + impressions * ctr * cpc);
  }
  return rates;
}
