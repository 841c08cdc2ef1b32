import { formatDay, windowEnding, type Day, type Window } from "../kit/days";
import { formatShare, plural } from "../kit/format";
import { formatMoneyRound } from "../kit/money";
import { ordersMissing } from "../stocktake/faults/whole";
import type { StockDay } from "../stocktake/material";

/** Days that returns and spend are judged by, and those before that spend is held against. */
export const LATE_DAYS = 7;
export const USUAL_DAYS = 28;
/** Days in which a target turned, and those before in which it paid. */
export const TURN_DAYS = 14;
export const PAID_DAYS = 42;
/** Ends of an 80 % interval in standard deviations. */
const WITHIN = 1.2816;
/** With more orders expected than this, none at all comes in less than one of ten cases: −ln 0.1. */
const NONE_CAME = 2.303;
const HOUR = 3_600_000;

/** What can be watched: what it is called, how that reads before its limit, and where the limit begins. */
export const ALERTS = {
  tracking: {
    title: "Orders are no longer counted",
    label: "Orders are no longer counted",
    about: "Clicks go on as ever, and orders stop coming in a way that luck does not explain.",
    limit: null,
  },
  return: {
    title: "Return below its limit",
    label: "Return falls below",
    about: `Of the last ${LATE_DAYS} days with results, late orders reckoned in; only where luck does not explain it.`,
    limit: { unit: "× the goal", least: 0.05, most: 3, first: 0.8, step: 0.05 },
  },
  spend: {
    title: "Spend moved",
    label: "Spend a day moves by more than",
    about: `The last ${LATE_DAYS} days against the ${USUAL_DAYS} before.`,
    limit: { unit: "%", least: 5, most: 1000, first: 40, step: 5 },
  },
  dry: {
    title: "Campaigns out of money",
    label: "Campaigns out of money, at least",
    about: "Campaigns that stopped before the day was over on half of the last days.",
    limit: { unit: "campaigns", least: 1, most: 10_000, first: 1, step: 1 },
  },
  feed: {
    title: "Old feed",
    label: "The feed is older than",
    about: "Prices and stock that ads tell may be of yesterday.",
    limit: { unit: "hours", least: 1, most: 2000, first: 48, step: 1 },
  },
  homeless: {
    title: "Items without a home",
    label: "Items without a home, more than",
    about: "Items that no group serves and nobody chose to leave out.",
    limit: { unit: "items", least: 0, most: 1_000_000, first: 5, step: 1 },
  },
  "sold-out": {
    title: "Spend on sold-out items",
    label: "Spend on sold-out items, more than",
    about: `Share of the spend of the last ${LATE_DAYS} days on items that can't be bought now.`,
    limit: { unit: "%", least: 0, most: 100, first: 3, step: 0.5 },
  },
  turned: {
    title: "Rival pages that turned",
    label: "Rival pages that turned, at least",
    about: `Listings that reached the goal over ${PAID_DAYS} days, and fell short of it in the ${TURN_DAYS} after, both beyond luck.`,
    limit: { unit: "listings", least: 1, most: 10_000, first: 1, step: 1 },
  },
} as const satisfies Record<string, { title: string; label: string; about: string; limit: Limit | null }>;

/** What a limit is counted in, between which ends it lies, and where it begins. */
export interface Limit {
  unit: string;
  least: number;
  most: number;
  first: number;
  step: number;
}
export type AlertKind = keyof typeof ALERTS;
export const ALERT_KINDS = Object.keys(ALERTS) as AlertKind[];

/** The limit an alert begins with; null where it has none. */
export function firstLimit(kind: AlertKind): number | null {
  return ALERTS[kind].limit?.first ?? null;
}

/** What alerts are judged by. What nobody told is null, never nought. Money in mills. */
export interface AlertFacts {
  /** Milliseconds since 1970. */
  now: number;
  goal: number;
  currency: string;
  /** The last days with results, the oldest first; null where no report tells spend, sales or orders. */
  daily: readonly StockDay[] | null;
  /** When the oldest of the feeds was read; null without a feed. */
  feedReadAt: number | null;
  /** Campaigns that ran dry on half of the last days; null where no channel told. */
  dry: readonly string[] | null;
  homeless: number | null;
  soldOut: { items: number; cost: number; of: number } | null;
  /** Listings aimed at that paid and no longer do; null without a report by target. */
  turned: readonly string[] | null;
}

/** How an alert stands: it speaks up, is quiet, or can't be told. */
export interface AlertState {
  state: "speaks" | "quiet" | "unknown";
  /** A sentence: what it is about, or what is missing. */
  says: string;
}

const quiet = (says: string): AlertState => ({ state: "quiet", says });
const unknown = (says: string): AlertState => ({ state: "unknown", says });
const judged = (speaks: boolean, says: string): AlertState => ({ state: speaks ? "speaks" : "quiet", says });

const NO_DAYS = "No report tells spend, sales and orders by day.";

/** How an alert stands by what is known. */
export function judgeAlert(kind: AlertKind, limit: number | null, facts: AlertFacts): AlertState {
  return JUDGES[kind](limit ?? firstLimit(kind) ?? 0, facts);
}

const JUDGES: Record<AlertKind, (limit: number, facts: AlertFacts) => AlertState> = {
  tracking: (_, { daily }) => {
    if (!daily) return unknown(NO_DAYS);
    if (daily.length < 2 * LATE_DAYS) return unknown(`It takes ${2 * LATE_DAYS} days with results to tell.`);
    const found = ordersMissing(daily);
    if (!found) return quiet("Orders come in as clicks do.");
    const { from, orders, expected } = found;
    return judged(
      true,
      `Since ${formatDay(from)} clicks go on as ever and ${plural(Math.round(orders), "order")} came where ${Math.round(expected)} were to be expected.`,
    );
  },
  return: (limit, { daily, goal }) => {
    if (!daily) return unknown(NO_DAYS);
    const late = recent(daily, LATE_DAYS);
    if (!late) return unknown(`It takes ${LATE_DAYS} days with results to tell.`);
    const { cost, whole, orders } = late;
    if (cost <= 0) return unknown("Nothing was spent in these days.");
    const roas = whole / cost;
    const floor = limit * goal;
    // 80 % of a Poisson count lie within 1.28 of its root; where none came, 2.3 were to be expected at most, nine times of ten.
    const value = averageOrder(daily);
    if (orders === 0 && value === null)
      return unknown(`No order in ${daily.length} days, so the return can't be told.`);
    const high = orders > 0 ? roas * (1 + WITHIN / Math.sqrt(orders)) : (NONE_CAME * value!) / cost;
    const says = `Return ${roas.toFixed(2)} over the last ${LATE_DAYS} days; the limit is ${floor.toFixed(2)}, the goal ${goal}.`;
    return judged(high < floor, roas < floor && high >= floor ? `${says} Luck may explain it.` : says);
  },
  spend: (limit, { daily, currency }) => {
    if (!daily) return unknown(NO_DAYS);
    const late = recent(daily, LATE_DAYS);
    const before = recent(daily.slice(0, -LATE_DAYS), LATE_DAYS);
    if (!late || !before) return unknown(`It takes ${2 * LATE_DAYS} days with results to tell.`);
    const usual = recent(daily.slice(0, -LATE_DAYS), Math.min(USUAL_DAYS, daily.length - LATE_DAYS))!;
    const [now, then] = [late.cost / late.days, usual.cost / usual.days];
    if (then <= 0) return unknown("Nothing was spent before.");
    const moved = now / then - 1;
    const money = (mills: number) => formatMoneyRound(mills, currency);
    return judged(
      Math.abs(moved) * 100 > limit,
      `${money(now)} a day over the last ${LATE_DAYS} days, ${money(then)} over the ${usual.days} before: ${moved < 0 ? "−" : "+"}${Math.abs(moved * 100).toFixed(0)} %.`,
    );
  },
  dry: (limit, { dry }) =>
    dry === null
      ? unknown("No channel told when campaigns ran out of money.")
      : judged(
          dry.length >= limit,
          dry.length === 0
            ? "No campaign runs out of money before the day is over."
            : `${named(dry, "campaign")} ${dry.length === 1 ? "runs" : "run"} out of money before the day is over.`,
        ),
  feed: (limit, { feedReadAt, now }) => {
    if (feedReadAt === null) return unknown("There is no feed.");
    const hours = Math.max(0, (now - feedReadAt) / HOUR);
    return judged(hours > limit, `The feed was read ${plural(Math.floor(hours), "hour")} ago.`);
  },
  homeless: (limit, { homeless }) =>
    homeless === null
      ? unknown("Without a feed and campaigns nobody can tell what has a home.")
      : judged(homeless > limit, `${plural(homeless, "item")} without a home.`),
  "sold-out": (limit, { soldOut, currency }) => {
    if (soldOut === null) return unknown("No feed tells what can be bought, or no report tells spend by item.");
    const { items, cost, of } = soldOut;
    if (of <= 0) return unknown("Nothing was spent in these days.");
    return judged(
      (100 * cost) / of > limit,
      cost > 0
        ? `${plural(items, "item")} that can't be bought took ${formatMoneyRound(cost, currency)} of the last ${LATE_DAYS} days, ${formatShare(cost / of)} of the spend.`
        : "No money goes to items that can't be bought.",
    );
  },
  turned: (limit, { turned }) =>
    turned === null
      ? unknown("No report tells results by listing, or no listing is aimed at.")
      : judged(
          turned.length >= limit,
          turned.length === 0
            ? "No listing that paid has turned."
            : `${named(turned, "listing")} paid and no longer ${turned.length === 1 ? "does" : "do"}.`,
        ),
};

/** Names that a sentence tells. */
const MOST_NAMES = 3;

function named(names: readonly string[], what: string): string {
  const some = names.slice(0, MOST_NAMES).join(", ");
  return names.length > MOST_NAMES ? `${plural(names.length, what)} (${some}, …)` : some;
}

/** Sums of the last days; sales grossed up to what will have come in of them. Null where there are not so many. */
function recent(
  daily: readonly StockDay[],
  days: number,
): { days: number; cost: number; whole: number; orders: number } | null {
  if (days <= 0 || daily.length < days) return null;
  const late = daily.slice(-days);
  const sum = (of: (day: StockDay) => number) => late.reduce((all, day) => all + of(day), 0);
  const seen = sum(({ seenClicks }) => seenClicks);
  const grossed = seen > 0 ? sum(({ clicks }) => clicks) / seen : 1;
  return {
    ...{ days, cost: sum(({ cost }) => cost), orders: sum(({ orders }) => orders) },
    whole: sum(({ revenue }) => revenue) * grossed,
  };
}

/** What an order brings on average; null where none came. */
function averageOrder(daily: readonly StockDay[]): number | null {
  const sum = (of: "revenue" | "orders") => daily.reduce((all, day) => all + day[of], 0);
  return sum("orders") > 0 ? sum("revenue") / sum("orders") : null;
}

/** The days whose results alerts are judged by: twice as many as orders are looked for in, and as spend needs. */
export function daysOfAlerts(last: Day): Window {
  return windowEnding(last, TURN_DAYS + PAID_DAYS);
}
