import type { Day } from "../kit/days";
import { poisson, randomFrom } from "../kit/random";
import { EXTRA_UNITS, type DayOptions, type Fact, type StoreFact } from "./day-types";
import { demandFactor } from "./demand";
import type { World } from "./world";

/** Store orders without ads gained for each ad order: shoppers come back, and tell others. */
const HALO = 0.08;

/** All sales of the shop: what came without ads (lifted a little by them) and what came from ads. */
export function storeSales(world: World, facts: Fact[], day: Day, options: DayOptions): StoreFact[] {
  const byItem = new Map<number, StoreFact>();
  for (const fact of facts) {
    if (fact.orders === 0) continue;
    const found = byItem.get(fact.itemNo) ?? { itemNo: fact.itemNo, orders: 0, units: 0, revenue: 0 };
    found.orders += fact.orders;
    found.units += fact.units;
    found.revenue += fact.revenue;
    byItem.set(fact.itemNo, found);
  }
  const random = options.noise ? randomFrom(options.seed, world.seed, "store", day) : null;
  for (const category of world.categories) {
    const demand = demandFactor(world, category, day);
    for (const row of category.rows) {
      const itemNo = world.itemNo[row] as number;
      const fromAds = byItem.get(itemNo);
      const mean =
        world.truth.inStock[row]! * ((world.truth.organic[row] as number) * demand + HALO * (fromAds?.orders ?? 0));
      const orders = random ? poisson(random, mean) : mean;
      if (orders === 0 && !fromAds) continue;
      const units = orders + (random ? poisson(random, orders * EXTRA_UNITS) : orders * EXTRA_UNITS);
      const found = fromAds ?? { itemNo, orders: 0, units: 0, revenue: 0 };
      found.orders += orders;
      found.units += units;
      found.revenue += units * (world.truth.price[row] as number);
      byItem.set(itemNo, found);
    }
  }
  return [...byItem.values()].filter((fact) => fact.orders > 0);
}
