import type { Day } from "../kit/days";
import { poisson, randomFrom } from "../kit/random";
import { EXTRA_UNITS, type DayOptions, type Fact, type LateOrder, type StoreFact } from "./day-types";
import { demandFactor } from "./demand";
import type { DrawnFact } from "./draw";
import { renown } from "./world";
import type { World } from "./world-types";

/** Store orders without ads gained for each ad order: shoppers come back, and tell others. */
export const HALO = 0.08;

/**
 * All sales of the shop on a day, by the day an order comes in: those seen from ads today, of today's and of earlier
 * clicks, and those that came without. Ads lift the latter a little (halo); rivals take a share of them on pages of ours
 * where nothing of ours stands; and of what ads on our own name and pages bring, a part would have come anyway.
 * @param drawn what today's clicks brought in all, by which organic sales are lifted and replaced
 * @param seen what of it is seen today
 */
export function storeSales(
  world: World,
  drawn: DrawnFact[],
  seen: Fact[],
  arrived: LateOrder[],
  day: Day,
  options: DayOptions,
): StoreFact[] {
  const byItem = new Map<number, StoreFact>();
  const add = (itemNo: number, { orders, units, revenue }: Omit<StoreFact, "itemNo">) => {
    if (orders === 0) return;
    const found = byItem.get(itemNo) ?? { itemNo, orders: 0, units: 0, revenue: 0 };
    found.orders += orders;
    found.units += units;
    found.revenue += revenue;
    byItem.set(itemNo, found);
  };
  for (const fact of seen) add(fact.itemNo, fact);
  for (const order of arrived) add(order.itemNo, order);
  const shift = new Map<number, number>();
  for (const { itemNo, orders, incremental } of drawn) {
    if (orders > 0) shift.set(itemNo, (shift.get(itemNo) ?? 0) + orders * (HALO - (1 - incremental)));
  }
  const held = heldShares(world, drawn, day);
  const random = options.noise ? randomFrom(options.seed, world.seed, "store", day) : null;
  const { truth } = world;
  for (const category of world.categories) {
    const demand = demandFactor(world, category, day);
    for (const row of category.rows) {
      const itemNo = world.itemNo[row]!;
      const lost = truth.exposed[row]! * (1 - (held.get(row) ?? 0));
      const bare = truth.organic[row]! * renown(truth.since[row]!, day) * demand * (1 - lost);
      const mean = truth.inStock[row]! * Math.max(0, bare + (shift.get(itemNo) ?? 0));
      const orders = random ? poisson(random, mean) : mean;
      const units = orders + (random ? poisson(random, orders * EXTRA_UNITS) : orders * EXTRA_UNITS);
      add(itemNo, { orders, units, revenue: units * truth.price[row]! });
    }
  }
  return [...byItem.values()];
}

/** Which share of the views of our own pages our own ads hold, by the row whose page it is. */
export function heldShares(world: World, drawn: { term: string; slot: number; impressions: number }[], day: Day) {
  const pages = new Map<string, number>();
  for (const { term, slot, impressions } of drawn)
    if (slot === 2) pages.set(term, (pages.get(term) ?? 0) + impressions);
  const held = new Map<number, number>();
  if (pages.size === 0) return held;
  for (const category of world.categories) {
    const demand = demandFactor(world, category, day);
    for (const surface of category.surfaces) {
      const shown = surface.ownRow < 0 ? undefined : pages.get(surface.label);
      if (shown) held.set(surface.ownRow, Math.min(1, shown / (surface.volume * demand)));
    }
  }
  return held;
}
