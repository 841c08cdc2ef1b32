import type { Campaign } from "../account/records/campaign";
import { courseOfDay, fullDayCost } from "../bids/money-price";
import { worthsOf, type Worths } from "../bids/worths";
import { clock } from "../kit/clock";
import { plural } from "../kit/format";
import { formatMoney, wholeCents } from "../kit/money";
import type { Ground } from "../moves/ground";
import { between, type Move, type MoveAct } from "../moves/move";
import { marginsOf } from "./money-desk";
import { CAME } from "./overlap";

/** How a running campaign's money lasted over the last days. Money in mills a day. */
interface Purse {
  campaign: Campaign;
  full: number;
  spent: number;
  dryDays: number;
  /** Hour with fraction at which it ran dry on average; null where it never did. */
  dryAt: number | null;
  days: number;
}

/** A receiver gets a little more than full days cost, since some cost more. */
const HEADROOM = 1.1;
/** Later hours are not those that were seen: variance of their worth over it squared, however many orders there were. */
const LATER_UNSURE = 0.05;
/** Less than this a day is not worth a move, mills. */
const LEAST_MOVED = 200;

/**
 * Campaigns whose money is gone before the day is, while others have money that they never spend: as much of it as full days
 * need goes there, where the hours they lose are expected to bring more than they cost. What may be spent in all stays.
 */
export function dryCampaigns(ground: Ground): Move[] {
  const purses = pursesOf(ground);
  const spare = purses.flatMap((purse) => {
    const keeps = wholeCents(Math.ceil(purse.full * (1 + ground.rules.spareMoney / 100)));
    const free = purse.dryDays === 0 ? purse.campaign.dailyBudget - keeps : 0;
    return free >= LEAST_MOVED && !purse.campaign.pool ? [{ campaign: purse.campaign, free }] : [];
  });
  const worths = worthsOf(ground);
  const margins = marginsOf(ground);
  const moves: Move[] = [];
  const byNeed = purses
    .filter(
      ({ dryDays, campaign }) => dryDays >= ground.rules.dryDays && !campaign.pool && campaign.bidding !== "return",
    )
    .map((purse) => ({ purse, worth: worthOfMore(ground, worths, margins, purse) }))
    .filter(({ worth }) => worth !== null && worth.perCost > 1)
    .sort((a, b) => b.worth!.perCost - a.worth!.perCost);
  for (const { purse, worth } of byNeed) {
    const move = moveOf(ground, purse, worth!, spare);
    if (move) moves.push(move);
  }
  return moves;
}

function pursesOf({ account, purses, hours, homes, aimed }: Ground): Purse[] {
  const course = courseOfDay(hours, purses);
  const serving = new Set([...homes, ...aimed].map(({ campaign }) => campaign.key));
  const found = new Map<string, Purse>();
  for (const day of purses) {
    const campaign = account.find("campaign", day.campaign);
    if (campaign?.status !== "on" || !serving.has(campaign.key)) continue;
    const purse = found.get(campaign.key) ?? { campaign, full: 0, spent: 0, dryDays: 0, dryAt: null, days: 0 };
    found.set(campaign.key, purse);
    purse.full += fullDayCost(day, course);
    purse.spent += day.cost;
    purse.days++;
    if (day.dryAt === null) continue;
    purse.dryAt = ((purse.dryAt ?? 0) * purse.dryDays + day.dryAt) / (purse.dryDays + 1);
    purse.dryDays++;
  }
  return [...found.values()].map((purse) => ({
    ...purse,
    ...{ full: purse.full / purse.days, spent: purse.spent / purse.days },
  }));
}

/** What a unit of money more in a campaign's lost hours brings: sales, and what they leave after costs; its orders and clicks. */
interface MoreMoney {
  sales: number;
  perCost: number;
  orders: number;
  clicks: number;
  cpc: number;
}

function worthOfMore(
  ground: Ground,
  worths: Worths,
  margins: ReturnType<typeof marginsOf>,
  { campaign, dryAt }: Purse,
): MoreMoney | null {
  const lines = ground.slots.filter((line) => line.campaign === campaign.key);
  const sum = (of: "clicks" | "cost" | "orders" | "seenClicks") => lines.reduce((all, line) => all + line[of], 0);
  const [clicks, cost, orders] = [sum("clicks"), sum("cost"), sum("orders")];
  const own = margins.get(campaign.key);
  if (cost <= 0 || !own || own.margin === null) return null;
  // By evidence of its items, and how its own clicks did against that.
  const rows = new Set(
    [...ground.homes, ...ground.aimed]
      .filter((one) => one.campaign.key === campaign.key)
      .flatMap((one) => [...one.rows]),
  );
  let [weights, rate, brings] = [0, 0, 0];
  for (const row of rows) {
    const weight = ground.sums.clicks[row]! + 0.1;
    if (!Number.isFinite(worths.sales[row]!)) continue;
    weights += weight;
    rate += weight * ground.evidence.orderRate[row]!;
    brings += weight * worths.sales[row]!;
  }
  if (weights <= 0) return null;
  const patience = ground.rules.slotPatience;
  const factor = (orders + patience) / ((rate / weights) * sum("seenClicks") + patience);
  const late = dryAt === null ? 1 : laterHours(worths.hours, dryAt);
  const sales = ((brings / weights) * factor * late * clicks) / cost;
  return { sales, perCost: sales * own.margin * (1 - CAME * own.shared), orders, clicks, cpc: cost / clicks };
}

/** How hours after one stand to all, in what a click is worth. */
function laterHours(hours: readonly number[], from: number): number {
  const later = hours.slice(Math.min(23, Math.floor(from)));
  const mean = (list: readonly number[]) => list.reduce((sum, factor) => sum + factor, 0) / list.length;
  return hours.length === 24 ? mean(later) / mean(hours) : 1;
}

function moveOf(
  { currency, rules }: Ground,
  { campaign, full, spent, dryDays, dryAt, days }: Purse,
  { sales, perCost, orders, clicks, cpc }: MoreMoney,
  spare: { campaign: Campaign; free: number }[],
): Move | null {
  let need = wholeCents(full * HEADROOM - campaign.dailyBudget);
  const givers: { campaign: Campaign; mills: number }[] = [];
  for (const giver of spare) {
    const mills = 10 * Math.floor(Math.min(need, giver.free) / 10);
    if (mills < LEAST_MOVED) continue;
    giver.free -= mills;
    need -= mills;
    givers.push({ campaign: giver.campaign, mills });
  }
  const moved = givers.reduce((sum, { mills }) => sum + mills, 0);
  if (moved < LEAST_MOVED) return null;
  const more = Math.max(0, Math.min(moved, full - spent));
  const mean = more * (perCost - 1);
  const unsure = more * perCost * Math.sqrt(1 / (orders + rules.slotPatience) + LATER_UNSURE);
  const names = givers
    .map(({ campaign: { name }, mills }) => `${formatMoney(mills, currency)} of “${name}”`)
    .join(", ");
  return {
    ...{ key: `dry/${campaign.key}`, proposer: "dry", about: campaign.name, campaign: campaign.key },
    what: `Budget ${formatMoney(campaign.dailyBudget, currency)} → ${formatMoney(campaign.dailyBudget + moved, currency)}, from what others never spend: ${names}`,
    why: `It ran dry on ${plural(dryDays, "day")} of ${days}${dryAt === null ? "" : `, at about ${clock(dryAt)}`}; one more in those hours is expected to bring ${perCost.toFixed(2)} after costs`,
    acts: [adds(campaign.key, moved), ...givers.map(({ campaign: { key }, mills }) => adds(key, -mills))],
    ...{ amount: null, limitedBy: null, stands: { clicks, orders } },
    expected: {
      clicks: cpc > 0 ? more / cpc : 0,
      cost: more,
      revenue: more * sales,
      contribution: between(mean, unsure ** 2),
    },
    rows: [],
    touches: [`${campaign.key}/budget`, ...givers.map(({ campaign: { key } }) => `${key}/budget`)],
  };
}

const adds = (key: string, mills: number): MoveAct => ({ action: "budget", keys: [key], op: { how: "add", mills } });
