import type { Day } from "../kit/days";
import { binomial, poisson, randomFrom, type Random } from "../kit/random";
import { boughtAfter, orderValue } from "./bought-instead";
import type { DayOptions, LateOrder, StoreFact } from "./day-types";
import { demandFactor, warFactor } from "./demand";
import type { DrawnFact } from "./draw";
import { renown } from "./world";
import type { Category, World } from "./world-types";

/** Store orders without ads gained for each ad order: shoppers come back, and tell others. */
export const HALO = 0.08;

/** Sales by item number, added up; what is sent back is taken off revenue. */
class StoreBook {
  private readonly byItem = new Map<number, StoreFact>();

  constructor(
    private readonly world: World,
    private readonly random: Random | null,
  ) {}

  /** Adds orders of a row. @param revenue mills, before anything is sent back */
  add(row: number, orders: number, units: number, revenue: number): void {
    this.addItem(this.world.itemNo[row]!, this.world.truth.returned[row]!, orders, units, revenue);
  }

  addItem(itemNo: number, returned: number, orders: number, units: number, revenue: number): void {
    if (orders === 0) return;
    const found = this.byItem.get(itemNo) ?? { itemNo, orders: 0, units: 0, revenue: 0 };
    const back = this.random ? binomial(this.random, Math.round(units), returned) / Math.round(units) : returned;
    found.orders += orders;
    found.units += units;
    found.revenue += revenue * (1 - back);
    this.byItem.set(itemNo, found);
  }

  get facts(): StoreFact[] {
    return [...this.byItem.values()];
  }
}

/**
 * All sales of the shop on a day, by the day an order comes in and the item it is of: those seen from ads today, of today's
 * and of earlier clicks, and those that came without. Ads lift the latter a little (halo); rivals take a share of them on
 * pages of ours where nothing of ours stands; and of what ads bring, a part would have come anyway. Orders and units are
 * as they came; revenue is what stays, less what is sent back, while ad reports show it whole.
 * @param drawn what today's clicks brought in all, by which organic sales are lifted and replaced
 * @param seen what of it is seen today
 */
export function storeSales(
  world: World,
  drawn: DrawnFact[],
  seen: DrawnFact[],
  arrived: LateOrder[],
  day: Day,
  options: DayOptions,
): StoreFact[] {
  const { truth } = world;
  const random = options.noise ? randomFrom(options.seed, world.seed, "store", day) : null;
  const book = new StoreBook(world, random);
  const rowOf = rowsByItem(world);
  for (const fact of seen) {
    if (fact.boughtRow >= 0) {
      book.add(fact.boughtRow, fact.orders, fact.units, fact.revenue);
      continue;
    }
    for (const { row, share } of boughtAfter(world, fact.row)) {
      const orders = fact.orders * share;
      const units = orders * (1 + truth.extraUnits[row]!);
      book.add(row, orders, units, units * truth.price[row]!);
    }
  }
  for (const { itemNo, bought, orders, units, revenue } of arrived) {
    const no = bought ?? itemNo;
    const row = rowOf.get(no);
    // Nobody knows what is sent back of an item that has left the catalogue since.
    book.addItem(no, row === undefined ? 0 : truth.returned[row]!, orders, units, revenue);
  }
  const shift = new Float64Array(truth.price.length);
  for (const { row, boughtRow, orders, incremental } of drawn) {
    const moved = orders * (HALO - (1 - incremental));
    if (boughtRow >= 0) shift[boughtRow]! += moved;
    else for (const { row: of, share } of boughtAfter(world, row)) shift[of]! += moved * share;
  }
  const held = heldShares(world, drawn, day);
  for (const category of world.categories) {
    for (const row of category.rows) {
      const lost = truth.exposed[row]! * (1 - (held.get(row) ?? 0));
      const bare = bareOrders(world, category, row, day) * (1 - lost);
      // Where ads take more orders from an item than it has without them, its expected rest is below zero: together with
      // the ads' own it is not. No draw of orders is.
      const mean = truth.inStock[row]! * (bare + shift[row]!);
      const orders = random ? poisson(random, Math.max(0, mean)) : mean;
      const extra = orders * truth.extraUnits[row]!;
      const units = orders + (random ? poisson(random, extra) : extra);
      book.add(row, orders, units, units * truth.price[row]!);
    }
  }
  return book.facts;
}

const rows = new WeakMap<World, Map<number, number>>();

/** The catalogue row of each item number. */
function rowsByItem(world: World): Map<number, number> {
  const known = rows.get(world) ?? new Map([...world.itemNo].map((no, row) => [no, row]));
  rows.set(world, known);
  return known;
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

/** Sales of the shop that ads of ours kept from rivals on our own pages, in mills, by the number of the item whose page it is. */
export function heldSales(
  world: World,
  facts: { term: string; slot: number; impressions: number }[],
  day: Day,
): Map<number, number> {
  const { truth, itemNo } = world;
  const sales = new Map<number, number>();
  for (const [row, share] of heldShares(world, facts, day)) {
    const category = world.categories[world.rowCategory[row]!]!;
    const orders = truth.inStock[row]! * truth.exposed[row]! * share * bareOrders(world, category, row, day);
    sales.set(itemNo[row]!, orders * orderValue(world, row) * (1 - truth.returned[row]!));
  }
  return sales;
}

/** Orders a day that a row would have without ads if rivals took none of them. */
function bareOrders(world: World, category: Category, row: number, day: Day): number {
  const { organic, since } = world.truth;
  const demand = demandFactor(world, category, day) * warFactor(world, category.name, day);
  return organic[row]! * renown(since[row]!, day) * demand;
}
