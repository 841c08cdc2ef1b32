import jstat from "jstat";
import { goalOfItem } from "../catalogue/margins";
import { gammaCdf, gammaQuantile } from "../kit/stats";
import type { RowSums } from "../results/window-sums";

/** The pooled view of every row's order rate: Gamma(shape, rate) posterior of orders per click. */
export interface Evidence {
  shape: Float64Array;
  rate: Float64Array;
  /** Mills of sales an order of the item brings. */
  orderValue: Float64Array;
  /** Mills a click. */
  cpc: Float64Array;
  /** Return at which each row's margin is just used up; left out or NaN where costs are not known. */
  breakEven?: Float64Array;
}

/**
 * Pools the order rates of items by category and over all (`maths.md` 2): orders are Poisson with mean λ·clicks, λ has
 * a Gamma prior with the mean of the level above. Its shape, the same for all members of a level (what differs between
 * them differs in proportion), is fitted by marginal likelihood (negative binomial).
 * @param categoryCodes one code a row, 0 for none
 * @param price mills a unit, NaN for unknown
 */
export function poolEvidence(sums: RowSums, categoryCodes: ArrayLike<number>, price: ArrayLike<number>): Evidence {
  const length = sums.clicks.length;
  let allOrders = 0;
  let allClicks = 0;
  let allUnits = 0;
  let allCost = 0;
  let allRevenue = 0;
  let categories = 0;
  for (let row = 0; row < length; row++) {
    allOrders += sums.orders[row]!;
    allClicks += sums.clicks[row]!;
    allUnits += sums.units[row]!;
    allCost += sums.cost[row]!;
    allRevenue += sums.revenue[row]!;
    categories = Math.max(categories, categoryCodes[row]! + 1);
  }
  const overall = allClicks > 0 ? Math.max(allOrders, 0.5) / allClicks : 0.01;
  const categoryClicks = new Float64Array(categories);
  const categoryCost = new Float64Array(categories);
  for (let row = 0; row < length; row++) {
    const code = categoryCodes[row]!;
    categoryClicks[code] = categoryClicks[code]! + sums.clicks[row]!;
    categoryCost[code] = categoryCost[code]! + sums.cost[row]!;
  }
  const priors = fitPriors(sums, categoryCodes, categories, overall);
  const unitsPerOrder = allOrders > 0 ? allUnits / allOrders : 1;
  const orderValueOverall = allOrders > 0 ? allRevenue / allOrders : 0;
  const cpcOverall = allClicks > 0 ? allCost / allClicks : 0;
  const evidence: Evidence = {
    shape: new Float64Array(length),
    rate: new Float64Array(length),
    orderValue: new Float64Array(length),
    cpc: new Float64Array(length),
  };
  for (let row = 0; row < length; row++) {
    const clicks = sums.clicks[row]!;
    const code = categoryCodes[row]!;
    evidence.shape[row] = priors.shape[code]! + sums.orders[row]!;
    evidence.rate[row] = priors.shape[code]! / priors.mean[code]! + clicks;
    const known = price[row]!;
    evidence.orderValue[row] = Number.isNaN(known) ? orderValueOverall : known * unitsPerOrder;
    const inCategory = categoryClicks[code]!;
    const fallback = inCategory > 0 ? categoryCost[code]! / inCategory : cpcOverall;
    evidence.cpc[row] = clicks > 0 ? sums.cost[row]! / clicks : fallback;
  }
  return evidence;
}

/** Rounds of fitting: means need the shape for their weights, the shape needs the means. Two settle it. */
const FIT_ROUNDS = 3;

/**
 * The Gamma prior of every category: the mean order rate of its items, and a shape that holds both how items differ and
 * how unsure the mean is. An item counts towards its category's mean with weight 1/(1 + K·m/α), as the variance of a
 * negative binomial has it: many clicks on one item say little about the others.
 */
function fitPriors(sums: RowSums, codes: ArrayLike<number>, categories: number, overall: number) {
  const mean = new Float64Array(categories).fill(overall);
  const sure = new Float64Array(categories);
  let shape = 1;
  for (let round = 0; round < FIT_ROUNDS; round++) {
    const orders = new Float64Array(categories);
    const clicks = new Float64Array(categories);
    for (let row = 0; row < sums.clicks.length; row++) {
      const code = codes[row]!;
      const weight = 1 / (1 + (sums.clicks[row]! * mean[code]!) / shape);
      orders[code] = orders[code]! + weight * sums.orders[row]!;
      clicks[code] = clicks[code]! + weight * sums.clicks[row]!;
    }
    const between = fitShape(orders, clicks, () => overall);
    for (let code = 0; code < categories; code++) {
      sure[code] = between + orders[code]!;
      mean[code] = sure[code]! / (between / overall + clicks[code]!);
    }
    shape = fitShape(sums.orders, sums.clicks, (row) => mean[codes[row]!]!);
  }
  return { mean, shape: sure.map((known) => 1 / (1 / shape + 1 / known)) };
}

/** At most this many members are used to fit a shape, evenly picked: the fit is a single number and settles early. */
const FIT_MEMBERS = 4000;

/** Members of a level usually differ about as a Gamma of this shape does (a spread of some 70 %), give or take a factor 2. */
const USUAL_SHAPE = 2;
const SHAPE_SPREAD = Math.log(2);

/**
 * The shape of a Gamma prior with given means that makes the observed orders most likely: golden-section search on the
 * logarithm of the shape over the negative-binomial likelihood. A large shape means the members hardly differ.
 */
export function fitShape(orders: ArrayLike<number>, clicks: ArrayLike<number>, meanOf: (i: number) => number): number {
  const used: number[] = [];
  for (let i = 0; i < clicks.length; i++) if (clicks[i]! > 0) used.push(i);
  if (used.length < 2) return 1;
  const step = Math.max(1, Math.floor(used.length / FIT_MEMBERS));
  const logLikelihood = (logShape: number) => {
    const shape = Math.exp(logShape);
    let sum = 0;
    for (let at = 0; at < used.length; at += step) {
      const i = used[at]!;
      const rate = shape / meanOf(i);
      const n = orders[i]!;
      const k = clicks[i]!;
      sum += logGamma(shape + n) - logGamma(shape) + shape * Math.log(rate) - (shape + n) * Math.log(rate + k);
    }
    // Thin data leave the likelihood flat and its top too high, so a mild prior keeps the shape where shops have it.
    return sum * step - ((logShape - Math.log(USUAL_SHAPE)) / SHAPE_SPREAD) ** 2 / 2;
  };
  const golden = (Math.sqrt(5) - 1) / 2;
  let low = Math.log(0.05);
  let high = Math.log(500);
  for (let round = 0; round < 28; round++) {
    const a = high - golden * (high - low);
    const b = low + golden * (high - low);
    if (logLikelihood(a) > logLikelihood(b)) high = b;
    else low = a;
  }
  return Math.exp((low + high) / 2);
}

function logGamma(x: number): number {
  return jstat.gammaln(x);
}

/**
 * The chance that a row's true return reaches the goal, or its own break-even where that is higher:
 * P(λ ≥ goal × CPC ÷ value per order).
 */
export function chanceOfGoal(evidence: Evidence, row: number, goal: number): number {
  const value = evidence.orderValue[row]!;
  if (value <= 0) return 0;
  const needed = (goalOfItem(goal, evidence.breakEven?.[row] ?? NaN) * evidence.cpc[row]!) / value;
  return 1 - gammaCdf(needed, evidence.shape[row]!, evidence.rate[row]!);
}

/** Pooled return of a row: its mean and the ends of the interval that holds it with chance `level`. */
export function pooledReturn(evidence: Evidence, row: number, level = 0.8) {
  const cpc = evidence.cpc[row]!;
  if (cpc <= 0) return null;
  const shape = evidence.shape[row]!;
  const rate = evidence.rate[row]!;
  const scale = evidence.orderValue[row]! / cpc;
  const tail = (1 - level) / 2;
  return {
    mean: (shape / rate) * scale,
    low: gammaQuantile(tail, shape, rate) * scale,
    high: gammaQuantile(1 - tail, shape, rate) * scale,
  };
}
