import { lowestBetween } from "../kit/golden-section";

/** At most this many members are used to fit a spread, evenly picked: the fit is a single number and settles early. */
const FIT_MEMBERS = 1200;

/** Members of a level usually differ by some 60 %, give or take a factor of 1.5. */
const USUAL_SPREAD = 0.6;
const SPREAD_OF_SPREADS = Math.log(1.5);

/** No level's members are taken to be the same, nor further apart than this. */
const NARROWEST = 0.02;
const WIDEST = 2.5;

/** Steps of the search: each narrows it to 0.618, so the spread is known to a thousandth. */
const FIT_STEPS = 16;

/** Newton steps to the top of a posterior; it is concave, so few do. */
const STEPS = 5;

/** The logarithm of a rate: its most likely value, and the curvature of the log posterior there. */
interface Top {
  at: number;
  curvature: number;
}

/**
 * The top of the posterior of x = ln(rate ÷ mean): `orders` are Poisson with mean `expected`·eˣ, x is normal around
 * `middle` with the given variance.
 */
function topOf(orders: number, expected: number, middle: number, variance: number): Top {
  let x = middle;
  // Beginning where orders would be met keeps the first step from overshooting when there are many.
  if (orders > 0 && expected > 0) {
    const own = Math.log(orders / expected);
    x = (middle / variance + orders * own) / (1 / variance + orders);
  }
  for (let step = 0; step < STEPS; step++) {
    const hit = expected * Math.exp(x);
    x += (orders - hit - (x - middle) / variance) / (hit + 1 / variance);
  }
  return { at: x, curvature: expected * Math.exp(x) + 1 / variance };
}

/**
 * The spread of members around given means that makes the observed orders most likely: orders are Poisson, rates
 * log-normal; the likelihood is worked out by Laplace's method, its top found by golden-section search on the spread's logarithm.
 * @param exposure clicks, or clicks × what is known of them
 * @param mean rate that is expected of each member, and how unsure that is as a variance of its logarithm
 * @returns standard deviation of the logarithm
 */
export function fitSpread(
  orders: ArrayLike<number>,
  exposure: ArrayLike<number>,
  mean: ArrayLike<number>,
  unsure: ArrayLike<number>,
): number {
  const used: number[] = [];
  for (let i = 0; i < exposure.length; i++) if (exposure[i]! > 0) used.push(i);
  if (used.length < 2) return USUAL_SPREAD;
  const step = Math.max(1, Math.floor(used.length / FIT_MEMBERS));
  const logLikelihood = (logSpread: number) => {
    const own = Math.exp(2 * logSpread);
    let sum = 0;
    for (let at = 0; at < used.length; at += step) {
      const i = used[at]!;
      const expected = exposure[i]! * mean[i]!;
      const variance = own + unsure[i]!;
      sum += logLikely(orders[i]!, expected, variance);
    }
    // Thin data leave the likelihood flat and its top too high, so a mild prior keeps the spread where shops have it.
    return sum * step - ((logSpread - Math.log(USUAL_SPREAD)) / SPREAD_OF_SPREADS) ** 2 / 2;
  };
  const { at } = lowestBetween((log) => -logLikelihood(log), Math.log(NARROWEST), Math.log(WIDEST), FIT_STEPS);
  return Math.exp(at);
}

/** Places at which a posterior is summed, in standard deviations around its top. */
const PLACES = Array.from({ length: 15 }, (_, i) => -4.2 + 0.6 * i);

/** Sums over the posterior of x = ln(rate ÷ mean of the prior), around its top. */
function sumPosterior(orders: number, expected: number, variance: number) {
  const middle = -variance / 2;
  const top = topOf(orders, expected, middle, variance);
  const width = 1 / Math.sqrt(top.curvature);
  const density = (x: number) => orders * x - expected * Math.exp(x) - (x - middle) ** 2 / (2 * variance);
  const highest = density(top.at);
  let [sum, first, second] = [0, 0, 0];
  for (const place of PLACES) {
    const weight = Math.exp(density(top.at + place * width) - highest);
    sum += weight;
    first += weight * place;
    second += weight * place * place;
  }
  return { at: top.at, width, highest, sum, first, second };
}

/** Logarithm of how likely so many orders are, but for what does not depend on the variance (Laplace's method). */
function logLikely(orders: number, expected: number, variance: number): number {
  const middle = -variance / 2;
  const { at, curvature } = topOf(orders, expected, middle, variance);
  const highest = orders * at - expected * Math.exp(at) - (at - middle) ** 2 / (2 * variance);
  return highest - Math.log(variance * curvature) / 2;
}

/**
 * The posterior of x = ln(rate ÷ mean of the prior): its mean and variance.
 * @param expected orders at the prior's mean
 * @param variance of x in the prior, whose mean is such that the rate's is 1
 */
export function posteriorLog(orders: number, expected: number, variance: number): { mean: number; variance: number } {
  if (expected <= 0) return { mean: -variance / 2, variance };
  const { at, width, sum, first, second } = sumPosterior(orders, expected, variance);
  const mean = first / sum;
  return { mean: at + mean * width, variance: (second / sum - mean * mean) * width * width };
}
