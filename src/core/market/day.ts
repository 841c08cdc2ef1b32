import type { Day } from "../kit/days";
import { binomial, poisson, randomFrom, type Random } from "../kit/random";
import type { ServingGroup } from "../planogram/homes";
import { clickPrice, SHARPNESS, winChance } from "./auction";
import { demandFactor } from "./demand";
import { learn, learnedBid, type Learned } from "./learning";
import { hourAtShare, SLOTS, type Slot } from "./slots";
import type { Category, Surface, World } from "./world";

/** One line of a day's report at full grain. Money in mills. */
export interface Fact {
  campaign: string;
  adGroup: string;
  /** The product group that served. */
  target: string;
  itemNo: number;
  /** The search term or page; "" in partner media, whose report names no term. */
  term: string;
  slot: number;
  impressions: number;
  clicks: number;
  cost: number;
  orders: number;
  units: number;
  revenue: number;
}

export interface PlacementFact {
  campaign: string;
  placement: string;
  impressions: number;
}

export interface StoreFact {
  itemNo: number;
  orders: number;
  units: number;
  revenue: number;
}

export interface CampaignDay {
  campaign: string;
  budget: number;
  cost: number;
  /** Hour (with fraction) at which the budget was gone, or null. */
  dryAt: number | null;
}

export interface DayResult {
  facts: Fact[];
  placements: PlacementFact[];
  store: StoreFact[];
  campaigns: CampaignDay[];
  learned: Learned;
}

export interface DayOptions {
  /** Counts drawn at random (true) or expected values without noise (false), the truth for tests and judgement. */
  noise: boolean;
  /** Names the draws; the world has its own seed. */
  seed: string;
}

/** A home of a row: the serving group and the bid it makes for that row today. */
interface Home {
  group: ServingGroup;
  campaign: number;
  bid: number;
}

/** What one ad gets from one surface and slot in a whole day at the present state of the auctions. */
interface Line {
  surface: Surface;
  slot: number;
  row: number;
  home: Home;
  impressions: number;
  ctr: number;
  cvr: number;
  cpc: number;
}

/** Units an order beyond the first, on average. */
const EXTRA_UNITS = 0.15;
/** An ad with a smaller share of a surface's views than this is left out: it would see a view in years. */
const LEAST_SHARE = 0.012;
/** Store orders without ads gained for each ad order: shoppers come back, and tell others. */
const HALO = 0.08;

/**
 * Runs one day. Budgets run out in the course of it: the day is cut where a campaign has spent its budget, and from
 * there on the next home in serve order serves.
 */
export function simulateDay(
  world: World,
  serving: ServingGroup[],
  day: Day,
  learned: Learned,
  options: DayOptions,
): DayResult {
  const campaigns = campaignsOf(serving);
  const homes = homesByRow(world, serving, campaigns.index, learned);
  const active = campaigns.list.map(({ budget }) => budget > 0);
  const spent = campaigns.list.map(() => 0);
  const dryAt: (number | null)[] = campaigns.list.map(() => null);
  const lines = world.categories.map((category) => categoryLines(world, category, day, homes, active));
  const categoriesOf = campaigns.list.map((_, c) =>
    [...lines.keys()].filter((i) => world.categories[i]!.rows.some((row) => homes[row]?.some((h) => h.campaign === c))),
  );
  const collected = new Collector(world);
  // From which share of the day on each category's lines have stood as they are.
  const since = lines.map(() => 0);
  let passed = 0;
  for (let guard = 0; guard <= campaigns.list.length; guard++) {
    const rate = spendRates(lines, campaigns.list.length);
    let nextDry = -1;
    let share = 1 - passed;
    rate.forEach((perDay, c) => {
      const until = perDay > 0 ? (campaigns.list[c]!.budget - (spent[c] as number)) / perDay : Infinity;
      if (active[c] && until < share) [nextDry, share] = [c, Math.max(0, until)];
    });
    rate.forEach((perDay, c) => (spent[c] = (spent[c] as number) + perDay * share));
    passed += share;
    if (nextDry < 0) break;
    active[nextDry] = false;
    dryAt[nextDry] = hourAtShare(passed);
    for (const i of categoriesOf[nextDry] as number[]) {
      collected.add(lines[i] as Line[], passed - (since[i] as number));
      since[i] = passed;
      lines[i] = categoryLines(world, world.categories[i]!, day, homes, active);
    }
  }
  lines.forEach((part, i) => collected.add(part, 1 - (since[i] as number)));
  const drawn = collected.draw(options.noise ? randomFrom(options.seed, world.seed, "day", day) : null);
  if (options.noise) keepWithinBudgets(drawn, campaigns, randomFrom(options.seed, world.seed, "order", day));
  const facts = mergePlacements(drawn);
  return {
    facts,
    placements: placementFacts(drawn),
    store: storeSales(world, facts, day, options),
    campaigns: campaigns.list.map(({ key, budget }, c) => ({
      campaign: key,
      budget,
      cost: facts.reduce((sum, fact) => (fact.campaign === key ? sum + fact.cost : sum), 0),
      dryAt: dryAt[c] as number | null,
    })),
    learned: learn(learned, facts),
  };
}

function campaignsOf(serving: ServingGroup[]) {
  const index = new Map<string, number>();
  const list: { key: string; budget: number }[] = [];
  for (const { campaign } of serving) {
    if (index.has(campaign.key)) continue;
    index.set(campaign.key, list.length);
    list.push({ key: campaign.key, budget: campaign.dailyBudget });
  }
  return { index, list };
}

/** The homes of every row, first to serve first: by serve order, then the higher bid, then the key. */
function homesByRow(world: World, serving: ServingGroup[], index: Map<string, number>, learned: Learned) {
  const homes: Home[][] = [];
  for (const group of serving) {
    const { key, bidding, goal } = group.campaign;
    const campaign = index.get(key) as number;
    for (const row of group.rows) {
      const no = world.itemNo[row] as number;
      const bid = bidding === "return" && goal ? learnedBid(learned, key, no, group.bid, goal) : group.bid;
      (homes[row] ??= []).push({ group, campaign, bid });
    }
  }
  for (const list of homes) {
    list?.sort(
      (a, b) =>
        a.group.campaign.serveOrder - b.group.campaign.serveOrder ||
        b.bid - a.bid ||
        (a.group.group.key < b.group.group.key ? -1 : 1),
    );
  }
  return homes;
}

/** The auctions of one category for a whole day, with the campaigns that still have budget. */
function categoryLines(world: World, category: Category, day: Day, homes: Home[][], active: boolean[]): Line[] {
  const lines: Line[] = [];
  const current = category.rows.map((row) => homes[row]?.find((home) => active[home.campaign] && home.bid > 0));
  if (current.every((home) => home === undefined)) return lines;
  const demand = demandFactor(world, category, day);
  const power = new Float64Array(category.rows.length);
  for (const surface of category.surfaces) {
    let sum = 0;
    category.rows.forEach((row, i) => {
      const home = current[i];
      const score = home ? home.bid * (world.truth.quality[row] as number) * (surface.fit[i] as number) : 0;
      power[i] = score ** SHARPNESS;
      sum += power[i] as number;
    });
    if (sum === 0) continue;
    const logBest = Math.log(sum) / SHARPNESS;
    let wonAbove = 0;
    for (const slotIndex of slotsOf(surface)) {
      const slot = SLOTS[slotIndex] as Slot;
      const mean = surface.rivalMean + slot.hardness;
      const won = winChance(logBest, mean, surface.rivalSpread);
      // One ad of an advertiser an auction: who stands in the lead row does not stand below it again.
      const views = surface.volume * demand * slot.seen * Math.max(0, won - wonAbove);
      wonAbove = won;
      category.rows.forEach((row, i) => {
        const share = (power[i] as number) / sum;
        if (share < LEAST_SHARE) return;
        const home = current[i] as Home;
        const quality = world.truth.quality[row] as number;
        lines.push({
          surface,
          slot: slotIndex,
          row,
          home,
          impressions: views * share,
          ctr: Math.min(0.5, slot.ctr * surface.ctr * Math.sqrt(quality)),
          cvr: Math.min(0.5, (world.truth.cvr[row] as number) * surface.cvr * slot.cvr) * world.truth.inStock[row]!,
          cpc: clickPrice(home.bid, quality * (surface.fit[i] as number), mean, surface.rivalSpread),
        });
      });
    }
  }
  return lines;
}

const QUERY_SLOTS = [0, 1];
const PAGE_SLOTS = [2];
const PLACEMENT_SLOTS = [3];

function slotsOf(surface: Surface): number[] {
  return surface.kind === "query" ? QUERY_SLOTS : surface.kind === "page" ? PAGE_SLOTS : PLACEMENT_SLOTS;
}

function spendRates(lines: Line[][], campaigns: number): number[] {
  const rates = new Array<number>(campaigns).fill(0);
  for (const part of lines) {
    for (const { home, impressions, ctr, cpc } of part) {
      rates[home.campaign] = (rates[home.campaign] as number) + impressions * ctr * cpc;
    }
  }
  return rates;
}

/** A fact that still knows its placement; "" outside partner media. */
type DrawnFact = Fact & { placement: string };

/** Gathers the pieces of the day into one expected line per ad, surface and slot. */
class Collector {
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
function mergePlacements(drawn: DrawnFact[]): Fact[] {
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
function keepWithinBudgets(
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

function placementFacts(facts: DrawnFact[]): PlacementFact[] {
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

/** All sales of the shop: what came without ads (lifted a little by them) and what came from ads. */
function storeSales(world: World, facts: Fact[], day: Day, options: DayOptions): StoreFact[] {
  const byItem = new Map<number, StoreFact>();
  for (const fact of facts) {
    if (fact.orders === 0) continue;
    const found = byItem.get(fact.itemNo) ?? { itemNo: fact.itemNo, orders: 0, units: 0, revenue: 0 };
    found.orders += fact.orders;
    found.units += fact.units;
    found.revenue += fact.revenue;
    byItem.set(fact.itemNo, found);
  }
  const random = options.noise ? randomFrom(options.seed, world.seed, "store", day) : null;
  for (const category of world.categories) {
    const demand = demandFactor(world, category, day);
    for (const row of category.rows) {
      const itemNo = world.itemNo[row] as number;
      const fromAds = byItem.get(itemNo);
      const mean =
        world.truth.inStock[row]! * ((world.truth.organic[row] as number) * demand + HALO * (fromAds?.orders ?? 0));
      const orders = random ? poisson(random, mean) : mean;
      if (orders === 0 && !fromAds) continue;
      const units = orders + (random ? poisson(random, orders * EXTRA_UNITS) : orders * EXTRA_UNITS);
      const found = fromAds ?? { itemNo, orders: 0, units: 0, revenue: 0 };
      found.orders += orders;
      found.units += units;
      found.revenue += units * (world.truth.price[row] as number);
      byItem.set(itemNo, found);
    }
  }
  return [...byItem.values()].filter((fact) => fact.orders > 0);
}
