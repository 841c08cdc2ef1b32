import { isHomeKind } from "../account/homes";
import type { ServingGroup } from "../account/walk";
import { SLOT_KEYS } from "../kit/slots";
import type { Ground, LineCounts } from "../moves/ground";
import { courseOfDay, fullDayCost, nextFactor } from "./money-price";
import { placeFactors, type PlaceSeen } from "./place-factors";

/** What bids are worked out from, once for all proposers of one ground. Money in mills. */
export interface Worths {
  /** What a click on a row may cost with money to spare: what it leaves after costs × caution; sales ÷ goal where costs are not known; NaN where neither can be told. */
  bid: Float64Array;
  /** The same in its home, without what is aimed at by name. */
  homeBid: Float64Array;
  /** Sales a click on a row brings. */
  sales: Float64Array;
  /** What of that is new and kept, after costs; NaN where they are not known. */
  left: Float64Array;
  /** Share of reported sales that is new and kept. */
  counted: number;
  /** Factor on all bids by the price of money, present and for the week to come. */
  factor: { now: number; next: number };
  /** Mills a day that may be spent, and that full days cost at present bids. */
  money: number;
  full: number;
  /** Share of its full day that each campaign lives to see, by key. */
  alive: ReadonlyMap<string, number>;
  /** Its budget over what its full days cost at present bids, by key; beyond 1 money is left. */
  room: ReadonlyMap<string, number>;
  /** Factors on worth by slot, in the order of `SLOT_KEYS`, and by hour. */
  slots: number[];
  hours: number[];
  /** Of each term or page with clicks how much more or less a click there is worth than on the same items elsewhere. */
  places: ReadonlyMap<string, PlaceWorth>;
}

export interface PlaceWorth extends LineCounts {
  place: string;
  /** Orders that its clicks would have brought at the usual rate of the items clicked. */
  expected: number;
  factor: number;
  /** Clicks there by row, as far as reports tell: spread over the items of each target by what they got in all. */
  clicksOf: ReadonlyMap<number, number>;
}

const known = new WeakMap<Ground, Worths>();

/** Works out once what bids of a ground stand on (`docs/formulas.md` 6). */
export function worthsOf(ground: Ground): Worths {
  let found = known.get(ground);
  if (!found) known.set(ground, (found = makeWorths(ground)));
  return found;
}

function makeWorths(ground: Ground): Worths {
  const { rows, evidence, margin, rules } = ground;
  const shares = new TargetShares(ground);
  const places = placeWorths(ground, shares);
  const mixes = homeMixes(ground, shares, places);
  const lately = latelyFactors(ground);
  const counted = keptShare(ground) * (rules.newShare / 100);
  const [bid, sales, left] = [new Float64Array(rows), new Float64Array(rows), new Float64Array(rows)];
  for (let row = 0; row < rows; row++) {
    const brings = evidence.orderRate[row]! * evidence.orderValue[row]! * (1 - evidence.nothing[row]!) * lately[row]!;
    sales[row] = brings;
    // A margin beyond the whole price is a slip in the costs, and says nothing.
    const share = margin[row]! <= 1 ? margin[row]! : NaN;
    left[row] = brings * share * counted;
    const { goal } = ground.goalOf(row);
    const wanted = Number.isNaN(share) ? brings / goal : Math.max(0, left[row]!) * (rules.caution / 100);
    bid[row] = Number.isFinite(wanted) ? wanted : NaN;
  }
  const course = courseOfDay(ground.hours, ground.purses);
  const { alive, room, full } = fullDays(ground, course);
  const money = moneyOf(ground);
  const now = presentFactor(ground, bid);
  return {
    ...{ bid, sales, left, counted, money, full, alive, room },
    factor: {
      now,
      next: full > money * TIGHT || now < 1 ? nextFactor(Math.min(1, now), money, full, rules.pace / 100) : 1,
    },
    slots: slotFactors(ground, shares),
    hours: hourFactors(ground, shares),
    places,
    homeBid: bid.map((wanted, row) => wanted * mixes[row]!),
  };
}

/** Usual sales laid beside the shop's, so that a few orders don't tell; as many orders' worth. */
const KEPT_PATIENCE = 50;
/** Less than this was never seen to be kept; below it the two reports hardly speak of the same orders. */
const LEAST_KEPT = 0.6;

/**
 * What the shop keeps of what ads report as sold, since its own revenue is without what came back: its revenue over what its
 * orders would have brought at the value that ads report. 1 where no report of the shop is there.
 */
function keptShare({ rows, sums, evidence }: Ground): number {
  let [came, told, orders] = [0, 0, 0];
  for (let row = 0; row < rows; row++) {
    const value = sums.storeOrders[row]! * evidence.orderValue[row]!;
    if (!Number.isFinite(value)) continue;
    came += sums.storeRevenue[row]!;
    told += value;
    orders += sums.storeOrders[row]!;
  }
  if (orders <= 0) return 1;
  const usual = (KEPT_PATIENCE * told) / orders;
  return Math.min(1, Math.max(LEAST_KEPT, (came + usual) / (told + usual)));
}

/**
 * How orders of the last weeks stand to what evidence of the whole window expects, for a row by what it shares with others: its
 * category, what an order of it brings, how often it was clicked. Seasons turn, and bids look for what came out too high; both
 * show here first.
 */
function latelyFactors({ rows, evidence, recent, sums, categoryOf }: Ground): number[] {
  const values = evidence.orderValue.filter(Number.isFinite).sort();
  const tier = (value: number) =>
    [0.25, 0.5, 0.75].filter((at) => value > values[Math.floor(at * values.length)]!).length;
  const often = (clicks: number) => (clicks < 10 ? "few" : clicks < 60 ? "some" : "many");
  // Of what nothing is known nothing is expected, or it would spoil what its category says.
  const recently = (row: number) => {
    const expected = recent.seenClicks[row]! * evidence.orderRate[row]! * (1 - evidence.nothing[row]!);
    return Number.isFinite(expected) ? { orders: recent.orders[row]!, expected } : { orders: 0, expected: 0 };
  };
  const seen = Array.from({ length: rows }, (_, row): PlaceSeen => ({
    parts: ["all", `in ${categoryOf[row]}`, `tier ${tier(evidence.orderValue[row]!)}`, often(sums.clicks[row]!)],
    ...recently(row),
  }));
  return placeFactors(seen, LATELY_PATIENCE);
}

/** A row's own last weeks are in its evidence already: so many usual orders are laid beside them. */
const LATELY_PATIENCE = 50;

/** A full day that costs a little more than there is, is within what days differ by. */
const TIGHT = 1.05;

/** What may be spent a day: the day cap, or the budgets of all that runs. */
export function moneyOf({ account }: Ground): number {
  const running = account.all("campaign").filter(({ status }) => status === "on");
  const budgets = running.reduce((sum, { dailyBudget }) => sum + dailyBudget, 0);
  const cap = account.all("dayCap")[0]?.dailyBudget;
  return cap === undefined ? budgets : Math.min(cap, budgets);
}

/** Of each campaign what a full day costs, and how much of it it lives to see, over the last days. */
function fullDays({ purses, account }: Ground, course: readonly number[]) {
  const sums = new Map<string, { cost: number; full: number; days: number }>();
  for (const purse of purses) {
    const sum = sums.get(purse.campaign) ?? { cost: 0, full: 0, days: 0 };
    sums.set(purse.campaign, sum);
    sum.cost += purse.cost;
    sum.full += fullDayCost(purse, course);
    sum.days++;
  }
  const [alive, room] = [new Map<string, number>(), new Map<string, number>()];
  let full = 0;
  for (const [key, sum] of sums) {
    alive.set(key, sum.full > 0 ? sum.cost / sum.full : 1);
    const campaign = account.find("campaign", key);
    if (campaign && sum.full > 0) room.set(key, campaign.dailyBudget / (sum.full / sum.days));
    if (campaign?.status === "on") full += sum.full / sum.days;
  }
  return { alive, room, full };
}

/** Present bids over what clicks may cost with money to spare: the middle of it on the logarithmic scale, by clicks. */
function presentFactor({ homes, first, rows, sums }: Ground, bid: Float64Array): number {
  let [sum, weights] = [0, 0];
  for (let row = 0; row < rows; row++) {
    const home = homes[first[row]!];
    const clicks = sums.clicks[row]!;
    if (!home || !(home.bid > 0) || !(bid[row]! > 0) || !(clicks > 0)) continue;
    sum += clicks * Math.log(home.bid / bid[row]!);
    weights += clicks;
  }
  return weights > 0 ? Math.exp(sum / weights) : 1;
}

/** How the clicks of a target spread over its items: by what these got in all, since no report names both term and item. */
class TargetShares {
  private readonly rowsOf = new Map<string, number[]>();
  private readonly ofTarget = new Map<string, { row: number; share: number }[]>();
  private readonly rates = new Map<string, number>();

  constructor(private readonly ground: Ground) {
    // Lists that are added to: an ad group may have a product group for each of 100,000 items.
    const put = (key: string, rows: Uint32Array) => {
      const list = this.rowsOf.get(key);
      if (!list) this.rowsOf.set(key, Array.from(rows));
      else for (const row of rows) list.push(row);
    };
    const add = ({ campaign, adGroup, group, rows }: ServingGroup) => {
      if (isHomeKind(campaign.kind)) put(group.key, rows);
      put(adGroup.key, rows);
      put(campaign.key, rows);
    };
    for (const one of ground.homes) add(one);
    for (const one of ground.aimed) add(one);
  }

  /** Rows with their share of what a target, ad group or campaign gets; empty where it serves nothing now. */
  of(...keys: string[]): { row: number; share: number }[] {
    const key = keys.find((one) => this.rowsOf.has(one));
    if (key === undefined) return [];
    let found = this.ofTarget.get(key);
    if (!found) {
      const rows = this.rowsOf.get(key)!;
      let all = 0;
      for (const row of rows) all += this.ground.sums.clicks[row]! + LITTLE;
      found = rows.map((row) => ({ row, share: (this.ground.sums.clicks[row]! + LITTLE) / all }));
      this.ofTarget.set(key, found);
    }
    return found;
  }

  /** Orders a click at the usual rates of its items; null where nothing is known of it. */
  rate(...keys: string[]): number | null {
    const key = keys.find((one) => this.rowsOf.has(one));
    if (key === undefined) return null;
    let rate = this.rates.get(key);
    if (rate === undefined) {
      rate = this.of(key).reduce((sum, { row, share }) => sum + share * (this.ground.evidence.orderRate[row]! || 0), 0);
      this.rates.set(key, rate);
    }
    return rate;
  }
}

/** An item that nobody clicked has a share too. */
const LITTLE = 0.1;

interface Seen {
  orders: number;
  expected: number;
}

/** Orders seen over orders expected, with some usual ones laid beside both. */
export function patientFactor({ orders, expected }: Seen, usual: number): number {
  return (orders + usual) / (expected + usual);
}

function slotFactors(ground: Ground, shares: TargetShares): number[] {
  const seen = SLOT_KEYS.map((): Seen => ({ orders: 0, expected: 0 }));
  for (const line of ground.slots) {
    const rate = shares.rate(line.adGroup, line.campaign);
    if (rate === null) continue;
    seen[line.slot]!.orders += line.orders;
    seen[line.slot]!.expected += rate * line.seenClicks;
  }
  return factorsAround(seen, ground);
}

function hourFactors(ground: Ground, shares: TargetShares): number[] {
  const seen = Array.from({ length: 24 }, (): Seen => ({ orders: 0, expected: 0 }));
  for (const line of ground.hours) {
    const rate = shares.rate(line.campaign);
    if (rate === null) continue;
    seen[line.hour]!.orders += line.orders;
    seen[line.hour]!.expected += rate * line.seenClicks;
  }
  // Hours beside each other are alike, so each is seen with its neighbours, at half their weight.
  const smooth = seen.map((own, hour): Seen => {
    const beside = [seen[(hour + 23) % 24]!, seen[(hour + 1) % 24]!];
    const sum = (key: keyof Seen) => own[key] + beside.reduce((all, one) => all + one[key] / 2, 0);
    return { orders: sum("orders"), expected: sum("expected") };
  });
  return factorsAround(smooth, ground);
}

/** Factors of parts of one whole: how each stands to the whole, so that they say nothing of all together. */
function factorsAround(seen: readonly Seen[], { rules }: Ground): number[] {
  const orders = seen.reduce((sum, one) => sum + one.orders, 0);
  const expected = seen.reduce((sum, one) => sum + one.expected, 0);
  const level = orders > 0 && expected > 0 ? orders / expected : 1;
  return seen.map((one) =>
    Math.min(
      rules.mostFactor,
      patientFactor({ orders: one.orders, expected: one.expected * level }, rules.slotPatience),
    ),
  );
}

function placeWorths(ground: Ground, shares: TargetShares): Map<string, PlaceWorth> {
  const found = new Map<string, PlaceWorth & { clicksOf: Map<number, number> }>();
  for (const line of ground.places) {
    if (line.place === "" || line.clicks <= 0) continue;
    let place = found.get(line.place);
    if (!place) {
      place = {
        place: line.place,
        expected: 0,
        factor: 1,
        clicksOf: new Map(),
        impressions: 0,
        clicks: 0,
        cost: 0,
        orders: 0,
        revenue: 0,
        seenClicks: 0,
      };
      found.set(line.place, place);
    }
    place.impressions += line.impressions;
    place.clicks += line.clicks;
    place.cost += line.cost;
    place.orders += line.orders;
    place.revenue += line.revenue;
    place.seenClicks += line.seenClicks;
    const keys = [line.target, line.adGroup, line.campaign];
    const rate = shares.rate(...keys);
    if (rate === null) {
      // What served there is gone; its orders are expected as they came, so that they say nothing either way.
      place.expected += line.orders;
      continue;
    }
    place.expected += rate * line.seenClicks;
    for (const { row, share } of shares.of(...keys)) {
      if (share * line.clicks < NEGLIGIBLE) continue;
      place.clicksOf.set(row, (place.clicksOf.get(row) ?? 0) + share * line.clicks);
    }
  }
  const places = [...found.values()];
  const factors = placeFactors(
    places.map(({ place, orders, expected }) => ({ parts: partsOf(ground, place), orders, expected })),
    ground.rules.placePatience,
  );
  places.forEach((place, i) => {
    const isNew = ground.isOwnBrand(place.place) ? ground.rules.brandNew / 100 : 1;
    place.factor = factors[i]! * isNew;
  });
  return found;
}

/** Shares of a click below this are not kept. */
const NEGLIGIBLE = 0.02;

/** What a term shares with others: its words, and how many they are; of a page only that it is one. */
function partsOf({ isListing }: Ground, place: string): string[] {
  if (isListing(place)) return ["a page"];
  const words = place.toLowerCase().split(/\s+/);
  return [...new Set(words), `${Math.min(4, words.length)} words`];
}

/**
 * How much of a row's worth what serves it in its home sees: its clicks there by the factors of their places, over all its
 * clicks by theirs. Good places that are aimed at by name are taken out of what is left to the home.
 */
function homeMixes(ground: Ground, shares: TargetShares, places: ReadonlyMap<string, PlaceWorth>): Float64Array {
  const { rows, account } = ground;
  const sums = [0, 1, 2, 3].map(() => new Float64Array(rows)) as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  const [all, allWorth, home, homeWorth] = sums;
  for (const line of ground.places) {
    const factor = places.get(line.place)?.factor;
    if (factor === undefined) continue;
    const campaign = account.find("campaign", line.campaign);
    const isHome = campaign === undefined || isHomeKind(campaign.kind);
    for (const { row, share } of shares.of(line.target, line.adGroup, line.campaign)) {
      const clicks = share * line.clicks;
      all[row]! += clicks;
      allWorth[row]! += clicks * factor;
      if (!isHome) continue;
      home[row]! += clicks;
      homeWorth[row]! += clicks * factor;
    }
  }
  return all.map((clicks, row) => {
    const mean = (allWorth[row]! + USUAL_CLICKS) / (clicks + USUAL_CLICKS);
    return (homeWorth[row]! + USUAL_CLICKS * mean) / (home[row]! + USUAL_CLICKS) / mean;
  });
}

/** So many clicks of the usual kind are laid beside those of a row. */
const USUAL_CLICKS = 5;
