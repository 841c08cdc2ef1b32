import { courseOfDay, seenOfDay } from "../bids/money-price";
import { worthsOf } from "../bids/worths";
import type { Ground } from "../moves/ground";
import { CAME } from "./overlap";
import { fitResponses, nextSales, salesAt, type Response, type ResponseDay } from "./response";
import { ceilingOf } from "./return-shares";
import { STOP_DAYS } from "./stop-days";

/** What a campaign spent and sold on a day, late orders allowed for. Money in mills. */
export interface CampaignDay {
  campaign: string;
  day: number;
  cost: number;
  sales: number;
  /** Hour with fraction at which its money was gone, or null. */
  dryAt: number | null;
}

/** What a campaign does with its money, a day over the last {@link STOP_DAYS} days of results. Money in mills. */
export interface CampaignReturn {
  key: string;
  response: Response;
  spent: number;
  sales: number;
  /** Full days at present bids, with money until midnight. */
  full: { cost: number; sales: number };
  dryDays: number;
  /** What is left after costs of a unit of sales that is new; null where no margin of its items is known. */
  margin: number | null;
  /** Share of its clicks on items that another running campaign serves too. */
  shared: number;
  /**
   * What the next unit of money brings at today's spend, or at what it used to spend where it spends nothing: in sales, and after
   * costs where these are known.
   */
  next: { sales: number; left: number | null };
  /** The spend a day at which it stops to pay; null where costs are not known. */
  ceiling: number | null;
  /** Sales a day that the same spend is expected to bring with lower bids all day instead of full ones until it runs dry. */
  evened: number;
}

/**
 * How orders of the shop on a day stand to those of its last days: what demand does by itself is not credited to money. 1 where
 * the shop's own report is not known.
 * @param orders of the shop by day, whatever they came from
 */
export function demandIndex(orders: ReadonlyMap<number, number>, last: number): (day: number) => number {
  const mean = (from: number, to: number) => {
    let [sum, days] = [0, 0];
    for (let day = from; day <= to; day++) {
      const found = orders.get(day);
      if (found === undefined) continue;
      sum += found;
      days++;
    }
    return days > 0 ? sum / days : null;
  };
  const now = mean(last - STOP_DAYS + 1, last);
  return (day) => {
    const around = mean(day - AROUND, day + AROUND);
    return now && around ? around / now : 1;
  };
}

/** Days on both sides that smooth a day's orders: a whole week together. */
const AROUND = 3;

/**
 * What each campaign's money brings and the next of it would (`docs/formulas.md` 9). Days that ran dry are entered as the full
 * days they would have been, by the share of it they lived to see; demand of the day is taken out.
 * @param orders of the shop by day
 * @param last the last day of results
 */
export function campaignReturns(
  ground: Ground,
  days: readonly CampaignDay[],
  orders: ReadonlyMap<number, number>,
  last: number,
): CampaignReturn[] {
  const course = courseOfDay(ground.hours, ground.purses);
  const demand = demandIndex(orders, last);
  const byCampaign = new Map<string, CampaignDay[]>();
  for (const day of days) {
    const own = byCampaign.get(day.campaign);
    if (own) own.push(day);
    else byCampaign.set(day.campaign, [day]);
  }
  const keys = [...byCampaign.keys()].filter((key) => ground.account.find("campaign", key));
  const entered = keys.map((key) =>
    byCampaign.get(key)!.flatMap(({ day, cost, sales, dryAt }): ResponseDay[] => {
      if (cost <= 0) return [];
      const weight = seenOfDay(dryAt, course);
      const scale = weight * demand(day);
      return [{ spend: cost / scale, sales: sales / scale, weight: weight * 0.5 ** ((last - day) / HALF_LIFE) }];
    }),
  );
  const margins = marginsOf(ground);
  // Where the workspace has fewer days of results, a day is the mean of those it has.
  const first = days.reduce((least, { day }) => Math.min(least, day), last);
  const length = Math.min(STOP_DAYS, last - first + 1);
  return fitResponses(entered).flatMap((response, i): CampaignReturn[] => {
    if (!response) return [];
    const key = keys[i]!;
    const lately = byCampaign.get(key)!.filter(({ day }) => day > last - STOP_DAYS);
    const full = { cost: 0, sales: 0 };
    let [spent, sales, dryDays] = [0, 0, 0];
    for (const one of lately) {
      const seen = seenOfDay(one.dryAt, course);
      spent += one.cost / length;
      sales += one.sales / length;
      full.cost += one.cost / seen / length;
      full.sales += one.sales / seen / length;
      if (one.dryAt !== null) dryDays++;
    }
    const { margin = null, shared = 0 } = margins.get(key) ?? {};
    const next = nextSales(response, spent > 0 ? spent : response.spend);
    const worth = margin === null ? null : margin * (1 - CAME * shared);
    return [
      {
        ...{ key, response, spent, sales, full, dryDays, margin, shared },
        next: { sales: next, left: worth === null ? null : worth * next },
        ceiling: worth === null ? null : ceilingOf({ response, worth }),
        evened: dryDays > 0 ? Math.max(0, salesAt(response, spent) - linear(response, spent)) : 0,
      },
    ];
  });
}

/** Seasons and bids move on: a day so many days back tells half as much. */
const HALF_LIFE = 45;

/** What a spend brings as a part of a full day as the campaign's days usually are. */
function linear(response: Response, spend: number): number {
  return spend >= response.spend
    ? salesAt(response, spend)
    : (spend / response.spend) * salesAt(response, response.spend);
}

/** Of each running campaign what a unit of its sales leaves, new ones only, and how far its items are served elsewhere too. */
export function marginsOf(ground: Ground): Map<string, { margin: number | null; shared: number }> {
  const worths = worthsOf(ground);
  const holders = new Map<number, number>();
  const rowsOf = new Map<string, Set<number>>();
  for (const { campaign, rows } of [...ground.homes, ...ground.aimed]) {
    const own = rowsOf.get(campaign.key) ?? new Set<number>();
    rowsOf.set(campaign.key, own);
    for (const row of rows) {
      if (own.has(row)) continue;
      own.add(row);
      holders.set(row, (holders.get(row) ?? 0) + 1);
    }
  }
  return new Map(
    [...rowsOf].map(([key, rows]) => {
      let [sales, left, clicks, both] = [0, 0, 0, 0];
      for (const row of rows) {
        const weight = ground.sums.clicks[row]! + 0.1;
        clicks += weight;
        if (holders.get(row)! > 1) both += weight;
        if (Number.isNaN(worths.left[row]!) || !Number.isFinite(worths.sales[row]!)) continue;
        sales += weight * worths.sales[row]!;
        left += weight * worths.left[row]!;
      }
      return [key, { margin: sales > 0 ? left / sales : null, shared: clicks > 0 ? both / clicks : 0 }];
    }),
  );
}
