import { normalQuantile } from "../kit/stats";
import { USUAL_RESPONSE } from "./marginal-shares";

/** What a campaign spent and sold on one day, as if money had lasted to its end. Mills. */
export interface ResponseDay {
  spend: number;
  sales: number;
  /** Share of the day that was seen: a day that ended at noon tells half as much. */
  weight: number;
}

/** How sales bend with spend: by a power of it, or towards a ceiling. */
export const RESPONSE_FORMS = ["power", "saturating"] as const;
export type ResponseForm = (typeof RESPONSE_FORMS)[number];

/**
 * Sales a day as a function of spend a day (`docs/formulas.md` 9), all in mills. `a·x^b` or `a·(1 − e^(−x/s))`; `shape` is b or s.
 */
export interface Response {
  form: ResponseForm;
  level: number;
  shape: number;
  /** By how much per cent sales grow with one per cent more spend, at the spend of the days seen. */
  elasticity: number;
  /** Mean spend of the days seen, and how many those were. */
  spend: number;
  days: number;
  /** Curves that the days leave possible, with how likely each is, for intervals. */
  mixture: readonly { level: number; shape: number; weight: number; unsure: number }[];
}

/** What is believed of a campaign before its own days are looked at. */
export interface ResponsePrior {
  /** Sales per unit of spend, and spend whose days it counts as much as, mills. */
  roas: number;
  spend: number;
  elasticity: number;
  /** Variance of a day's sales per mill spent, where own days are too few to tell. */
  noise: number;
}

/** How far campaigns lie apart in elasticity, as a standard deviation. */
const APART = 0.15;
/** Elasticities that are held against each other. */
const ELASTICITIES = Array.from({ length: 19 }, (_, i) => 0.05 + 0.05 * i);
/** Days whose worth the usual noise has in a campaign's own. */
const NOISE_PATIENCE = 10;

const curveOf = (form: ResponseForm, shape: number, x: number) =>
  form === "power" ? x ** shape : -Math.expm1(-x / shape);
const slopeOf = (form: ResponseForm, shape: number, x: number) =>
  form === "power" ? shape * x ** (shape - 1) : Math.exp(-x / shape) / shape;

/** The saturating curve's s at which sales grow by so many per cent with one per cent more spend at `spend`; by halving. */
function scaleOf(elasticity: number, spend: number): number {
  // e(u) = u ÷ (e^u − 1) with u = x ÷ s falls from 1 to 0.
  let [low, high] = [1e-6, 60];
  for (let i = 0; i < 60; i++) {
    const u = (low + high) / 2;
    if (u / Math.expm1(u) > elasticity) low = u;
    else high = u;
  }
  return spend / ((low + high) / 2);
}

const shapeOf = (form: ResponseForm, elasticity: number, spend: number) =>
  form === "power" ? elasticity : scaleOf(elasticity, spend);

interface Fit {
  elasticity: number;
  shape: number;
  level: number;
  /** Σ weight × curve² including what is believed beforehand. */
  mass: number;
  errors: number;
  /** Squared errors of each day predicted from the others. */
  leftOut: number;
}

function fitOf(
  form: ResponseForm,
  elasticity: number,
  days: readonly ResponseDay[],
  mean: number,
  prior: ResponsePrior,
): Fit {
  const shape = shapeOf(form, elasticity, mean);
  // A day's sales scatter as its spend does, so days count by one over it; what is believed stands as one more day.
  const believed = { spend: mean, sales: prior.roas * mean, weight: prior.spend / mean };
  const points = [...days, believed].map(({ spend, sales, weight }) => ({
    curve: curveOf(form, shape, spend),
    sales,
    weight: weight / spend,
  }));
  let [mass, cross] = [0, 0];
  for (const { curve, sales, weight } of points) {
    mass += weight * curve * curve;
    cross += weight * curve * sales;
  }
  const level = cross / mass;
  let [errors, leftOut] = [0, 0];
  points.slice(0, -1).forEach(({ curve, sales, weight }) => {
    const own = weight * curve * curve;
    const error = sales - level * curve;
    errors += weight * error * error;
    const without = mass > own ? (cross - weight * curve * sales) / (mass - own) : 0;
    leftOut += weight * (sales - without * curve) ** 2;
  });
  return { elasticity, shape, level, mass, errors, leftOut };
}

/**
 * Fits how a campaign's sales follow its spend: weighted least squares of the level for each of a row of bends, these weighed by
 * how well they fit and by what is believed of campaigns alike; of the two forms the one that predicts left-out days better.
 * @param days without those on which nothing was spent
 * @returns null where nothing was ever spent
 */
export function fitResponse(days: readonly ResponseDay[], prior: ResponsePrior): Response | null {
  const used = days.filter(({ spend, weight }) => spend > 0 && weight > 0);
  if (used.length === 0) return null;
  const weights = used.reduce((sum, { weight }) => sum + weight, 0);
  const spend = used.reduce((sum, day) => sum + day.weight * day.spend, 0) / weights;
  const forms = RESPONSE_FORMS.map((form) => fitForm(form, used, weights, spend, prior));
  const [first, second] = forms as [ReturnType<typeof fitForm>, ReturnType<typeof fitForm>];
  return second.leftOut < first.leftOut ? second.response : first.response;
}

function fitForm(
  form: ResponseForm,
  days: readonly ResponseDay[],
  weights: number,
  spend: number,
  prior: ResponsePrior,
): { response: Response; leftOut: number } {
  const fits = ELASTICITIES.map((elasticity) => fitOf(form, elasticity, days, spend, prior));
  const least = Math.min(...fits.map(({ errors }) => errors));
  const noise = (least + NOISE_PATIENCE * prior.noise) / (weights + NOISE_PATIENCE);
  const chances = fits.map(({ errors, elasticity }) =>
    noise > 0
      ? Math.exp(-0.5 * ((errors - least) / noise + ((elasticity - prior.elasticity) / APART) ** 2))
      : Math.exp(-0.5 * ((elasticity - prior.elasticity) / APART) ** 2) * (errors <= least ? 1 : 0),
  );
  const all = chances.reduce((sum, chance) => sum + chance, 0);
  const mean = (of: (fit: Fit) => number) => fits.reduce((sum, fit, i) => sum + (chances[i]! / all) * of(fit), 0);
  const elasticity = mean((fit) => fit.elasticity);
  const { shape, level } = fitOf(form, elasticity, days, spend, prior);
  return {
    leftOut: mean(({ leftOut }) => leftOut),
    response: {
      ...{ form, level, shape, elasticity, spend, days: days.length },
      mixture: fits.flatMap((fit, i) =>
        chances[i]! / all < 1e-3
          ? []
          : [{ level: fit.level, shape: fit.shape, weight: chances[i]! / all, unsure: noise / fit.mass }],
      ),
    },
  };
}

/** Sales a day at a spend a day, mills. */
export function salesAt({ form, level, shape }: Response, spend: number): number {
  return spend > 0 ? level * curveOf(form, shape, spend) : 0;
}

/** What one more mill a day brings in sales at a spend a day. */
export function nextSales({ form, level, shape }: Response, spend: number): number {
  return level * slopeOf(form, shape, Math.max(1, spend));
}

/** The spend a day at which one more mill brings so much, mills; 0 where the first one brings less. */
export function spendWhere({ form, level, shape }: Response, next: number): number {
  if (level <= 0) return 0;
  if (next <= 0) return Infinity;
  if (form === "power") return ((level * shape) / next) ** (1 / (1 - shape));
  return Math.max(0, shape * Math.log(level / (shape * next)));
}

/** 80 % of a normal distribution lie within so many standard deviations on both sides. */
const WITHIN = normalQuantile(0.9);

/** What holds a day's mean sales at a spend with a chance of 80 %, mills. */
export function salesBetween(response: Response, spend: number): { low: number; high: number } {
  const { form, mixture } = response;
  let [mean, square] = [0, 0];
  for (const { level, shape, weight, unsure } of mixture) {
    const curve = curveOf(form, shape, spend);
    mean += weight * level * curve;
    square += weight * ((level * curve) ** 2 + unsure * curve * curve);
  }
  const reach = WITHIN * Math.sqrt(Math.max(0, square - mean * mean));
  return { low: Math.max(0, mean - reach), high: mean + reach };
}

/**
 * Fits all campaigns together: what each brings per unit of spend and how it bends is drawn towards what campaigns of the
 * account do, the more so the fewer its days are (empirical Bayes).
 */
export function fitResponses(campaigns: readonly (readonly ResponseDay[])[]): (Response | null)[] {
  const usual = usualOf(campaigns);
  if (!usual) return campaigns.map(() => null);
  const first = campaigns.map((days) => fitResponse(days, { ...usual, elasticity: USUAL_RESPONSE }));
  // How the account's campaigns bend on average, with the usual bend beside them as one more.
  const bends = first.flatMap((response) => (response ? [response.elasticity] : []));
  const elasticity = (USUAL_RESPONSE + bends.reduce((sum, bend) => sum + bend, 0)) / (1 + bends.length);
  return campaigns.map((days) => fitResponse(days, { ...usual, elasticity }));
}

/** What the account's campaigns bring per unit of spend, and how much of one's own spend says as much as that. */
function usualOf(campaigns: readonly (readonly ResponseDay[])[]): Omit<ResponsePrior, "elasticity"> | null {
  const sums = campaigns.map((days) => {
    const used = days.filter(({ spend, weight }) => spend > 0 && weight > 0);
    const spend = used.reduce((sum, day) => sum + day.weight * day.spend, 0);
    const sales = used.reduce((sum, day) => sum + day.weight * day.sales, 0);
    const roas = spend > 0 ? sales / spend : 0;
    const scatter = used.reduce((sum, day) => sum + (day.weight * (day.sales - roas * day.spend) ** 2) / day.spend, 0);
    return { spend, sales, roas, scatter, days: used.length };
  });
  const known = sums.filter(({ spend }) => spend > 0);
  if (known.length === 0) return null;
  const [spend, sales] = known.reduce(([x, y], one) => [x + one.spend, y + one.sales], [0, 0]);
  const roas = sales / spend;
  const free = known.reduce((sum, one) => sum + Math.max(0, one.days - 1), 0);
  const noise =
    free > 0 ? known.reduce((sum, one) => sum + one.scatter, 0) / free : roas * roas * (spend / known.length);
  // Method of moments: what campaigns lie apart beyond what chance makes of their days.
  const apart = known.reduce((sum, one) => sum + one.spend * (one.roas - roas) ** 2, 0) - noise * (known.length - 1);
  const mass = spend - known.reduce((sum, one) => sum + one.spend ** 2, 0) / spend;
  const between = mass > 0 ? Math.max(LEAST_APART * roas * roas, apart / mass) : LEAST_APART * roas * roas;
  return { roas, noise, spend: between > 0 ? noise / between : spend };
}

/** Campaigns are never taken to be all alike: their returns lie at least a tenth apart. */
const LEAST_APART = 0.01;
