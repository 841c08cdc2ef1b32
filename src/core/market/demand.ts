import { dayOfYear, weekday, type Day } from "../kit/days";
import { hashText } from "../kit/random";
import type { Category, World } from "./world-types";

const WEEKDAY = [1.02, 0.97, 0.96, 0.98, 1.0, 1.04, 1.1];
const TREND_START = 20_000;

/** What moves in a category from day to day. */
export interface Conditions {
  /** Factor on how many look. */
  demand: number;
  /** Added to the logarithm of what rivals bid. */
  rivals: number;
  /** Factor on how many of those who click buy. */
  buying: number;
}

/** Widest swing of demand (share), of rivals' bids (logarithm) and of buying (share) over weeks, in a middling world. */
const DEMAND_SWING = 0.1;
const RIVALS_SWING = 0.12;
const BUYING_SWING = 0.08;

/** Days between a wave's tops, at least and at most. */
const SHORTEST = 19;
const LONGEST = 61;

/** A seeded slow wave from −1 to 1: two of different length, so that it does not come round soon. */
function wave(world: World, category: Category, what: string, day: Day): number {
  const hash = hashText(`${world.seed}/${what}/${category.name}`);
  const length = SHORTEST + (hash % (LONGEST - SHORTEST));
  const phase = (hash / 4294967296) * 2 * Math.PI;
  return 0.6 * Math.sin((2 * Math.PI * day) / length + phase) + 0.4 * Math.sin(day / 5.3 + 2 * phase);
}

/**
 * How much of its average demand a category sees on a day: season × weekday × trend × slow noise. The noise is the same
 * for the same seed.
 */
export function demandFactor(world: World, category: Category, day: Day): number {
  const season = 1 + category.seasonality * Math.cos((2 * Math.PI * (dayOfYear(day) - category.peakDay)) / 365.25);
  const trend = (1 + world.nature.trend) ** ((day - TREND_START) / 365.25);
  return (
    season *
    WEEKDAY[weekday(day)]! *
    trend *
    (1 + DEMAND_SWING * world.nature.drift * wave(world, category, "drift", day))
  );
}

/** How things stand in a category on a day. Rivals come and go, and people buy more readily in some weeks than in others. */
export function conditionsOn(world: World, category: Category, day: Day): Conditions {
  return {
    demand: demandFactor(world, category, day),
    rivals: RIVALS_SWING * world.nature.drift * wave(world, category, "rivals", day),
    buying: 1 + BUYING_SWING * world.nature.drift * wave(world, category, "buying", day),
  };
}
