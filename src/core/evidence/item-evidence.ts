import type { TextColumn } from "../kit/columns";
import type { RowSums } from "../results/window-sums";
import type { Evidence } from "./evidence";
import { orderPrices } from "./order-prices";
import { poolAmounts } from "./pool-amounts";
import { poolRates, seeOrders, type PooledRates } from "./pool-rates";
import { shareIdle, unlucky } from "./idle";
import { factorsOf, pooledCosts } from "./kinds";

/** What is known of items beside their ads, a value a row. */
export interface ItemFacts {
  family: TextColumn | null;
  category: TextColumn | null;
  /** What a shopper pays, mills; NaN for unknown. */
  paid: Float64Array;
  soldOut: Uint8Array;
  /** How new an item is: 1 for one of today, 0 for one that has been there long. */
  newness: Float64Array;
  /** Clicks of the window whose orders have come in; left out where all have. */
  seenClicks?: Float64Array;
}

/**
 * What clicks are worth hangs on where they come from, and that on bids, fit and price: an item that is shown much stands in
 * broad places, one that is hardly shown in narrow ones. Views say so of items that nobody clicked yet as well, and are no
 * matter of luck. Below so many of them their number says little; nor, where no file names views, do clicks below so many.
 */
const FEW_VIEWS = 10;
/**
 * Part of what views seem to say is somebody's doing: bids follow what items brought, and views follow bids. Taken whole,
 * items with few clicks came out a tenth to a quarter too high in worlds that this was not fitted to.
 */
const TRUST_IN_VIEWS = 0.6;
const FEW_CLICKS = 20;

/** Where fewer than this share of all clicks lie, nothing has been learned. */
const LEAST_SUPPORT = 0.02;

/** Values no lower than where clicks are: what was learned there is not drawn out to where there are none. */
function supported(values: Float64Array, clicks: ArrayLike<number>): Float64Array {
  const sorted = values.filter((_, row) => clicks[row]! > 0).sort();
  if (sorted.length === 0) return values;
  const upTo = (most: number) => {
    let sum = 0;
    for (let row = 0; row < values.length; row++) if (values[row]! <= most) sum += clicks[row]!;
    return sum;
  };
  const least = LEAST_SUPPORT * upTo(sorted.at(-1)!);
  // The lowest value up to which more than that many clicks lie: found by halves, since sorting rows by it takes far longer.
  let [low, high] = [0, sorted.length - 1];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (upTo(sorted[middle]!) > least) high = middle;
    else low = middle + 1;
  }
  const first = sorted[low]!;
  return values.map((value) => Math.max(first, value));
}

/**
 * No model is the world: errors scatter a tenth further than the parts above account for (1.05 to 1.2 times, over worlds
 * and ways of running an account, `npm run bench -- --only=calibration`).
 */
const UNMODELLED = 1.2;

/** Levels of a category path that take part, from the deepest. */
const MOST_LEVELS = 4;

/**
 * The evidence of items: order rates pooled item → family → deepest category → … → all, around what the item's price
 * within its category, its sales in the shop without ads and its age say of it; value an order around the paid price;
 * cost a click by category. An item that is sold out and sold nothing may sell nothing at all.
 */
export function itemEvidence(sums: RowSums, facts: ItemFacts): Evidence {
  const rows = sums.clicks.length;
  const seen = facts.seenClicks ?? sums.clicks;
  const categories = categoryLadder(facts.category, rows);
  const deepest = categories[0]!;
  // What a sold-out item did not sell says nothing of its kind, so it is left out of what is learned.
  const mayBeIdle = (row: number) => facts.soldOut[row] === 1 && sums.orders[row] === 0;
  const clicks = seen.map((count, row) => (mayBeIdle(row) ? 0 : count));
  const price = facts.paid.map((paid) => Math.log(paid));
  const organic = sums.storeOrders.map((orders, row) => Math.log(Math.max(0, orders - sums.orders[row]!) + 0.5));
  const costs = pooledCosts(sums.cost, sums.clicks, deepest, [price]).rows;
  // Views tell where an item stands, clicks that somebody liked it there by chance; some files name no views.
  const isViewed = total(sums.impressions) > total(sums.clicks);
  const [told, counts] = [new Float64Array(rows), new Float64Array(rows)];
  for (let row = 0; row < rows; row++) {
    told[row] = Math.log(costs.mean[row]!);
    counts[row] = isViewed ? Math.log(sums.impressions[row]! + FEW_VIEWS) : Math.log(sums.clicks[row]! + FEW_CLICKS);
  }
  const known = [price, organic, facts.newness, told, supported(counts, clicks)];
  const factors = factorsOf(sums.orders, clicks, categories, known, [1, 1, 1, 1, TRUST_IN_VIEWS]);
  const exposure = clicks.map((count, row) => count * factors.rows[row]!);
  const ladder = [familyCodes(facts.family, deepest), ...categories];
  const rates = poolRates(sums.orders, exposure, ladder, factors.unsure);
  const { prices } = orderPrices(sums.revenue, sums.orders, facts.paid, deepest);
  const value = poolAmounts(sums.revenue, sums.orders, { groups: deepest, base: prices });
  const plain = poolAmounts(sums.revenue, sums.orders, { groups: deepest });
  const blank = () => new Float64Array(rows);
  const evidence: Evidence = {
    ...{ orderRate: blank(), orderValue: blank(), cpc: costs.mean, variance: blank() },
    ...{ nothing: blank(), expected: blank() },
  };
  for (let row = 0; row < rows; row++) {
    const amounts = facts.paid[row]! > 0 ? value : plain;
    const exposed = seen[row]! * factors.rows[row]!;
    if (mayBeIdle(row)) seeOrders(rates, row, 0, exposed);
    evidence.orderRate[row] = factors.rows[row]! * Math.exp(rates.log[row]! + rates.variance[row]! / 2);
    evidence.orderValue[row] = amounts.mean[row]!;
    const variance = rates.variance[row]! + Math.log1p(amounts.unsure[row]!) + Math.log1p(costs.unsure[row]!);
    evidence.variance[row] = UNMODELLED * variance;
    evidence.expected[row] = exposed * rates.priorMean[row]!;
  }
  weighIdle(evidence, rates, mayBeIdle, facts.soldOut);
  return evidence;
}

/**
 * The chance that a sold-out item without an order sells nothing at all, against having had no luck: the share of such
 * items is learned from all that are sold out.
 */
function weighIdle(
  evidence: Evidence,
  rates: PooledRates,
  mayBeIdle: (row: number) => boolean,
  soldOut: Uint8Array,
): void {
  const idle: number[] = [];
  let asked = 0;
  soldOut.forEach((is, row) => {
    asked += is;
    if (mayBeIdle(row)) idle.push(row);
  });
  const luck = idle.map((row) => unlucky(evidence.expected[row]!, rates.priorVariance[row]!));
  const share = shareIdle(luck, asked);
  idle.forEach((row, i) => (evidence.nothing[row] = share / (share + (1 - share) * luck[i]!)));
}

/** The category column as a ladder of codes: the whole path, then ever shorter ones. Items without one are one kind. */
export function categoryLadder(category: TextColumn | null, rows: number): Uint32Array[] {
  if (!category) return [new Uint32Array(rows)];
  const paths = category.values.map((value) => value.split(/\s*[>›|»]\s*/));
  const depth = Math.min(MOST_LEVELS, Math.max(1, ...paths.map((path) => path.length)));
  return Array.from({ length: depth }, (_, level) => {
    const known = new Map<string, number>();
    const codes = paths.map((path, code) => {
      if (level === 0) return code;
      const name = path.slice(0, depth - level).join(" > ");
      const found = known.get(name) ?? known.size;
      known.set(name, found);
      return found;
    });
    const ofRow = new Uint32Array(rows);
    for (let row = 0; row < rows; row++) ofRow[row] = codes[category.codes[row]!]!;
    return ofRow;
  });
}

/** One code for each family within a category; an item without a family is one of its own. */
function familyCodes(family: TextColumn | null, category: Uint32Array): Uint32Array {
  const known = new Map<number, number>();
  const families = family?.values.length ?? 1;
  let count = 0;
  return category.map((of, row) => {
    const code = family?.codes[row] ?? 0;
    if (code === 0) return count++;
    const both = of * families + code;
    let found = known.get(both);
    if (found === undefined) known.set(both, (found = count++));
    return found;
  });
}

function total(values: Float64Array): number {
  return values.reduce((sum, value) => sum + value, 0);
}
