import { Account, type Structure } from "../account/account";
import { asText, numberColumn, textColumn, type Columns } from "../kit/columns";
import { normal, randomFrom } from "../kit/random";
import { squareOf, toldNothing, type Told } from "../results/told";
import { emptyRowSums, type RowSums } from "../results/window-sums";
import { seenByAge } from "./arrivals";
import { simulateDay } from "./day";
import { firstState, type DayResult } from "./day-types";
import { natureOf } from "./nature";
import { planAccount } from "./running-account";
import { testCampaign } from "./test-shop";
import { buildWorld } from "./world";

const FIRST_DAY = 20_500;
/** Items a category, so that categories of all sizes there are. */
const SIZES = [4, 9, 16, 25, 40, 60];
const NOUNS = ["Lamp", "Shade", "Cable", "Socket", "Dimmer", "Bulb", "Spot", "Panel"];

/** A made-up shop of lights: departments with categories of all sizes, families, sold-out items, prices far apart. */
export function lightShop(items: number, seed: string): Columns {
  const random = randomFrom("lights", seed);
  const [category, family, price, availability]: [string[], string[], number[], string[]] = [[], [], [], []];
  for (let c = 0; category.length < items; c++) {
    const name = `Lighting > Room ${c % 7} > ${NOUNS[c % NOUNS.length]} ${c}`;
    const middle = 15_000 * Math.exp(0.9 * normal(random));
    const count = SIZES[Math.floor(random() * SIZES.length)]!;
    for (let i = 0; i < count && category.length < items; i++) {
      category.push(name);
      family.push(random() < 0.3 ? "" : `F${c}-${Math.floor(i / 3)}`);
      price.push(Math.round(middle * Math.exp(0.6 * normal(random))));
      availability.push(random() < 0.06 ? "out of stock" : "in stock");
    }
  }
  const index = category.map((_, i) => i);
  return {
    length: items,
    columns: {
      itemNo: numberColumn(index.map((i) => i + 1)),
      id: textColumn(index.map((i) => `L${i}`)),
      title: textColumn(
        index.map((i) => `Maker${i % 5} ${["Brass", "Oak", "Slim"][i % 3]} ${category[i]!.split(" > ")[2]}`),
      ),
      brand: textColumn(index.map((i) => `Maker${i % 5}`)),
      category: textColumn(category),
      family: textColumn(family),
      price: numberColumn(price),
      salePrice: numberColumn(price.map((value) => (random() < 0.15 ? Math.round(value * 0.7) : null))),
      availability: textColumn(availability),
    },
  };
}

/**
 * How an account came to be: `apart`, bids far apart with money enough, as somebody who tries things out has it; `flat`, one
 * campaign of everything at one bid, its budget gone before the evening; `untidy`, several campaigns that overlap, some
 * old, some short of money; `moved`, a flat one whose bids somebody has moved since by what items had brought.
 */
export const ACCOUNT_WAYS = ["apart", "flat", "untidy", "moved"] as const;
export type AccountWay = (typeof ACCOUNT_WAYS)[number];

const idsOf = (shop: Columns) => {
  const id = asText(shop.columns["id"]!);
  return Array.from(id.codes, (code) => id.values[code]!);
};

const ACCOUNTS: Record<AccountWay, (shop: Columns, seed: string) => Structure> = {
  /** A campaign for each of some rooms' worth of items, some short of money. */
  apart(shop, seed) {
    const random = randomFrom("account", seed);
    const campaigns = 30;
    const parts = Array.from({ length: campaigns }, () => [] as string[]);
    for (const id of idsOf(shop)) parts[Math.floor(random() ** 2 * campaigns)]!.push(id);
    const structure: Structure = {};
    parts.forEach((items, c) => {
      const bid = Math.round(280 * Math.exp(0.4 * normal(random)));
      const dailyBudget = c % 5 === 0 ? 1_000 * items.length : 500_000_000;
      Object.assign(structure, testCampaign(`c${c}`, { dailyBudget }, items, bid));
    });
    return structure;
  },
  flat: (shop) => flatAccount(shop),
  moved: (shop) => flatAccount(shop),
  untidy(shop, seed) {
    const random = randomFrom("untidy account", seed);
    const ids = idsOf(shop);
    const category = asText(shop.columns["category"]!);
    const rooms = category.values.map((path) => path.split(" > ")[1] ?? "");
    const structure = testCampaign("all", { dailyBudget: FLAT_BUDGET * shop.length, serveOrder: 7 }, ids, 220);
    for (const room of new Set(rooms.filter((name) => name !== ""))) {
      const items = ids.filter((_, row) => rooms[category.codes[row]!] === room);
      const bid = Math.round(280 * Math.exp(0.35 * normal(random)));
      const dailyBudget = (random() < 0.5 ? 60 : 400) * items.length;
      const serveOrder = random() < 0.5 ? 5 : 8;
      Object.assign(structure, testCampaign(room, { dailyBudget, serveOrder }, items, bid));
    }
    for (let push = 0; push < 4; push++) {
      const items = ids.filter(() => random() < 0.03);
      const dailyBudget = 500 * items.length;
      Object.assign(structure, testCampaign(`push ${push}`, { dailyBudget, serveOrder: 2 + push }, items, 520));
    }
    return structure;
  },
};

/** The account of a way before its first day, by record keys. */
export function startingAccount(way: AccountWay, shop: Columns, seed: string): Structure {
  return ACCOUNTS[way](shop, seed);
}

/** Mills a day and item that a flat campaign may spend: gone before the evening in most worlds. */
const FLAT_BUDGET = 120;

function flatAccount(shop: Columns): Structure {
  return testCampaign("all", { dailyBudget: FLAT_BUDGET * shop.length }, idsOf(shop), 300);
}

/** What somebody does to bids in a month of looking at returns: up or down by half at most, and off after many clicks in vain. */
function moveBids(structure: Structure, shop: Columns, sums: RowSums, goal: number): Structure {
  const rowOf = new Map(idsOf(shop).map((id, row) => [id, row]));
  const bidOf = (id: string, bid: number) => {
    const row = rowOf.get(id)!;
    const [clicks, cost, revenue] = [sums.clicks[row]!, sums.cost[row]!, sums.revenue[row]!];
    if (clicks < MOVED_FROM) return bid;
    if (revenue === 0) return clicks > OFF_AFTER ? 0 : Math.round(bid / 1.5);
    return Math.round(bid * Math.max(1 / 1.5, Math.min(1.5, (revenue / cost / goal) ** 0.5)));
  };
  return Object.fromEntries(
    Object.entries(structure).map(([key, record]) => {
      if (record.type !== "productGroup" || record.role !== "unit") return [key, record];
      const bid = record.bid ?? (structure[record.adGroup] as { bid: number }).bid;
      return [key, { ...record, bid: bidOf(record.value!, bid) }];
    }),
  );
}

/** Clicks from which somebody moves a bid, and from which without an order takes an item off. */
const MOVED_FROM = 8;
const OFF_AFTER = 35;
/** Days between moves, and the return that they go by. */
const MOVED_EVERY = 10;
const MOVED_BY = 3;

/** A line as seen, and its true return. */
export type SeenLine = Told & { truth: number };

/** What an advertiser sees after some days of a world, and what is true. */
export interface SeenWorld {
  shop: Columns;
  sums: RowSums;
  /** Clicks whose orders have come in, and expected sales ÷ expected cost, by row. */
  seenClicks: Float64Array;
  trueReturn: Float64Array;
  /** Expected clicks, orders, cost and sales, by row. */
  truth: Record<"impressions" | "clicks" | "orders" | "cost" | "revenue", Float64Array>;
  campaigns: Map<string, SeenLine>;
  terms: Map<string, SeenLine>;
  days: Map<string, SeenLine>;
}

/** A row of what came of clicks on a day, or of orders that came in late for it. */
interface Came {
  day: number;
  itemNo: number;
  campaign: string;
  term: string;
  impressions: number;
  clicks: number;
  cost: number;
  orders: number;
  revenue: number;
}

/** What one day's result says of that day and, by late orders, of earlier ones. */
function came({ facts, arrived }: DayResult, day: number): Came[] {
  return [
    ...facts.map((fact) => ({ ...fact, day })),
    ...arrived.map((order) => ({ ...order, impressions: 0, clicks: 0, cost: 0 })),
  ];
}

/**
 * Runs days of a world at random and as expected values. The same seed gives the same.
 * @param nature of the world; left out: the one its seed stands for
 */
export function seeWorld(
  items: number,
  days: number,
  seed: string,
  nature = natureOf(seed),
  way: AccountWay = "apart",
): SeenWorld {
  const shop = lightShop(items, seed);
  const world = buildWorld(shop, seed, undefined, nature);
  const seenBy = seenByAge(world.nature);
  let structure = startingAccount(way, shop, seed);
  let plan = planAccount(world, Account.fromStructure(structure), shop);
  const last = FIRST_DAY + days - 1;
  const sums = emptyRowSums(items);
  const seenClicks = new Float64Array(items);
  const blank = () => new Float64Array(items);
  const truth = { impressions: blank(), clicks: blank(), orders: blank(), cost: blank(), revenue: blank() };
  const lines = new Lines();
  let [state, expected] = [firstState(), firstState()];
  for (let day = FIRST_DAY; day <= last; day++) {
    if (way === "moved" && day > FIRST_DAY && (day - FIRST_DAY) % MOVED_EVERY === 0) {
      structure = moveBids(structure, shop, sums, MOVED_BY);
      plan = planAccount(world, Account.fromStructure(structure), shop);
    }
    const result = simulateDay(world, plan, day, state, { noise: true, seed });
    for (const fact of came(result, day)) {
      const row = fact.itemNo - 1;
      const seen = fact.clicks * seenBy[Math.min(seenBy.length - 1, last - fact.day)]!;
      for (const key of ["impressions", "clicks", "cost", "orders", "revenue"] as const) sums[key][row]! += fact[key];
      seenClicks[row]! += seen;
      lines.see(fact, seen);
    }
    for (const { itemNo, orders, revenue } of result.store) {
      sums.storeOrders[itemNo - 1]! += orders;
      sums.storeRevenue[itemNo - 1]! += revenue;
    }
    state = result.state;
    const real = simulateDay(world, plan, day, expected, { noise: false, seed });
    expected = real.state;
    // In the truth every order counts, also those that come in after the last day.
    const late = day === last ? expected.late.map((order) => ({ ...order, impressions: 0, clicks: 0, cost: 0 })) : [];
    for (const fact of [...came(real, day), ...late]) {
      for (const key of ["impressions", "clicks", "orders", "cost", "revenue"] as const)
        truth[key][fact.itemNo - 1]! += fact[key];
      lines.expect(fact);
    }
  }
  const trueReturn = truth.revenue.map((revenue, row) => revenue / truth.cost[row]!);
  return { shop, sums, seenClicks, trueReturn, truth, ...lines.finish() };
}

/** Sums by campaign, term and day: as seen, and in truth. */
class Lines {
  private readonly seen = { campaigns: new Map<string, SeenLine>(), terms: new Map(), days: new Map() };
  private readonly true = new Map<SeenLine, { cost: number; revenue: number }>();

  private of({ campaign, term, day }: Came): SeenLine[] {
    const { campaigns, terms, days } = this.seen;
    const keys: [Map<string, SeenLine>, string][] = [
      [campaigns, campaign],
      [terms, term],
      [days, String(day)],
    ];
    return keys.flatMap(([map, key]) => {
      if (key === "") return [];
      let line = map.get(key);
      if (!line) map.set(key, (line = { ...toldNothing(), truth: NaN }));
      return [line];
    });
  }

  see(fact: Came, seen: number): void {
    for (const line of this.of(fact)) {
      for (const key of ["clicks", "cost", "orders", "revenue"] as const) line[key] += fact[key];
      line.seenClicks += seen;
      line.squares += squareOf(fact.orders, fact.revenue);
    }
  }

  expect(fact: Came): void {
    for (const line of this.of(fact)) {
      const sum = this.true.get(line) ?? { cost: 0, revenue: 0 };
      this.true.set(line, { cost: sum.cost + fact.cost, revenue: sum.revenue + fact.revenue });
    }
  }

  finish() {
    for (const [line, { cost, revenue }] of this.true) line.truth = revenue / cost;
    return this.seen as Record<"campaigns" | "terms" | "days", Map<string, SeenLine>>;
  }
}
