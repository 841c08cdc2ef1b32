import { isWatched, pressureAfter, watchedViews, type Pressure } from "./answer";
import type { Day } from "../kit/days";
import { randomFrom } from "../kit/random";
import type { MarketAccount } from "./running-account";
import { CategoryDay, PassingDay } from "./category-day";
import type { DayOptions, DayResult, MarketState } from "./day-types";
import { Collector, mergeFacts, placementFacts, type DrawnFact } from "./draw";
import { hourAtShare, shareAtHour } from "./hours";
import { demandFactor } from "./demand";
import { learn } from "./learning";
import { Luck } from "./luck";
import { runsOn, todaysOffers } from "./offers";
import { fillPurses, keepWithinPurses, nextMoney } from "./purses";
import { spreadDay } from "./spread";
import { storeSales } from "./store-sales";
import type { World } from "./world-types";

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
  const active = campaigns.map((campaign) => campaign.budget > 0 && runsOn(campaign, day));
  const dryAt: (number | null)[] = campaigns.map(() => null);
  const collected = new Collector(world, campaigns);
  const luck = options.noise ? new Luck(world, options.seed, day) : null;
  const pressure = state.pressure ?? {};
  const categories = world.categories.map(
    (category, i) => new CategoryDay(world, account, offers, category, i, day, pressure, luck),
  );
  const passing = new PassingDay(categories, active, collected);
  let passed = 0;
  for (let hour = 0; hour < 24; hour++) {
    // Hours in which nothing changes pass in one go.
    if (hour < 23 && !categories.some((category) => category.changesAt(hour + 1))) continue;
    const end = shareAtHour(hour + 1);
    while (passed < end) {
      const empty = purses.nextEmpty(passing.rates, active, end - passed);
      purses.spend(passing.rates, active, empty.after);
      const until = empty.purse ? passed + empty.after : end;
      passing.pass(passed, until);
      passed = until;
      if (!empty.purse) break;
      const dry = new Set(empty.purse.members.filter((c) => active[c]));
      for (const c of dry) dryAt[c] = hourAtShare(passed);
      passing.runDry(dry, hour);
    }
    if (hour < 23) passing.begin(hour + 1);
  }
  passing.end();

  const dry = new Set(campaigns.flatMap((_, c) => (dryAt[c] === null ? [] : [c])));
  const drawn = collected.draw(options.noise ? randomFrom(options.seed, world.seed, "day", day) : null, dry);
  if (options.noise) keepWithinPurses(drawn, campaigns, purses, randomFrom(options.seed, world.seed, "order", day));
  const random = options.noise ? randomFrom(options.seed, world.seed, "spread", day) : null;
  const { seen, late, hours } = spreadDay(drawn, collected.weights, day, random, world);
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
      pressure: pressureOf(world, pressure, drawn, day),
    },
  };
}

/** How much rivals have seen of us after a day. */
function pressureOf(world: World, before: Pressure, drawn: DrawnFact[], day: Day): Pressure {
  const shown = new Map<string, number>();
  for (const { row, slot, impressions } of drawn) {
    if (!isWatched(slot)) continue;
    const { name } = world.categories[world.rowCategory[row]!]!;
    shown.set(name, (shown.get(name) ?? 0) + impressions);
  }
  const views = new Map(
    world.categories.map((category) => [category.name, watchedViews(category) * demandFactor(world, category, day)]),
  );
  return pressureAfter(before, views, shown);
}
