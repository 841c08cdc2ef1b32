import { AD_MEASURES } from "../kit/metrics";
import { binomial, poisson, type Random } from "../kit/random";
import { boughtAfter, reportedValue } from "./bought-instead";
import { LEAST_CPC } from "./auction";
import type { Fact, Line, PlacementFact } from "./day-types";
import type { World } from "./world-types";

/**
 * A fact that still knows its catalogue row and the row that was bought (-1 for expected orders, which are of several), its
 * placement ("" outside partner media), how far its sales are the ad's own doing, and the hours' factor on its bid.
 */
export type DrawnFact = Fact & {
  row: number;
  boughtRow: number;
  placement: string;
  incremental: number;
  hourFactor: number;
};

/** Lines that stood for a share of the day, and how readily people bought in it. */
interface Piece {
  part: Line[];
  share: number;
  /** By slot. */
  buying: number[];
}

/** Expected views by hour, by campaign and the hours' factor on its bids: by them draws are spread over the day. */
export type HourWeights = Map<string, Map<number, Float64Array>>;

/** Nobody buys more often than this, whatever the hour. */
const MOST_CVR = 0.6;

/** Gathers the lines of the day and draws what comes of them. */
export class Collector {
  private readonly pieces: Piece[] = [];
  readonly weights: HourWeights = new Map();

  constructor(
    private readonly world: World,
    private readonly campaigns: { key: string }[],
  ) {}

  /** Adds lines that stood for some of the day. @param hours shares of the day's traffic, by hour */
  add(part: Line[], hours: Float64Array): void {
    const share = hours.reduce((sum, of) => sum + of, 0);
    if (share <= 0 || part.length === 0) return;
    this.addHours(part, hours);
    const buying = this.world.buyingByHour.map(
      (byHour) => hours.reduce((sum, of, hour) => sum + of * byHour[hour]!, 0) / share,
    );
    this.pieces.push({ part, share, buying });
  }

  private addHours(part: Line[], hours: Float64Array): void {
    const shown = new Map<number, { factor: number; impressions: number }>();
    for (const { campaign, hourFactor, impressions } of part) {
      const sum = shown.get(campaign);
      if (sum) sum.impressions += impressions;
      else shown.set(campaign, { factor: hourFactor, impressions });
    }
    for (const [c, { factor, impressions }] of shown) {
      const key = this.campaigns[c]!.key;
      const own = this.weights.get(key) ?? new Map<number, Float64Array>();
      const sums = own.get(factor) ?? new Float64Array(24);
      for (let hour = 0; hour < 24; hour++) sums[hour] = sums[hour]! + hours[hour]! * impressions;
      this.weights.set(key, own.set(factor, sums));
    }
  }

  /**
   * Draws counts from a generator, or gives expected values when there is none.
   * @param dry campaigns whose money is gone before the day: their day ends with the money and not with the clicks, so
   *   more are drawn than expected, of which {@link keepWithinPurses} keeps what is paid for
   */
  draw(random: Random | null, dry: Set<number> = new Set()): DrawnFact[] {
    const facts: DrawnFact[] = [];
    const more = random ? this.moreOf(dry) : new Map<number, number>();
    for (const { part, share, buying } of this.pieces) {
      for (const line of part) {
        this.drawLine(line, share, buying[line.slot]!, more.get(line.campaign) ?? 1, random, facts);
      }
    }
    return facts;
  }

  /** By how much draws of dry campaigns go beyond what is expected: three standard deviations of their clicks. */
  private moreOf(dry: Set<number>): Map<number, number> {
    const clicks = new Map<number, number>();
    for (const { part, share } of this.pieces) {
      for (const line of part) {
        if (!dry.has(line.campaign)) continue;
        clicks.set(line.campaign, (clicks.get(line.campaign) ?? 0) + line.impressions * share * line.ctr);
      }
    }
    return new Map([...clicks].map(([campaign, count]) => [campaign, 1 + 3 / Math.sqrt(Math.max(0.5, count))]));
  }

  private drawLine(
    line: Line,
    share: number,
    buying: number,
    more: number,
    random: Random | null,
    facts: DrawnFact[],
  ): void {
    const { world } = this;
    const expected = line.impressions * share;
    const cvr = Math.min(MOST_CVR, line.cvr * buying);
    if (!random) {
      if (expected <= 0) return;
      const clicks = expected * line.ctr;
      const orders = clicks * cvr;
      const units = orders * this.unitsAfter(line.row);
      const revenue = orders * this.reportedAfter(line.row);
      facts.push(this.factOf(line, expected, clicks, clicks * line.cpc, orders, units, revenue, -1));
      return;
    }
    const impressions = poisson(random, expected * more);
    if (impressions <= 0) return;
    const clicks = binomial(random, impressions, line.ctr);
    const cost = costOf(random, clicks, line);
    const orders = binomial(random, clicks, cvr);
    let [viewsLeft, clicksLeft, costLeft, ordersLeft] = [impressions, clicks, cost, orders];
    if (orders > 0 && world.nature.elsewhere > 0) {
      // Orders of another item stand in a fact of their own, with the clicks that led to them.
      for (const { row, share: likely } of boughtAfter(world, line.row).slice(1)) {
        const own = Math.min(ordersLeft, binomial(random, orders, likely));
        if (own === 0) continue;
        const paid = Math.floor((cost * own) / clicks);
        facts.push(this.boughtFact(random, line, row, own, own, paid, own));
        viewsLeft -= own;
        clicksLeft -= own;
        costLeft -= paid;
        ordersLeft -= own;
      }
    }
    if (viewsLeft > 0) {
      facts.push(this.boughtFact(random, line, line.row, viewsLeft, clicksLeft, costLeft, ordersLeft));
    }
  }

  /** A drawn fact whose orders are all of one row. */
  private boughtFact(
    random: Random,
    line: Line,
    row: number,
    impressions: number,
    clicks: number,
    cost: number,
    orders: number,
  ): DrawnFact {
    const { truth } = this.world;
    const units = orders === 0 ? 0 : orders + poisson(random, orders * truth.extraUnits[row]!);
    return this.factOf(line, impressions, clicks, cost, orders, units, units * truth.price[row]!, row);
  }

  private readonly units = new Map<number, number>();
  private readonly reported = new Map<number, number>();

  /** Units of an expected order after a click on a row. */
  private unitsAfter(row: number): number {
    const { truth } = this.world;
    return remembered(this.units, row, () =>
      boughtAfter(this.world, row).reduce((sum, { row: of, share }) => sum + share * (1 + truth.extraUnits[of]!), 0),
    );
  }

  private reportedAfter(row: number): number {
    return remembered(this.reported, row, () => reportedValue(this.world, row));
  }

  private factOf(
    line: Line,
    impressions: number,
    clicks: number,
    cost: number,
    orders: number,
    units: number,
    revenue: number,
    boughtRow: number,
  ): DrawnFact {
    const isPlacement = line.surface.kind === "placement";
    return {
      campaign: this.campaigns[line.campaign]!.key,
      adGroup: line.adGroup,
      target: line.target,
      itemNo: this.world.itemNo[line.row]!,
      term: isPlacement ? "" : line.surface.label,
      slot: line.slot,
      impressions,
      clicks,
      cost,
      orders,
      units,
      revenue,
      row: line.row,
      boughtRow,
      placement: isPlacement ? line.surface.label : "",
      incremental: line.surface.incremental,
      hourFactor: line.hourFactor,
    };
  }
}

function remembered(known: Map<number, number>, row: number, make: () => number): number {
  const found = known.get(row);
  if (found !== undefined) return found;
  const made = make();
  known.set(row, made);
  return made;
}

/**
 * What some clicks of a line cost together, in whole mills. Each costs what the second had bid in its own auction: evenly
 * as far above the line's mean as below it, between the market's floor and the bid.
 */
function costOf(random: Random, clicks: number, { bid, cpc }: Line): number {
  const reach = Math.max(0, Math.min(bid - cpc, cpc - LEAST_CPC));
  let cost = 0;
  for (let i = 0; i < clicks; i++) cost += reach === 0 ? cpc : cpc - reach + Math.floor((2 * reach + 1) * random());
  return cost;
}

/**
 * The facts as reports give them: one line for each campaign, ad group, target, item, term and slot. Partner media
 * reports name no placement beside clicks, so the lines of one ad over all placements become one.
 */
export function mergeFacts(drawn: Fact[]): Fact[] {
  const merged = new Map<string, Fact>();
  for (const drawnFact of drawn) {
    const { campaign, adGroup, target, itemNo, term, slot } = drawnFact;
    const key = `${target}\u001f${itemNo}\u001f${term}\u001f${slot}\u001f${adGroup}`;
    const found = merged.get(key);
    if (found) {
      for (const name of AD_MEASURES) found[name] += drawnFact[name];
      continue;
    }
    const { impressions, clicks, cost, orders, units, revenue } = drawnFact;
    const counts = { impressions, clicks, cost, orders, units, revenue };
    merged.set(key, { campaign, adGroup, target, itemNo, term, slot, ...counts });
  }
  return [...merged.values()];
}

export function placementFacts(facts: DrawnFact[]): PlacementFact[] {
  const sums = new Map<string, PlacementFact>();
  for (const fact of facts) {
    const { campaign, placement, impressions, clicks, cost, orders, units, revenue } = fact;
    if (placement === "") continue;
    const key = `${campaign}\u001f${placement}`;
    const found = sums.get(key);
    if (found) for (const name of AD_MEASURES) found[name] += fact[name];
    else sums.set(key, { campaign, placement, impressions, clicks, cost, orders, units, revenue });
  }
  return [...sums.values()];
}
