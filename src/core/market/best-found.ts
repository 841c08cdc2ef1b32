import { Account, type Structure } from "../account/account";
import { recordSchema } from "../account/records";
import { asText, type Columns } from "../kit/columns";
import type { Day } from "../kit/days";
import { SLOT_KEYS } from "../kit/slots";
import { firstState } from "./day-types";
import type { Worth } from "./hull";
import { truthOfAccount, type TrueDay } from "./judge";
import { planAccount } from "./running-account";
import { SLOTS } from "./slot-figures";
import type { World } from "./world-types";

/*
 * The best that a search which knows the truth found to reach with an account of the product's own objects: one campaign
 * with fixed bids for every item, factors on slots, and negatives. It is no bound, somebody cleverer may find more; but it
 * says how much of the bound is in reach at all.
 */

/** What the search turns: how bids follow the worth of a click, whether slots get factors, which terms are kept out. */
interface Setting {
  /** Bids are proportional to an item's worth to this power. */
  steepness: number;
  bySlot: boolean;
  /** Queries whose shoppers buy less readily than this are kept out. */
  leastBuying: number;
  /** Factor on the bids of each category. */
  ofCategory: Float64Array;
}

/** Items beyond these many, by worth, are left out: they would see next to nothing. */
const MOST_ITEMS = 5000;

/** Times the bids are halved or doubled towards what spends the money. */
const MONEY_STEPS = 9;

/** Times that money is moved between categories. */
const CATEGORY_ROUNDS = 4;

const CAMPAIGN = "best";
const GROUP = "best/group";
const TREE = "best/tree";

/** Worth of a click on an item in mills, before place. */
function worthOf({ truth }: World, row: number): number {
  return truth.inStock[row] === 0 ? 0 : truth.cvr[row]! * truth.price[row]!;
}

/** The account of a setting at a level of bids. */
function accountOf(world: World, catalogue: Columns, setting: Setting, level: number): Account {
  const ids = asText(catalogue.columns["id"]!);
  const rows = [...world.truth.price.keys()].filter((row) => worthOf(world, row) > 0);
  if (rows.length > MOST_ITEMS) rows.sort((a, b) => worthOf(world, b) - worthOf(world, a)).splice(MOST_ITEMS);
  const slots = Object.fromEntries(SLOTS.map(({ key, cvr }) => [key, setting.bySlot ? Math.min(1, cvr) : 1]));
  const records: Record<string, unknown>[] = [
    {
      ...{ type: "campaign", key: CAMPAIGN, name: CAMPAIGN, kind: "feed", purpose: "scale", bidding: "fixed" },
      ...{ goal: null, dailyBudget: 1_000_000_000, status: "on", serveOrder: 1, inStockOnly: false, origin: null },
      slots: Object.fromEntries(SLOT_KEYS.map((key) => [key, slots[key]])),
    },
    { type: "adGroup", key: GROUP, campaign: CAMPAIGN, name: GROUP, status: "on", bid: 1000 },
    {
      type: "productGroup",
      key: TREE,
      adGroup: GROUP,
      parent: null,
      role: "split",
      value: null,
      by: "id",
      status: "on",
      bid: null,
    },
  ];
  for (const row of rows) {
    const bid = level * setting.ofCategory[world.rowCategory[row]!]! * worthOf(world, row) ** setting.steepness;
    if (bid < 1) continue;
    const item = ids.values[ids.codes[row]!]!;
    records.push({
      ...{ type: "productGroup", key: `${TREE}/${item}`, adGroup: GROUP, parent: TREE, role: "unit" },
      ...{ value: item, by: null, status: "on", bid: Math.round(bid) },
    });
  }
  for (const { kind, label, cvr } of world.surfaces) {
    if (kind !== "query" || cvr >= setting.leastBuying) continue;
    records.push({
      ...{ type: "negative", key: `best/not/${label}`, scope: CAMPAIGN, what: "term", match: "exact" },
      ...{ value: label, reason: "wasteful" },
    });
  }
  const structure: Structure = Object.fromEntries(
    records.map((record) => [record["key"] as string, recordSchema.parse(record)]),
  );
  return Account.fromStructure(structure);
}

/** The days of a setting at the level of bids that just spends the money, or as much of it as can be spent. */
function atMoney(world: World, catalogue: Columns, setting: Setting, from: Day, to: Day, money: number): TrueDay[] {
  const at = (level: number) =>
    truthOfAccount(
      world,
      planAccount(world, accountOf(world, catalogue, setting, level), catalogue),
      from,
      to,
      firstState(),
    ).days;
  // Bids near a worth to a power: begin where the middling item bids a middling price.
  let [low, high] = [Math.log(1e-3), Math.log(1e3)];
  const typical = 300 / 600 ** setting.steepness;
  let best: TrueDay[] = [];
  for (let step = 0; step < MONEY_STEPS; step++) {
    const middle = (low + high) / 2;
    const days = at(typical * Math.exp(middle));
    if (sumOf(days).cost > money) high = middle;
    else {
      low = middle;
      best = days;
    }
  }
  return best;
}

function sumOf(days: TrueDay[]): Worth {
  return days.reduce((sum, { cost, revenue }) => ({ cost: sum.cost + cost, revenue: sum.revenue + revenue }), {
    cost: 0,
    revenue: 0,
  });
}

/**
 * Searches for the account that sells most for some money over some days.
 * @param money mills over all the days
 * @returns its true days; their cost is at most the money
 */
export function bestFound(world: World, catalogue: Columns, from: Day, to: Day, money: number): TrueDay[] {
  const even = new Float64Array(world.categories.length).fill(1);
  const tries = [0.7, 1].flatMap((steepness) =>
    [false, true].flatMap((bySlot) =>
      [0, 0.5].map((leastBuying): Setting => ({ steepness, bySlot, leastBuying, ofCategory: even })),
    ),
  );
  // Which setting is best shows on one day; only it is looked at over all of them.
  const first = money / (to - from + 1);
  let best = { setting: tries[0]!, worth: -1 };
  const look = (setting: Setting) => {
    const worth = sumOf(atMoney(world, catalogue, setting, from, from, first)).revenue;
    if (worth > best.worth) best = { setting, worth };
  };
  tries.forEach(look);
  for (let round = 0; round < CATEGORY_ROUNDS; round++) {
    look({ ...best.setting, ofCategory: shifted(world, catalogue, best.setting, from, first) });
  }
  return atMoney(world, catalogue, best.setting, from, to, money);
}

/** Factors by category moved towards where a unit of money sells more. */
function shifted(world: World, catalogue: Columns, setting: Setting, day: Day, money: number): Float64Array {
  const days = atMoney(world, catalogue, setting, day, day, money);
  const all = sumOf(days);
  const returns = new Map<number, Worth>();
  for (const [itemNo, worth] of days[0]?.adsOf ?? []) {
    const category = categoryOf(world).get(itemNo)!;
    const sum = returns.get(category) ?? { cost: 0, revenue: 0 };
    returns.set(category, { cost: sum.cost + worth.cost, revenue: sum.revenue + worth.revenue });
  }
  return setting.ofCategory.map((factor, category) => {
    const own = returns.get(category);
    if (!own || own.cost <= 0 || all.cost <= 0) return factor;
    const against = own.revenue / own.cost / (all.revenue / all.cost);
    return factor * Math.max(0.6, Math.min(1.6, against ** 0.4));
  });
}

const kept = new WeakMap<World, Map<number, number>>();

/** The category of each item number. */
function categoryOf(world: World): Map<number, number> {
  const known = kept.get(world) ?? new Map([...world.itemNo].map((no, row) => [no, world.rowCategory[row]!]));
  kept.set(world, known);
  return known;
}
