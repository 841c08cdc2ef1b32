import type { Day } from "../kit/days";
import { categoryLines } from "./category-lines";
import { daypartsOf, type Dayparts } from "./dayparts";
import type { Line } from "./day-types";
import type { Collector } from "./draw";
import type { Pressure } from "./answer";
import { hoursBetween } from "./hours";
import type { Luck } from "./luck";
import type { Offers } from "./offers";
import type { MarketAccount } from "./running-account";
import type { Category, World } from "./world-types";

/** A category's auctions as they stand in one daypart, for how much of the day, and what they spend. */
interface Standing {
  lines: Line[];
  /** Mills a whole day like this would cost, by campaign. */
  rates: Map<number, number>;
  /** Shares of the day's traffic, by hour, for which they stood. */
  hours: Float64Array;
}

/**
 * The day of one category: its auctions are worked out once for every daypart, and again only when a campaign of it has
 * run dry.
 */
export class CategoryDay {
  private readonly members: number[];
  private readonly parts: Dayparts;
  private readonly standings = new Map<number, Standing>();

  constructor(
    private readonly world: World,
    private readonly account: MarketAccount,
    private readonly offers: Offers,
    private readonly category: Category,
    index: number,
    private readonly day: Day,
    private readonly pressure: Pressure,
    private readonly luck: Luck | null,
  ) {
    this.members = [...account.campaignsOf[index]!];
    this.parts = daypartsOf(this.members.map((c) => account.campaigns[c]!.hours));
  }

  /** Whether other bids count from this hour on than in the one before. */
  changesAt(hour: number): boolean {
    return hour > 0 && this.parts.of[hour] !== this.parts.of[hour - 1];
  }

  has(campaigns: Set<number>): boolean {
    return this.members.some((c) => campaigns.has(c));
  }

  /** How the auctions stand in an hour. @param active by campaign: whether it still has money */
  at(hour: number, active: boolean[]): Standing {
    const part = this.parts.of[hour]!;
    const found = this.standings.get(part);
    if (found) return found;
    const hourFactor = this.account.campaigns.map(() => 1);
    this.members.forEach((c, i) => (hourFactor[c] = this.parts.factors[part]![i]!));
    const moment = { day: this.day, active, hourFactor, pressure: this.pressure, luck: this.luck };
    const lines = categoryLines(this.world, this.account, this.offers, this.category, moment);
    const made = { lines, rates: ratesOf(lines), hours: new Float64Array(24) };
    this.standings.set(part, made);
    return made;
  }

  /** Hands over what stood so far, and forgets it: from here on the auctions go otherwise. */
  handOver(collected: Collector): void {
    for (const { lines, hours } of this.standings.values()) collected.add(lines, hours);
    this.standings.clear();
  }
}

function ratesOf(lines: Line[]): Map<number, number> {
  const rates = new Map<number, number>();
  for (const { campaign, impressions, ctr, cpc } of lines) {
    rates.set(campaign, (rates.get(campaign) ?? 0) + impressions * ctr * cpc);
  }
  return rates;
}

/** All categories of a day as it passes: how they stand now, and what each campaign spends in a day like this. */
export class PassingDay {
  /** Mills a day by campaign, as things stand. */
  readonly rates: number[];
  private readonly now: (Standing | null)[];

  constructor(
    private readonly categories: CategoryDay[],
    private readonly active: boolean[],
    private readonly collected: Collector,
  ) {
    this.rates = active.map(() => 0);
    this.now = categories.map(() => null);
    categories.forEach((_, i) => this.stand(i, 0));
  }

  private stand(i: number, hour: number): void {
    for (const [c, rate] of this.now[i]?.rates ?? []) this.rates[c] = this.rates[c]! - rate;
    const next = this.categories[i]!.at(hour, this.active);
    this.now[i] = next;
    for (const [c, rate] of next.rates) this.rates[c] = this.rates[c]! + rate;
  }

  /** Lets a stretch of the day pass, between two shares of its traffic. */
  pass(from: number, to: number): void {
    if (to <= from) return;
    const spread = hoursBetween(from, to);
    for (const standing of this.now) {
      for (let hour = 0; hour < 24; hour++)
        standing!.hours[hour] = standing!.hours[hour]! + spread[hour]! * (to - from);
    }
  }

  /** An hour begins: other bids may count. */
  begin(hour: number): void {
    this.categories.forEach((category, i) => {
      if (category.changesAt(hour)) this.stand(i, hour);
    });
  }

  /** Campaigns have run dry: what they took part in goes on without them. */
  runDry(campaigns: Set<number>, hour: number): void {
    for (const c of campaigns) this.active[c] = false;
    this.categories.forEach((category, i) => {
      if (!category.has(campaigns)) return;
      category.handOver(this.collected);
      this.stand(i, hour);
    });
  }

  end(): void {
    for (const category of this.categories) category.handOver(this.collected);
  }
}
