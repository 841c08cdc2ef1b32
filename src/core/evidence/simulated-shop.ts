import { normal, poisson, randomFrom } from "../kit/random";
import { SUM_KEYS } from "../kit/metrics";
import type { RowSums } from "../results/window-sums";
import { poolEvidence, pooledReturn } from "./pooling";

/** A made-up shop whose true order rates are known, so that estimates can be judged. */
export interface SimulatedShop {
  sums: RowSums;
  /** Orders a click in truth, by row. */
  truth: number[];
  codes: number[];
  price: Float64Array;
}

const ITEMS = 600;
const CATEGORIES = 12;
const CPC = 300;
const PRICE = 30_000;

/** Categories differ, items differ within them, and some have few clicks and some many. The same seed gives the same shop. */
export function simulateShop(seed: number): SimulatedShop {
  const random = randomFrom("evidence", seed);
  const rates = Array.from({ length: CATEGORIES }, () => 0.02 * Math.exp(0.4 * normal(random)));
  const sums = Object.fromEntries(SUM_KEYS.map((key) => [key, new Float64Array(ITEMS)])) as RowSums;
  const truth: number[] = [];
  const codes: number[] = [];
  for (let row = 0; row < ITEMS; row++) {
    const code = row % CATEGORIES;
    // Gamma with shape 4 as a sum of exponentials: the model's own shape, so that coverage can be judged.
    let gamma = 0;
    for (let k = 0; k < 4; k++) gamma -= Math.log(1 - random());
    const rate = (rates[code]! * gamma) / 4;
    const clicks = Math.floor(Math.exp(6 * random()));
    const orders = poisson(random, rate * clicks);
    truth.push(rate);
    codes.push(code);
    sums.clicks[row] = clicks;
    sums.orders[row] = orders;
    sums.units[row] = orders;
    sums.cost[row] = clicks * CPC;
    sums.revenue[row] = orders * PRICE;
  }
  return { sums, truth, codes, price: new Float64Array(ITEMS).fill(PRICE) };
}

/** Squared errors of raw and pooled order rates, by how many clicks there are: few, some, many. */
export interface Calibration {
  /** Share of true returns within their 80 % intervals. */
  covered: number;
  errors: { raw: number; pooled: number }[];
}

/** Judges the pooled evidence on as many simulated shops. */
export function calibrate(seeds: number): Calibration {
  let inside = 0;
  let asked = 0;
  const errors = [0, 1, 2].map(() => ({ raw: 0, pooled: 0 }));
  for (let seed = 0; seed < seeds; seed++) {
    const { sums, truth, codes, price } = simulateShop(seed);
    const evidence = poolEvidence(sums, codes, price);
    truth.forEach((rate, row) => {
      const { low, high } = pooledReturn(evidence, row)!;
      const trueReturn = (rate * evidence.orderValue[row]!) / evidence.cpc[row]!;
      asked++;
      if (trueReturn >= low && trueReturn <= high) inside++;
      const clicks = sums.clicks[row]!;
      if (clicks === 0) return;
      const size = errors[clicks < 10 ? 0 : clicks < 60 ? 1 : 2]!;
      size.raw += (sums.orders[row]! / clicks - rate) ** 2;
      size.pooled += (evidence.shape[row]! / evidence.rate[row]! - rate) ** 2;
    });
  }
  return { covered: inside / asked, errors };
}
