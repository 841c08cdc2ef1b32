import { AD_MEASURES } from "../kit/metrics";
import type { Day } from "../kit/days";
import type { Random } from "../kit/random";
import { drawnAge, seenByAge } from "./arrivals";
import { type Counts, type HourFact, type LateOrder } from "./day-types";
import type { DrawnFact, HourWeights } from "./draw";
import { SLOTS } from "./slot-figures";
import type { World } from "./world-types";

const VIEWS = ["impressions", "clicks", "cost"] as const;
const SALES = ["orders", "units", "revenue"] as const;

function noCounts(): Counts {
  return { impressions: 0, clicks: 0, cost: 0, orders: 0, units: 0, revenue: 0 };
}

/** The hours of a campaign with one factor on its bids, and by which weights its views and orders fall on them. */
class FactorHours {
  readonly hours = Array.from({ length: 24 }, noCounts);
  readonly rest = noCounts();
  /** Expected sales by slot. */
  private readonly sales = SLOTS.map(noCounts);
  private readonly views: Float64Array;
  private readonly buying: Float64Array[];

  constructor(weights: Float64Array, buyingByHour: readonly number[][]) {
    this.views = cumulated(weights);
    this.buying = buyingByHour.map((byHour) => cumulated(weights.map((value, hour) => value * byHour[hour]!)));
  }

  viewed(random: Random): number {
    return pick(this.views, random);
  }

  bought(random: Random, slot: number): number {
    return pick(this.buying[slot]!, random);
  }

  /** Adds an expected fact to what is spread. */
  expect(fact: DrawnFact): void {
    for (const name of VIEWS) this.rest[name] += fact[name];
    for (const name of SALES) this.sales[fact.slot]![name] += fact[name];
  }

  /** Spreads what was added to `rest`: counts of views in whole numbers, or everything in shares. */
  spreadRest(inWhole: boolean): void {
    let given = 0;
    for (let hour = 0; hour < 24; hour++) {
      const line = this.hours[hour]!;
      if (inWhole) {
        const until = Math.round((this.rest.impressions * this.views[hour]!) / this.views[23]!);
        line.impressions += Math.max(0, until - given);
        given = Math.max(given, until);
        continue;
      }
      for (const name of VIEWS) line[name] += this.rest[name] * share(this.views, hour);
      this.sales.forEach((sold, slot) => {
        if (sold.orders === 0) return;
        for (const name of SALES) line[name] += sold[name] * share(this.buying[slot]!, hour);
      });
    }
  }
}

function cumulated(weights: Float64Array): Float64Array {
  const sums = new Float64Array(24);
  let sum = 0;
  for (let hour = 0; hour < 24; hour++) sums[hour] = sum += weights[hour]!;
  return sums;
}

function share(sums: Float64Array, hour: number): number {
  return (sums[hour]! - (hour > 0 ? sums[hour - 1]! : 0)) / sums[23]!;
}

function pick(sums: Float64Array, random: Random): number {
  const at = random() * sums[23]!;
  for (let hour = 0; hour < 23; hour++) if (sums[hour]! > at) return hour;
  return 23;
}

/** The units of the `i`-th of a fact's orders. */
function unitsOf(fact: DrawnFact, i: number): number {
  return Math.floor(((i + 1) * fact.units) / fact.orders) - Math.floor((i * fact.units) / fact.orders);
}

/**
 * Spreads a day's facts over its hours, and parts the orders that are seen at once from those that reports show later.
 * Views and clicks fall on the hours by traffic while the campaign ran, orders also by how people buy at that hour.
 * Without a generator expected shares are taken and all orders are seen.
 * @param weights expected views by hour, of a campaign and the hours' factor on its bids
 */
export function spreadDay(
  facts: DrawnFact[],
  weights: HourWeights,
  day: Day,
  random: Random | null,
  { nature, buyingByHour, itemNo: itemNos }: Pick<World, "nature" | "buyingByHour" | "itemNo">,
): { seen: DrawnFact[]; late: LateOrder[]; hours: HourFact[] } {
  const seenBy = seenByAge(nature);
  const spreads = new Map(
    [...weights].map(([key, own]) => [
      key,
      new Map([...own].map(([factor, views]) => [factor, new FactorHours(views, buyingByHour)])),
    ]),
  );
  const late: LateOrder[] = [];
  const seen = facts.map((fact) => {
    const spread = spreads.get(fact.campaign)!.get(fact.hourFactor)!;
    if (!random) {
      spread.expect(fact);
      return fact;
    }
    spread.rest.impressions += fact.impressions - fact.clicks;
    const costUpTo = (clicks: number) => Math.floor((clicks * fact.cost) / fact.clicks);
    const left = fact.orders > 0 ? { ...fact } : fact;
    for (let i = 0; i < fact.clicks; i++) {
      // The first clicks are those that led to orders.
      const hour = i < fact.orders ? spread.bought(random, fact.slot) : spread.viewed(random);
      const line = spread.hours[hour]!;
      line.impressions++;
      line.clicks++;
      line.cost += costUpTo(i + 1) - costUpTo(i);
      if (i >= fact.orders) continue;
      const units = unitsOf(fact, i);
      const revenue = (fact.revenue / fact.units) * units;
      const age = drawnAge(random, seenBy);
      if (age === 0) {
        line.orders++;
        line.units += units;
        line.revenue += revenue;
        continue;
      }
      left.orders--;
      left.units -= units;
      left.revenue -= revenue;
      const { adGroup, target, itemNo, term, slot } = fact;
      const bought = fact.boughtRow === fact.row ? {} : { bought: itemNos[fact.boughtRow]! };
      const place = { campaign: fact.campaign, adGroup, target, itemNo, ...bought, term, slot, hour };
      late.push({ day, due: day + age, ...place, orders: 1, units, revenue });
    }
    return left;
  });
  const hours: HourFact[] = [];
  for (const [campaign, own] of spreads) {
    const sums = Array.from({ length: 24 }, noCounts);
    for (const spread of own.values()) {
      spread.spreadRest(random !== null);
      spread.hours.forEach((line, hour) => AD_MEASURES.forEach((name) => (sums[hour]![name] += line[name])));
    }
    sums.forEach((line, hour) => {
      if (AD_MEASURES.some((name) => line[name] > 0)) hours.push({ campaign, hour, ...line });
    });
  }
  return { seen, late, hours };
}
