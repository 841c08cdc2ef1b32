import { AD_MEASURES } from "../kit/metrics";
import { binomial, poisson, type Random } from "../kit/random";
import { EXTRA_UNITS, type Fact, type Line, type PlacementFact } from "./day-types";
import { cvrBetween, hoursBetween } from "./hours";
import type { World } from "./world-types";

/** A fact that still knows its placement ("" outside partner media) and how far its sales are the ad's own doing. */
export type DrawnFact = Fact & { placement: string; incremental: number };

type Piece = Line & { buying: number };

/** Gathers the pieces of the day into one expected line per ad, surface and slot. */
export class Collector {
  /** Lines that stood the whole day, which most do: they need not be told apart. */
  private readonly whole: Line[][] = [];
  private readonly pieces = new Map<string, Piece>();
  /** Expected impressions by campaign and hour, by which draws are spread over the day. */
  readonly hourWeights: Map<string, Float64Array> = new Map();

  constructor(
    private readonly world: World,
    private readonly campaigns: { key: string }[],
  ) {}

  /** Adds the lines of a piece of the day, from one share of its traffic to another. */
  add(part: Line[], from: number, to: number): void {
    const share = to - from;
    if (share <= 0 || part.length === 0) return;
    const shown = new Float64Array(this.campaigns.length);
    for (const line of part) shown[line.campaign] = shown[line.campaign]! + line.impressions * share;
    this.addHours(shown, from, to);
    if (from <= 0 && to >= 1) {
      this.whole.push(part);
      return;
    }
    const buying = cvrBetween(from, to);
    for (const line of part) {
      const impressions = line.impressions * share;
      const key = `${line.homeId}/${line.row}/${line.slot}/${line.surface.id}/${line.bid}`;
      const found = this.pieces.get(key);
      if (found) {
        found.impressions += impressions;
        found.buying += impressions * buying;
      } else this.pieces.set(key, { ...line, impressions, buying: impressions * buying });
    }
  }

  private addHours(shown: Float64Array, from: number, to: number): void {
    const spread = hoursBetween(from, to);
    shown.forEach((impressions, c) => {
      if (impressions === 0) return;
      const key = this.campaigns[c]!.key;
      const weights = this.hourWeights.get(key) ?? new Float64Array(24);
      for (let hour = 0; hour < 24; hour++) {
        weights[hour] = weights[hour]! + spread[hour]! * impressions;
      }
      this.hourWeights.set(key, weights);
    });
  }

  /**
   * Draws counts from a generator, or gives expected values when there is none.
   * @param dry campaigns whose money is gone before the day: their day ends with the money and not with the clicks, so
   *   more are drawn than expected, of which {@link keepWithinPurses} keeps what is paid for
   */
  draw(random: Random | null, dry: Set<number> = new Set()): DrawnFact[] {
    const facts: DrawnFact[] = [];
    const more = random ? this.moreOf(dry) : new Map<number, number>();
    const put = (line: Line, cvr: number) => {
      const fact = this.drawLine(line, cvr, more.get(line.campaign) ?? 1, random);
      if (fact) facts.push(fact);
    };
    for (const part of this.whole) for (const line of part) put(line, line.cvr);
    for (const line of this.pieces.values()) {
      if (line.impressions > 0) put(line, Math.min(0.6, (line.cvr * line.buying) / line.impressions));
    }
    return facts;
  }

  /** By how much draws of dry campaigns go beyond what is expected: three standard deviations of their clicks. */
  private moreOf(dry: Set<number>): Map<number, number> {
    const clicks = new Map<number, number>();
    for (const line of [...this.whole.flat(), ...this.pieces.values()]) {
      if (!dry.has(line.campaign)) continue;
      clicks.set(line.campaign, (clicks.get(line.campaign) ?? 0) + line.impressions * line.ctr);
    }
    return new Map([...clicks].map(([campaign, count]) => [campaign, 1 + 3 / Math.sqrt(Math.max(0.5, count))]));
  }

  private drawLine(line: Line, cvr: number, more: number, random: Random | null): DrawnFact | null {
    const impressions = random ? poisson(random, line.impressions * more) : line.impressions;
    if (impressions <= 0) return null;
    const clicks = random ? binomial(random, impressions, line.ctr) : impressions * line.ctr;
    const orders = random ? binomial(random, clicks, cvr) : clicks * cvr;
    const units = orders + (random ? poisson(random, orders * EXTRA_UNITS) : orders * EXTRA_UNITS);
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
      cost: clicks * line.cpc,
      orders,
      units,
      revenue: units * this.world.truth.price[line.row]!,
      placement: isPlacement ? line.surface.label : "",
      incremental: line.surface.incremental,
    };
  }
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
  for (const { campaign, placement, impressions } of facts) {
    if (placement === "") continue;
    const key = `${campaign}\u001f${placement}`;
    const found = sums.get(key);
    if (found) found.impressions += impressions;
    else sums.set(key, { campaign, placement, impressions });
  }
  return [...sums.values()];
}
