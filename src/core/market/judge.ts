import type { Day } from "../kit/days";
import { clickPrice, SHARPNESS, winChance } from "./auction";
import type { MarketAccount } from "./running-account";
import { simulateDay } from "./day";
import { EXTRA_UNITS, type MarketState } from "./day-types";
import { demandFactor } from "./demand";
import { HOUR_CVR, HOUR_SHARE } from "./hours";
import { SLOTS, slotsOf, type Slot } from "./slot-figures";
import { renown } from "./world";
import type { Category, Surface, World } from "./world-types";

/** What money buys, in mills. */
export interface Worth {
  cost: number;
  revenue: number;
}

/** The truth of an account: what its days bring without noise. */
export function truthOfAccount(
  world: World,
  account: MarketAccount,
  from: Day,
  to: Day,
  state: MarketState,
): { days: (Worth & { day: Day; orders: number; clicks: number; storeRevenue: number })[]; state: MarketState } {
  const days = [];
  let now = state;
  for (let day = from; day <= to; day++) {
    const result = simulateDay(world, account, day, now, { noise: false, seed: "truth" });
    now = result.state;
    const sum = { day, cost: 0, revenue: 0, orders: 0, clicks: 0, storeRevenue: 0 };
    for (const fact of result.facts) {
      sum.cost += fact.cost;
      sum.revenue += fact.revenue;
      sum.orders += fact.orders;
      sum.clicks += fact.clicks;
    }
    for (const line of result.store) sum.storeRevenue += line.revenue;
    days.push(sum);
  }
  return { days, state: now };
}

/** Multiples of what a click is worth that are tried as bids. */
const MULTIPLES = Array.from({ length: 22 }, (_, i) => 0.02 * 1.35 ** i);
/** How many of a category's best items compete; what is worse adds nothing. */
const FIELDS = [1, 3, 40];
/** Hours alike in how people buy count as one. */
const HOURS = HOUR_SHARE.map((share, hour) => ({ share, cvr: HOUR_CVR[hour]! }));

interface Rival {
  row: number;
  weight: number;
  ctr: number;
  cvr: number;
  /** Mills a click brings, before slot and hour. */
  value: number;
}

/**
 * The most ad sales that some money could have bought on a day, by somebody who knew the truth (the attainable optimum).
 *
 * Such a person bids by place, slot, hour and item. The auction's price is the second score, so bidding a fixed multiple
 * of what each item's click is worth is best for a place taken alone; which multiples, and among how many items, is
 * tried on a grid. Each try is a point of cost and sales; the upper hull of a place's points is the best it gives for any
 * money, mixing two ways of bidding included. The hulls of all places and hours are filled from the steepest piece
 * downwards until the money is spent, which is the exact optimum of a sum of concave curves.
 * @param money mills
 */
export function attainable(world: World, day: Day, money: number): Worth {
  const hulls: ScaledHull[] = [];
  for (const category of world.categories) {
    const demand = demandFactor(world, category, day);
    for (const surface of category.surfaces) {
      const hull = hullOfView(world, category, surface, day);
      if (hull.length > 0) hulls.push(scaled(hull, surface.volume * demand));
    }
  }
  // What is taken at a least return: every piece that brings more. The return at which the money is just spent is found
  // by halving; what is left of the money then goes to the pieces at that very return.
  const taken = (least: number): Worth => {
    const sum = { cost: 0, revenue: 0 };
    for (const hull of hulls) {
      for (const { share, cvr } of HOURS) {
        const count = piecesAbove(hull.slopes, least / cvr);
        sum.cost += share * hull.costs[count]!;
        sum.revenue += share * cvr * hull.revenues[count]!;
      }
    }
    return sum;
  };
  const all = taken(0);
  if (all.cost <= money) return all;
  let low = 0;
  let high = Math.max(...hulls.map(({ slopes }) => slopes[0]!)) * Math.max(...HOURS.map(({ cvr }) => cvr)) + 1;
  for (let round = 0; round < 60; round++) {
    const middle = (low + high) / 2;
    if (taken(middle).cost > money) low = middle;
    else high = middle;
  }
  const sure = taken(high);
  return { cost: money, revenue: sure.revenue + (money - sure.cost) * high };
}

/** A hull with its costs and sales added up: entry `n` is what the first `n` pieces come to. */
interface ScaledHull {
  /** Falling. */
  slopes: number[];
  costs: number[];
  revenues: number[];
}

function scaled(hull: ReturnType<typeof upperHull>, views: number): ScaledHull {
  const costs = [0];
  const revenues = [0];
  for (const { cost, slope } of hull) {
    costs.push((costs.at(-1) as number) + cost * views);
    revenues.push((revenues.at(-1) as number) + cost * views * slope);
  }
  return { slopes: hull.map(({ slope }) => slope), costs, revenues };
}

/** How many of some falling slopes are at least so steep. */
function piecesAbove(slopes: number[], least: number): number {
  let low = 0;
  let high = slopes.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (slopes[middle]! >= least) low = middle + 1;
    else high = middle;
  }
  return low;
}

const keptHulls = new WeakMap<World, Map<number, ReturnType<typeof upperHull>>>();

/** What a view of a place gives for money. It is the same every day, but where newcomers stand who grow by the day. */
function hullOfView(world: World, category: Category, surface: Surface, day: Day): ReturnType<typeof upperHull> {
  const grows = category.rows.some((row) => renown(world.truth.since[row]!, day) < 1);
  const kept = keptHulls.get(world) ?? new Map<number, ReturnType<typeof upperHull>>();
  keptHulls.set(world, kept);
  const known = grows ? undefined : kept.get(surface.id);
  if (known) return known;
  const rivals = competitors(world, category, surface, day);
  const hull = rivals.length === 0 ? [] : upperHull(points(surface, rivals));
  if (!grows) kept.set(surface.id, hull);
  return hull;
}

/** The items of a category that can stand in a place, the most valuable first. */
function competitors(world: World, { rows }: Category, surface: Surface, day: Day): Rival[] {
  const { truth } = world;
  const list: Rival[] = [];
  rows.forEach((row, i) => {
    if (truth.inStock[row] === 0) return;
    const known = Math.sqrt(renown(truth.since[row]!, day));
    const quality = truth.quality[row]! * known;
    const cvr = truth.cvr[row]! * known * surface.cvr * (surface.lift ? surface.lift[i]! : 1);
    const value = cvr * truth.price[row]! * (1 + EXTRA_UNITS);
    const fit = surface.fit[i]!;
    list.push({ row, weight: quality * fit, ctr: surface.ctr * Math.sqrt(quality), cvr, value });
  });
  list.sort((a, b) => b.value * b.weight - a.value * a.weight);
  return list.slice(0, FIELDS.at(-1));
}

/** Cost and sales of a view for every way of bidding for a place that is tried. */
function points(surface: Surface, rivals: Rival[]): Worth[] {
  const slots = slotsOf(surface.kind).map((i) => SLOTS[i]!);
  const found: Worth[] = [];
  for (const size of FIELDS) {
    if (size > rivals.length && size !== FIELDS.at(-1)) continue;
    const field = rivals.slice(0, size);
    const tries = slots.map((slot) => [0, ...MULTIPLES].map((multiple) => outcome(surface, slot, field, multiple)));
    const [first, second] = tries as [Try[], Try[] | undefined];
    for (const lead of first) {
      found.push({ cost: lead.won * lead.cost, revenue: lead.won * lead.revenue });
      // One ad an auction: below stands only who was not in the lead row.
      for (const lower of second ?? []) {
        const below = Math.max(0, lower.won - lead.won);
        found.push({
          cost: lead.won * lead.cost + below * lower.cost,
          revenue: lead.won * lead.revenue + below * lower.revenue,
        });
      }
    }
  }
  return found;
}

/** Chance to win, and what a view won costs and brings. */
interface Try {
  won: number;
  cost: number;
  revenue: number;
}

function outcome(surface: Surface, slot: Slot, field: Rival[], multiple: number): Try {
  if (multiple === 0) return { won: 0, cost: 0, revenue: 0 };
  const mean = surface.rivalMean + slot.hardness;
  const bids = field.map(({ value }) => Math.floor(value * slot.cvr * multiple));
  let sum = 0;
  const power = field.map(({ weight }, i) => {
    const own = (bids[i]! * weight) ** SHARPNESS;
    sum += own;
    return own;
  });
  if (sum === 0) return { won: 0, cost: 0, revenue: 0 };
  const won = winChance(Math.log(sum) / SHARPNESS, mean, surface.rivalSpread);
  let cost = 0;
  let revenue = 0;
  field.forEach(({ weight, ctr, cvr, value }, i) => {
    if (bids[i] === 0) return;
    const share = power[i]! / sum;
    const clicks = slot.seen * share * Math.min(0.5, slot.ctr * ctr);
    const converts = Math.min(0.5, cvr * slot.cvr) / cvr;
    cost += clicks * clickPrice(bids[i]!, weight, mean, surface.rivalSpread);
    revenue += clicks * value * converts;
  });
  return { won, cost, revenue };
}

/** The upper hull of points from the origin, as pieces of falling slope (Andrew's monotone chain). */
export function upperHull(points: Worth[]): { cost: number; slope: number }[] {
  const sorted = points
    .filter(({ cost, revenue }) => cost > 0 && revenue > 0)
    .sort((a, b) => a.cost - b.cost || b.revenue - a.revenue);
  const hull: Worth[] = [{ cost: 0, revenue: 0 }];
  for (const point of sorted) {
    if (point.revenue <= (hull.at(-1) as Worth).revenue) continue;
    while (hull.length > 1) {
      const [a, b] = [hull.at(-2) as Worth, hull.at(-1) as Worth];
      const isAbove =
        (b.revenue - a.revenue) * (point.cost - a.cost) <= (point.revenue - a.revenue) * (b.cost - a.cost);
      if (!isAbove) break;
      hull.pop();
    }
    hull.push(point);
  }
  return hull.slice(1).map((point, i) => {
    const before = hull[i]!;
    const cost = point.cost - before.cost;
    return { cost, slope: (point.revenue - before.revenue) / cost };
  });
}
