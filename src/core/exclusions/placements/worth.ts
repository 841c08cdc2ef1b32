import { CholeskyDecomposition, Matrix } from "ml-matrix";
import { normalCdf } from "../../kit/stats";

/** A campaign's day in partner media: what it brought as a whole, and who showed how much of it. */
export interface MediaDay {
  clicks: number;
  /** Mills. */
  cost: number;
  /** Sales × margin − cost, mills. */
  net: number;
  /** Impressions by placement: places in the list of placements, and how many. */
  placement: Uint32Array;
  impressions: Float64Array;
}

/** What a placement is known to be, beside who clicks there. */
export interface PlacementTraits {
  kind: string;
  isOnTopic: boolean;
}

/** What a thousand impressions bring, with an 80 % interval. */
export interface Estimate {
  mean: number;
  low: number;
  high: number;
}

export interface PlacementWorth {
  clicks: Estimate;
  /** Mills. */
  net: Estimate;
  /** The chance that it brings less than it costs. */
  chanceOfLoss: number;
  /** Whether its own days said something beside its kind, of what it brings and of its clicks: the interval narrowed by a tenth or more. */
  isOwn: boolean;
  areClicksOwn: boolean;
}

/** What placements of a kind are worth in the middle, on the catalogue's topic or off it. */
export interface KindWorth extends Omit<PlacementWorth, "isOwn" | "areClicksOwn"> {
  kind: string;
  isOnTopic: boolean;
}

export interface Worths {
  placements: PlacementWorth[];
  kinds: KindWorth[];
}

/** Placements with a worth of their own, the largest; all others are as their kind. */
const MOST_OF_THEIR_OWN = 150;
/** Days of campaigns that can tell anything. */
const LEAST_DAYS = 30;
/** How far placements of a kind may lie apart, in shares of what the mean one costs or brings in clicks. */
const SPREADS = [0.05, 0.15, 0.35, 0.7, 1.2, 2];
/** What is left of the doubt about a placement's own part, from which on something of its own is known. */
const NARROWED = 0.9;
/** 80 % of a normal distribution lie within this many deviations. */
const REACH = 1.2816;

/**
 * What each placement is worth where a report tells its impressions alone: days and campaigns with more of it are held
 * against those with less. Linear regression of a day's clicks and net on impressions by placement (in thousands),
 * where a placement is its kind's and its topic's mean plus something of its own, normal around 0; how far those own
 * parts lie apart and how much days scatter (in proportion to their impressions) are the values under which the days are
 * likeliest (type-II maximum likelihood, Bishop 2006, 3.5). Everything is an estimate with an interval, the wider the
 * less a placement's share has moved against the others'.
 * @returns null where there are too few days
 */
export function placementWorths(days: readonly MediaDay[], placements: readonly PlacementTraits[]): Worths | null {
  const used = days.filter(({ impressions }) => impressions.length > 0);
  if (used.length < LEAST_DAYS || placements.length === 0) return null;
  const design = designOf(used, placements);
  const all = (of: (day: MediaDay) => number) => used.reduce((sum, day) => sum + of(day), 0);
  const thousands = design.size.reduce((sum, one) => sum + one, 0);
  // How far placements lie apart is told in shares of what is usual: clicks, and what clicks cost.
  const [usualClicks, usualCost] = [all((day) => day.clicks) / thousands || 1, all((day) => day.cost) / thousands || 1];
  const clicks = fit(
    design,
    used.map((day) => day.clicks),
    usualClicks,
  );
  const net = fit(
    design,
    used.map((day) => day.net),
    usualCost,
  );
  const kinds = [...new Map(placements.map((one) => [`${one.kind}/${one.isOnTopic}`, one])).values()];
  return {
    placements: placements.map((_, p) => ({
      clicks: atLeastNought(clicks.of(p)),
      net: net.of(p),
      chanceOfLoss: chanceOfLoss(net.of(p)),
      isOwn: net.isNarrowed(p),
      areClicksOwn: clicks.isNarrowed(p),
    })),
    kinds: kinds.map(({ kind, isOnTopic }) => {
      const of = design.of[placements.findIndex((one) => one.kind === kind && one.isOnTopic === isOnTopic)]!;
      const brings = net.shared(of);
      return {
        ...{ kind, isOnTopic, net: brings, chanceOfLoss: chanceOfLoss(brings) },
        clicks: atLeastNought(clicks.shared(of)),
      };
    }),
  };
}

/** The chance that a normal estimate lies below 0. */
function chanceOfLoss({ mean, high }: Estimate): number {
  const deviation = (high - mean) / REACH;
  return deviation > 0 ? normalCdf(-mean / deviation) : mean < 0 ? 1 : 0;
}

const atLeastNought = ({ mean, low, high }: Estimate): Estimate => ({
  mean: Math.max(0, mean),
  low: Math.max(0, low),
  high: Math.max(0, high),
});

interface Design {
  /** Thousands of impressions: a row a day; first the columns of kinds and topic, then those of single placements. */
  x: Matrix;
  /** Thousands of impressions of each day. */
  size: number[];
  /** How many columns are of kinds and topic. */
  shared: number;
  /** The placement's own column, or −1. */
  column: Int32Array;
  /** Shared columns that a placement counts in. */
  of: number[][];
}

function designOf(days: readonly MediaDay[], placements: readonly PlacementTraits[]): Design {
  const volume = new Float64Array(placements.length);
  for (const { placement, impressions } of days) placement.forEach((p, i) => (volume[p]! += impressions[i]!));
  const kinds = [...new Set(placements.map(({ kind }) => kind))].sort();
  const shared = kinds.length + 1;
  const column = new Int32Array(placements.length).fill(-1);
  Array.from(volume.keys())
    .filter((p) => volume[p]! > 0)
    .sort((a, b) => volume[b]! - volume[a]! || a - b)
    .slice(0, MOST_OF_THEIR_OWN)
    .forEach((p, i) => (column[p] = shared + i));
  const of = placements.map(({ kind, isOnTopic }) => [kinds.indexOf(kind), ...(isOnTopic ? [kinds.length] : [])]);
  const width = shared + column.filter((c) => c >= 0).length;
  const x = Matrix.zeros(days.length, width);
  const size = days.map(({ placement, impressions }, row) => {
    let all = 0;
    placement.forEach((p, i) => {
      const thousands = impressions[i]! / 1000;
      all += thousands;
      for (const c of of[p]!) x.set(row, c, x.get(row, c) + thousands);
      if (column[p]! >= 0) x.set(row, column[p]!, x.get(row, column[p]!) + thousands);
    });
    return Math.max(all, 1e-6);
  });
  return { x, size, shared, column, of };
}

/** @param usual what spreads are shares of, a thousand impressions */
function fit({ x, size, shared, column, of }: Design, y: readonly number[], usual: number) {
  const total = size.reduce((sum, one) => sum + one, 0);
  const mean = y.reduce((sum, one) => sum + one, 0) / total;
  // Rows scaled so that all scatter alike: variance in proportion to impressions.
  const scaled = x.clone();
  const target = y.map((value, row) => value / Math.sqrt(size[row]!));
  for (let row = 0; row < x.rows; row++) scaled.mulRow(row, 1 / Math.sqrt(size[row]!));
  const gram = scaled.transpose().mmul(scaled);
  const right = scaled.transpose().mmul(Matrix.columnVector(target));
  const squares = target.reduce((sum, value) => sum + value * value, 0);
  const rows = y.length;
  let scatter = target.reduce((sum, value, row) => sum + (value - mean * Math.sqrt(size[row]!)) ** 2, 0) / rows || 1;
  const attempt = (spread: number, noise: number) => {
    const precision = Matrix.mul(gram, 1 / noise);
    const own = 1 / (spread * usual) ** 2;
    let prior = 0;
    for (let c = 0; c < x.columns; c++) {
      const tight = c < shared ? 1 / (10 * usual) ** 2 : own;
      precision.set(c, c, precision.get(c, c) + tight);
      prior += Math.log(tight);
    }
    const decomposed = new CholeskyDecomposition(precision);
    const solved = decomposed.solve(Matrix.mul(right, 1 / noise));
    const lower = decomposed.lowerTriangularMatrix;
    let volume = 0;
    for (let c = 0; c < x.columns; c++) volume += 2 * Math.log(lower.get(c, c));
    const explained = right.transpose().mmul(solved).get(0, 0) / noise;
    const likelihood = 0.5 * (prior - volume - squares / noise + explained - rows * Math.log(noise));
    return { spread, decomposed, solved, likelihood };
  };
  const best = (noise: number) =>
    SPREADS.map((spread) => attempt(spread, noise)).reduce((a, b) => (b.likelihood > a.likelihood ? b : a));
  let found = best(scatter);
  for (let round = 0; round < 2; round++) {
    const left = new Matrix([target]).transpose().sub(scaled.mmul(found.solved));
    // Degrees of freedom that the shared columns take; own parts are held by their prior.
    scatter = Math.max(1e-9, left.to1DArray().reduce((sum, one) => sum + one * one, 0) / Math.max(1, rows - shared));
    found = round === 0 ? best(scatter) : attempt(found.spread, scatter);
  }
  const covariance = found.decomposed.solve(Matrix.eye(x.columns));
  const alone = (found.spread * usual) ** 2;
  /** The sum of some coefficients, with what is not known of them and a variance beside. */
  const sumOf = (columns: readonly number[], beside: number): Estimate => {
    let variance = beside;
    for (const a of columns) for (const b of columns) variance += covariance.get(a, b);
    const reach = REACH * Math.sqrt(Math.max(0, variance));
    const value = columns.reduce((sum, c) => sum + found.solved.get(c, 0), 0);
    return { mean: value, low: value - reach, high: value + reach };
  };
  return {
    shared: (columns: readonly number[]) => sumOf(columns, 0),
    of: (p: number) => (column[p]! >= 0 ? sumOf([...of[p]!, column[p]!], 0) : sumOf(of[p]!, alone)),
    /** Whether days took a tenth or more of the doubt about a placement's own part away. */
    isNarrowed: (p: number) => column[p]! >= 0 && covariance.get(column[p]!, column[p]!) < NARROWED ** 2 * alone,
  };
}

/** What a report counted of a placement. Money in mills. */
export interface PlacementCounts {
  impressions: number;
  clicks: number;
  cost: number;
  orders: number;
}

/** Orders that the usual rate counts for beside what was counted, as for other places (`docs/formulas.md` 7). */
const USUAL_ORDERS = 3;

/**
 * What a placement is worth where its report tells clicks, cost and orders: its orders are held against what its clicks
 * bring elsewhere, factor (orders + 3) ÷ (expected + 3); the interval is that of a count.
 * @param rate orders a click of all placements; @param value what an order leaves before its clicks' cost, mills
 */
export function countedWorth(
  { impressions, clicks, cost, orders }: PlacementCounts,
  rate: number,
  value: number,
): PlacementWorth {
  const thousand = impressions > 0 ? 1000 / impressions : 0;
  const expected = clicks * rate;
  const scale = expected / (expected + USUAL_ORDERS);
  const mean = (orders + USUAL_ORDERS) * scale * value - cost;
  const deviation = Math.sqrt(orders + USUAL_ORDERS) * scale * value;
  const net = {
    mean: mean * thousand,
    low: (mean - REACH * deviation) * thousand,
    high: (mean + REACH * deviation) * thousand,
  };
  const reach = REACH * Math.sqrt(clicks);
  return {
    clicks: atLeastNought({
      mean: clicks * thousand,
      low: (clicks - reach) * thousand,
      high: (clicks + reach) * thousand,
    }),
    ...{ net, chanceOfLoss: chanceOfLoss(net), isOwn: clicks > 0, areClicksOwn: true },
  };
}
