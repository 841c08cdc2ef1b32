import type { Day } from "../kit/days";
import { Account } from "../account/account";
import type { Columns } from "../kit/columns";
import { simulateDay } from "./day";
import { firstState, type MarketState } from "./day-types";
import type { Worth } from "./hull";
import { planAccount, type MarketAccount } from "./running-account";
import { heldSales } from "./store-sales";
import type { World } from "./world-types";

/** What a day of an account brings in truth. Money in mills. */
export interface TrueDay extends Worth {
  day: Day;
  orders: number;
  clicks: number;
  storeRevenue: number;
  /** Sales of the shop, by item number, for what ads added to them. */
  storeOf: Map<number, number>;
  /** What ads cost and sold, by item number. */
  adsOf: Map<number, Worth>;
  /** Sales that ads on our own pages kept from rivals, by the item whose page it is; they are in `storeOf` too. */
  heldOf: Map<number, number>;
}

/** The truth of an account: what its days bring without noise. */
export function truthOfAccount(
  world: World,
  account: MarketAccount,
  from: Day,
  to: Day,
  state: MarketState,
): { days: TrueDay[]; state: MarketState } {
  const days: TrueDay[] = [];
  let now = state;
  for (let day = from; day <= to; day++) {
    const result = simulateDay(world, account, day, now, { noise: false, seed: "truth" });
    now = result.state;
    const sum: TrueDay = {
      ...{ day, cost: 0, revenue: 0, orders: 0, clicks: 0, storeRevenue: 0 },
      ...{ storeOf: new Map(), adsOf: new Map(), heldOf: heldSales(world, result.facts, day) },
    };
    for (const fact of result.facts) {
      sum.cost += fact.cost;
      sum.revenue += fact.revenue;
      sum.orders += fact.orders;
      sum.clicks += fact.clicks;
      const own = sum.adsOf.get(fact.itemNo) ?? { cost: 0, revenue: 0 };
      sum.adsOf.set(fact.itemNo, { cost: own.cost + fact.cost, revenue: own.revenue + fact.revenue });
    }
    for (const { itemNo, revenue } of result.store) {
      sum.storeRevenue += revenue;
      sum.storeOf.set(itemNo, (sum.storeOf.get(itemNo) ?? 0) + revenue);
    }
    days.push(sum);
  }
  return { days, state: now };
}

/** The shop's days without any ad, against which what ads add is counted. */
export function daysWithoutAds(world: World, catalogue: Columns, from: Day, to: Day): TrueDay[] {
  return truthOfAccount(world, planAccount(world, Account.EMPTY, catalogue), from, to, firstState()).days;
}

/** What ads brought in over some days, in mills: in all, and what of it is rivals kept off our own pages. */
export interface Contribution {
  total: number;
  held: number;
}

/**
 * What ads brought in: sales added to the shop's × margin − cost, over some days. Of what ads show as their own much would
 * have come anyway, and is not counted; what is sent back is not either. An item without a margin counts nowhere, neither
 * its sales nor what clicks on it cost, since what it brings is not known.
 * @param margins share of the price left after cost, a row; NaN for unknown
 */
export function contributionParts(
  world: World,
  days: TrueDay[],
  without: TrueDay[],
  margins: Float64Array,
): Contribution {
  const sum: Contribution = { total: 0, held: 0 };
  days.forEach(({ storeOf, adsOf, heldOf }, i) => {
    world.itemNo.forEach((itemNo, row) => {
      const margin = margins[row]!;
      if (!Number.isFinite(margin)) return;
      const added = (storeOf.get(itemNo) ?? 0) - (without[i]!.storeOf.get(itemNo) ?? 0);
      sum.total += margin * added - (adsOf.get(itemNo)?.cost ?? 0);
      sum.held += margin * (heldOf.get(itemNo) ?? 0);
    });
  });
  return sum;
}

/** The whole of {@link contributionParts}, in mills. */
export function contributionOf(world: World, days: TrueDay[], without: TrueDay[], margins: Float64Array): number {
  return contributionParts(world, days, without, margins).total;
}
