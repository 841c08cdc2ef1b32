import type { Columns } from "../kit/columns";
import type { Day } from "../kit/days";
import { felt } from "./auction";
import { accountOfPlan, type AimedPlace, type BestPlan } from "./best-account";
import { keptValue } from "./bought-instead";
import { HOUR_SHARE } from "./hours";
import { contributionOf, daysWithoutAds, truthOfAccount, type TrueDay } from "./judge";
import { conversionsOn } from "./moods";
import type { MarketState } from "./day-types";
import { planAccount, type MarketAccount } from "./running-account";
import { HALO } from "./store-sales";
import { warmState } from "./warm-state";
import type { Surface, World } from "./world-types";

/*
 * The most that a search which knows the truth found ads to add, at any money or within some: item bids that follow what a
 * click adds, factors on slots and hours, places by name with bids of their own, terms kept out. Somebody cleverer may find
 * more, so it is no bound; it says how much of the bound is in reach.
 */

/** What the search turns. */
interface Setting {
  /** Bids over what a click adds, of items and of places by name; 0 for places: none are named. */
  level: number;
  placeLevel: number;
  /** Bids follow an item's worth to this power, and the hours' buying to this. */
  steepness: number;
  byHour: number;
  /** Factors on bids in the lead row, on item pages and in partner media, over how people buy there. */
  lead: number;
  pages: number;
  partner: number;
  /** The campaign of all items is kept out of terms whose click adds less than this of a middling one. */
  leastAdded: number;
}

/** Where the search begins: with and without places by name. */
const BEGIN: Omit<Setting, "placeLevel"> = {
  ...{ level: 0.7, steepness: 1, byHour: 1, lead: 1, pages: 1, partner: 1, leastAdded: 0.5 },
};
const BEGIN_PLACES = [0, 0.7];

/** What is tried of each, one after another, and again while it helps. */
const TRIES: { [K in keyof Setting]: readonly number[] } = {
  level: [0.25, 0.4, 0.55, 0.7, 0.9, 1.15, 1.5],
  placeLevel: [0, 0.4, 0.55, 0.7, 0.9, 1.2],
  pages: [0, 0.3, 0.6, 1, 1.4],
  partner: [0, 0.3, 0.6, 1, 1.4],
  lead: [0.6, 0.8, 1, 1.25],
  leastAdded: [0, 0.3, 0.6, 0.9, 1.2],
  steepness: [0.7, 0.85, 1, 1.15],
  byHour: [0, 0.5, 1],
};
const ROUNDS = 2;

/** Items that stand for a place by name. */
const ITEMS_OF_PLACE = 8;

/** An account is drawn up anew after so many days, since seasons turn and items' conversion moves. */
const STRETCH = 30;

/** No factor on bids goes beyond this. */
const MOST_FACTOR = 3;

/** What the search found over some days. */
export interface BestContribution {
  /** Mills: what ads add, and what they cost. */
  contribution: number;
  days: TrueDay[];
}

/**
 * Searches for the account whose ads add most.
 * @param margins share of the price left, a row; rows without one take no part
 * @param dayCap mills a day at most; left out: any money
 */
export function bestContribution(
  world: World,
  catalogue: Columns,
  margins: Float64Array,
  from: Day,
  to: Day,
  dayCap: number | null = null,
): BestContribution {
  const search = new Search(world, catalogue, margins, dayCap);
  let settings = BEGIN_PLACES.map((placeLevel): Setting => ({ ...BEGIN, placeLevel }));
  const days: TrueDay[] = [];
  let contribution = 0;
  for (let begins = from; begins <= to; begins += STRETCH) {
    const ends = Math.min(to, begins + STRETCH - 1);
    const middle = (begins + ends) >> 1;
    const tops = settings.map((setting) => search.climb(setting, middle)).sort((a, b) => b.most - a.most);
    const found = search.over(tops[0]!.setting, begins, ends);
    settings = [tops[0]!.setting];
    days.push(...found.days);
    contribution += found.contribution;
  }
  return { contribution, days };
}

class Search {
  constructor(
    private readonly world: World,
    private readonly catalogue: Columns,
    private readonly margins: Float64Array,
    private readonly dayCap: number | null,
  ) {}

  private readonly without = new Map<string, TrueDay[]>();

  private added(days: TrueDay[], from: Day, to: Day): number {
    const { world, catalogue, margins, without } = this;
    const key = `${from}/${to}`;
    const bare = without.get(key) ?? daysWithoutAds(world, catalogue, from, to);
    without.set(key, bare);
    return contributionOf(world, days, bare, margins);
  }

  private accountOf(setting: Setting, day: Day): MarketAccount {
    return planAccount(this.world, accountOfPlan(this.planOf(setting, day), this.catalogue), this.catalogue);
  }

  over(setting: Setting, from: Day, to: Day): BestContribution {
    const account = this.accountOf(setting, (from + to) >> 1);
    const { days } = truthOfAccount(this.world, account, from, to, warmState(this.world, account, from));
    return { contribution: this.added(days, from, to), days };
  }

  /** The best setting on one day that turning one thing after another leads to. */
  climb(first: Setting, day: Day): { setting: Setting; most: number } {
    let top = this.rested(first, day);
    for (let round = 0; round < ROUNDS; round++) {
      const before = top.most;
      for (const [name, values] of Object.entries(TRIES) as [keyof Setting, readonly number[]][]) {
        for (const value of values) {
          if (value === top.setting[name]) continue;
          const setting = { ...top.setting, [name]: value };
          // Looked at first as rivals answer what is best so far; only what wins there is worth their own answer to it.
          const account = this.accountOf(setting, day);
          const { days } = truthOfAccount(this.world, account, day, day, top.state);
          if (this.added(days, day, day) <= top.most) continue;
          const next = this.rested(setting, day);
          if (next.most > top.most) top = next;
        }
      }
      if (top.most <= before * 1.005) break;
    }
    return top;
  }

  /** What a setting comes to on a day once rivals have answered it. */
  private rested(setting: Setting, day: Day): { setting: Setting; most: number; state: MarketState } {
    const account = this.accountOf(setting, day);
    const state = warmState(this.world, account, day);
    const { days } = truthOfAccount(this.world, account, day, day, state);
    return { setting, most: this.added(days, day, day), state };
  }

  private planOf(setting: Setting, day: Day): BestPlan {
    const { world } = this;
    const { slotBuying, buyingByHour, nature } = world;
    const worth = this.worths(day);
    const middle = middleOf(worth);
    const common = nature.genericNew + HALO;
    const bids = worth.map((value) =>
      value > 0 ? setting.level * common * value * (value / middle) ** (setting.steepness - 1) : 0,
    );
    const course = HOUR_SHARE.map((_, hour) => (buyingByHour[0]![hour]! + buyingByHour[1]![hour]!) / 2);
    const turned = [setting.lead, 1, setting.pages, setting.partner];
    const places = setting.placeLevel > 0 ? this.places(setting.placeLevel, worth) : [];
    const named = new Set(places.filter(({ kind }) => kind === "term").map(({ name }) => name));
    const keptOut = world.surfaces.filter(
      (surface) =>
        surface.kind === "query" && (named.has(surface.label) || added(surface) < setting.leastAdded * common),
    );
    return {
      bids,
      slots: slotBuying.map((buying, slot) => Math.min(MOST_FACTOR, buying * turned[slot]!)),
      hours: setting.byHour > 0 ? course.map((buying) => Math.min(MOST_FACTOR, buying ** setting.byHour)) : null,
      keptOut: keptOut.map(({ label }) => label),
      places,
      dayCap: this.dayCap,
    };
  }

  /** What an order-bringing click on each row adds in a middling place, in mills × orders a click. */
  private worths(day: Day): Float64Array {
    const { world, margins } = this;
    return conversionsOn(world, day).map(
      (cvr, row) => cvr * world.truth.inStock[row]! * keptValue(world, row, margins),
    );
  }

  /** Queries and pages by name, each with the items whose clicks add most there, at what they add on average. */
  private places(level: number, worth: Float64Array): AimedPlace[] {
    const { world } = this;
    return world.categories.flatMap(({ rows, surfaces }) =>
      surfaces.flatMap((surface): AimedPlace[] => {
        if (surface.kind === "placement") return [];
        const at = (i: number) =>
          worth[rows[i]!]! * (surface.lift ? surface.lift[i]! : 1) * felt(surface.fit[i]!, world.nature.closeness);
        const best = rows
          .map((row, i) => ({ row, value: at(i) * surface.fit[i]! * world.truth.quality[row]!, adds: at(i) }))
          .filter(({ value }) => value > 0)
          .sort((a, b) => b.value - a.value || a.row - b.row)
          .slice(0, ITEMS_OF_PLACE);
        if (best.length === 0) return [];
        const mean = best.reduce((sum, { adds }) => sum + adds, 0) / best.length;
        const bid = level * mean * added(surface);
        const kind = surface.kind === "query" ? "term" : "listing";
        return [{ kind, name: surface.label, rows: best.map(({ row }) => row), bid }];
      }),
    );
  }
}

/** What an order's worth counts for in a place: how readily people buy there, and how much of it is new. */
function added({ cvr, incremental }: Surface): number {
  return cvr * (incremental + HALO);
}

function middleOf(worth: Float64Array): number {
  const known = worth.filter((value) => value > 0).sort();
  return known[known.length >> 1] ?? 1;
}
