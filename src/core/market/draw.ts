import { binomial, poisson, type Random } from "../kit/random";
import { EXTRA_UNITS, type Fact, type Line, type PlacementFact } from "./day-types";
import type { World } from "./world";

/** A fact that still knows its placement; "" outside partner media. */
export type DrawnFact = Fact & { placement: string };

/** Gathers the pieces of the day into one expected line per ad, surface and slot. */
export class Collector {
  private readonly lines = new Map<string, Line>();

  constructor(private readonly world: World) {}

  add(part: Line[], share: number): void {
    if (share <= 0) return;
    for (const line of part) {
      const key = `${line.home.group.group.key}\u001f${line.row}\u001f${line.slot}\u001f${line.surface.label}`;
      const found = this.lines.get(key);
      if (found) found.impressions += line.impressions * share;
      else this.lines.set(key, { ...line, impressions: line.impressions * share });
    }
  }

  /** Draws counts from a generator, or gives expected values when there is none. */
  draw(random: Random | null): DrawnFact[] {
    const facts: DrawnFact[] = [];
    for (const line of this.lines.values()) {
      const { campaign, adGroup, group } = line.home.group;
      const impressions = random ? poisson(random, line.impressions) : line.impressions;
      if (impressions === 0) continue;
      const clicks = random ? binomial(random, impressions, line.ctr) : impressions * line.ctr;
      const orders = random ? binomial(random, clicks, line.cvr) : clicks * line.cvr;
      const units = orders + (random ? poisson(random, orders * EXTRA_UNITS) : orders * EXTRA_UNITS);
      const isPlacement = line.surface.kind === "placement";
      facts.push({
        campaign: campaign.key,
        adGroup: adGroup.key,
        target: group.key,
        itemNo: this.world.itemNo[line.row] as number,
        term: isPlacement ? "" : line.surface.label,
        slot: line.slot,
        impressions,
        clicks,
        cost: clicks * line.cpc,
        orders,
        units,
        revenue: units * (this.world.truth.price[line.row] as number),
        placement: isPlacement ? line.surface.label : "",
      });
    }
    return facts;
  }
}

/** Partner media reports name no placement beside clicks, so the lines of one ad over all placements become one. */
export function mergePlacements(drawn: DrawnFact[]): Fact[] {
  const facts: Fact[] = [];
  const merged = new Map<string, Fact>();
  for (const { placement, ...fact } of drawn) {
    if (placement === "") {
      facts.push(fact);
      continue;
    }
    const key = `${fact.target}\u001f${fact.itemNo}`;
    const found = merged.get(key);
    if (!found) {
      merged.set(key, fact);
      facts.push(fact);
      continue;
    }
    for (const name of ["impressions", "clicks", "cost", "orders", "units", "revenue"] as const) {
      found[name] += fact[name];
    }
  }
  return facts;
}

/** Takes clicks back, in seeded order, from campaigns whose draws went over budget. */
export function keepWithinBudgets(
  facts: DrawnFact[],
  campaigns: { list: { key: string; budget: number }[] },
  random: Random,
): void {
  const byCampaign = new Map<string, DrawnFact[]>();
  for (const fact of facts) {
    if (fact.clicks === 0) continue;
    const list = byCampaign.get(fact.campaign);
    if (list) list.push(fact);
    else byCampaign.set(fact.campaign, [fact]);
  }
  for (const { key, budget } of campaigns.list) {
    const list = byCampaign.get(key) ?? [];
    let cost = list.reduce((sum, fact) => sum + fact.cost, 0);
    while (cost > budget && list.length > 0) {
      const at = Math.floor(random() * list.length);
      const fact = list[at] as DrawnFact;
      const cpc = fact.cost / fact.clicks;
      const price = fact.units > 0 ? fact.revenue / fact.units : 0;
      fact.clicks--;
      fact.cost -= cpc;
      cost -= cpc;
      if (fact.orders > fact.clicks) {
        const perOrder = fact.units / fact.orders;
        fact.orders = fact.clicks;
        fact.units = Math.round(perOrder * fact.orders);
        fact.revenue = fact.units * price;
      }
      if (fact.clicks === 0) {
        list[at] = list.at(-1) as DrawnFact;
        list.pop();
      }
    }
  }
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
