import { dayOfYear, weekday, type Day } from "../kit/days";
import { hashText } from "../kit/random";
import type { Category, World } from "./world-types";

const WEEKDAY = [1.02, 0.97, 0.96, 0.98, 1.0, 1.04, 1.1];
/** Yearly growth of demand. */
const TREND = 0.06;
const TREND_START = 20_000;

/**
 * How much of its average demand a category sees on a day: season × weekday × trend × slow noise. The noise is two
 * waves of seeded length and phase, so that it drifts over weeks and is the same for the same seed.
 */
export function demandFactor(world: World, category: Category, day: Day): number {
  const season = 1 + category.seasonality * Math.cos((2 * Math.PI * (dayOfYear(day) - category.peakDay)) / 365.25);
  const trend = 1 + (TREND * (day - TREND_START)) / 365.25;
  const hash = hashText(`${world.seed}/drift/${category.name}`);
  const phase = (hash / 4294967296) * 2 * Math.PI;
  const drift =
    1 + 0.06 * Math.sin((2 * Math.PI * day) / (17 + (hash % 13)) + phase) + 0.04 * Math.sin(day / 5.3 + 2 * phase);
  return season * WEEKDAY[weekday(day)]! * trend * drift;
}
