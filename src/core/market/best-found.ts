import type { Account } from "../account/account";
import type { Columns } from "../kit/columns";
import type { Day } from "../kit/days";
import { accountOfPlan } from "./best-account";
import { firstState } from "./day-types";
import type { Worth } from "./hull";
import { truthOfAccount, type TrueDay } from "./judge";
import { planAccount } from "./running-account";
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

/** Times a level of bids is halved in between on one day, and over all days, where it is nearly known. */
const DAY_STEPS = 6;
const WINDOW_STEPS = 3;

/** Beyond so many items a day takes seconds, and fewer settings are tried. */
const LARGE = 20_000;

/** Times that money is moved between categories. */
const CATEGORY_ROUNDS = 4;

/** Worth of a click on an item in mills, before place. */
function worthOf({ truth }: World, row: number): number {
  return truth.inStock[row] === 0 ? 0 : truth.cvr[row]! * truth.price[row]!;
}

/** The account of a setting at a level of bids. */
function accountOf(world: World, catalogue: Columns, setting: Setting, level: number): Account {
  const rows = [...world.truth.price.keys()].filter((row) => worthOf(world, row) > 0);
  if (rows.length > MOST_ITEMS) rows.sort((a, b) => worthOf(world, b) - worthOf(world, a)).splice(MOST_ITEMS);
  const bids = new Float64Array(world.truth.price.length);
  for (const row of rows) {
    bids[row] = level * setting.ofCategory[world.rowCategory[row]!]! * worthOf(world, row) ** setting.steepness;
  }
  const keptOut = world.surfaces.filter(({ kind, cvr }) => kind === "query" && cvr < setting.leastBuying);
  const slots = world.slotBuying.map((buying) => (setting.bySlot ? Math.min(1, buying) : 1));
  const terms = keptOut.map(({ label }) => label);
  return accountOfPlan({ bids, slots, hours: null, keptOut: terms, places: [], dayCap: null }, catalogue);
}

/** What a setting brings at some level of bids. */
interface Found {
  setting: Setting;
  days: TrueDay[];
  level: number;
}

/** A setting at the highest level of bids tried that spends no more than the money. */
class Search {
  constructor(
    private readonly world: World,
    private readonly catalogue: Columns,
  ) {}

  private run(setting: Setting, level: number, from: Day, to: Day): TrueDay[] {
    const account = planAccount(this.world, accountOf(this.world, this.catalogue, setting, level), this.catalogue);
    return truthOfAccount(this.world, account, from, to, firstState()).days;
  }

  /** Halves a span of levels towards what just spends the money. */
  between(setting: Setting, lowest: number, highest: number, steps: number, from: Day, to: Day, money: number): Found {
    let [low, high] = [Math.log(lowest), Math.log(highest)];
    let best: Found = { setting, days: [], level: lowest };
    for (let step = 0; step < steps; step++) {
      const level = Math.exp((low + high) / 2);
      const days = this.run(setting, level, from, to);
      if (sumOf(days).cost > money) high = Math.log(level);
      else {
        low = Math.log(level);
        best = { setting, days, level };
      }
    }
    return best;
  }

  /** On one day, begun where the middling item bids a middling price. */
  onDay(setting: Setting, day: Day, money: number): Found {
    const typical = 300 / 600 ** setting.steepness;
    return this.between(setting, typical / 30, typical * 30, DAY_STEPS, day, day, money);
  }

  /** Over all days, near the level that one day has shown. */
  over({ setting, level }: Found, from: Day, to: Day, money: number): TrueDay[] {
    const found = this.between(setting, level / 2, level * 1.2, WINDOW_STEPS, from, to, money);
    return found.days.length > 0 ? found.days : this.run(setting, level / 2, from, to);
  }
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
  const isLarge = world.truth.price.length > LARGE;
  const tries = [0.7, 1].flatMap((steepness) =>
    (isLarge ? [true] : [false, true]).flatMap((bySlot) =>
      (isLarge ? [0.5] : [0, 0.5]).map((leastBuying): Setting => ({
        steepness,
        bySlot,
        leastBuying,
        ofCategory: even,
      })),
    ),
  );
  const search = new Search(world, catalogue);
  // Which setting is best shows on one day; only it is looked at over all of them.
  const first = money / (to - from + 1);
  const worth = ({ days }: Found) => sumOf(days).revenue;
  let best = tries.map((setting) => search.onDay(setting, from, first)).sort((a, b) => worth(b) - worth(a))[0]!;
  for (let round = 0; round < (isLarge ? 0 : CATEGORY_ROUNDS); round++) {
    const next = search.onDay({ ...best.setting, ofCategory: shifted(world, best) }, from, first);
    if (worth(next) <= worth(best)) break;
    best = next;
  }
  return from === to ? best.days : search.over(best, from, to, money);
}

/** Factors by category moved towards where a unit of money sells more. */
function shifted(world: World, { setting, days }: Found): Float64Array {
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
