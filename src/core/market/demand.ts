import { dayOfYear, weekday, type Day } from "../kit/days";
import { hashText } from "../kit/random";
import type { Pressure } from "./answer";
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

/** What a price war can take of a category's buying: rivals cut their prices, and shoppers see it. */
const WAR_TAKES = 0.45;
/** A category sees one war at most in so many days, and it lasts this long. */
const WAR_EVERY = 49;
const WAR_DAYS = [9, 24] as const;

/** Days between a wave's tops, at least and at most. */
const SHORTEST = 19;
const LONGEST = 61;

/** A seeded slow wave from −1 to 1: two of different length, so that it does not come round soon. */
function waveOf(world: World, category: Category, what: string, day: Day): number {
  const hash = hashText(`${world.seed}/${what}/${category.name}`);
  const length = SHORTEST + (hash % (LONGEST - SHORTEST));
  const phase = (hash / 4294967296) * 2 * Math.PI;
  return 0.6 * Math.sin((2 * Math.PI * day) / length + phase) + 0.4 * Math.sin(day / 5.3 + 2 * phase);
}

/** Factor on buying while rivals are at war over prices, 1 where they are not. */
export function warFactor({ seed, nature }: World, category: string, day: Day): number {
  const block = Math.floor(day / WAR_EVERY);
  const at = (what: string) => hashText(`${seed}/war/${category}/${block}/${what}`) / 4294967296;
  if (at("is") >= nature.wars) return 1;
  const lasts = WAR_DAYS[0] + Math.floor((WAR_DAYS[1] - WAR_DAYS[0]) * at("lasts"));
  const begins = block * WAR_EVERY + Math.floor((WAR_EVERY - lasts) * at("begins"));
  return day >= begins && day < begins + lasts ? 1 - WAR_TAKES * (0.4 + 0.6 * at("depth")) : 1;
}

/** Factor on buying on a day of the week; over a week its mean is 1. */
function weekdayBuying(weekend: number, day: Day): number {
  const more = Math.exp(weekend);
  return (weekday(day) >= 5 ? more : 1) / ((5 + 2 * more) / 7);
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
    WEEKDAY[weekday(day)]! ** world.nature.weekSwing *
    trend *
    (1 + DEMAND_SWING * world.nature.drift * waveOf(world, category, "drift", day))
  );
}

/**
 * How things stand in a category on a day. Rivals come and go, cut prices, answer our bids; people buy more readily on some
 * days and in some weeks than in others.
 * @param pressure of our ads on rivals; left out: none, which is never worse for us
 */
export function conditionsOn(world: World, category: Category, day: Day, pressure: Pressure = {}): Conditions {
  const { nature } = world;
  const wave = (what: string) => nature.drift * waveOf(world, category, what, day);
  return {
    demand: demandFactor(world, category, day),
    rivals: RIVALS_SWING * wave("rivals") + nature.answer * (pressure[category.name] ?? 0),
    buying:
      (1 + BUYING_SWING * wave("buying")) * weekdayBuying(nature.weekend, day) * warFactor(world, category.name, day),
  };
}
