import type { Day } from "../kit/days";
import { randomFrom } from "../kit/random";
import type { ServingGroup } from "../planogram/homes";
import { clickPrice, SHARPNESS, winChance } from "./auction";
import type { DayOptions, DayResult, Home, Line } from "./day-types";
import { demandFactor } from "./demand";
import { Collector, keepWithinBudgets, mergePlacements, placementFacts } from "./draw";
import { learn, learnedBid, type Learned } from "./learning";
import { hourAtShare, SLOTS, type Slot } from "./slots";
import { storeSales } from "./store-sales";
import type { Category, Surface, World } from "./world";

/** An ad with a smaller share of a surface's views than this is left out: it would see a view in years. */
const LEAST_SHARE = 0.012;
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
