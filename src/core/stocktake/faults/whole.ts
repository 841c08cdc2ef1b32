import { poissonTail } from "../../exclusions/false-alarms";
import { plural } from "../../kit/format";
import { formatDay } from "../../kit/days";
import type { Found } from "../finding";
import { tellsReturns, wholeOf, type Material, type StockDay, type StockLine } from "../material";
import { say } from "../phrase";
import { aMonth, isWorthTelling, MONTH, refOf, sharesOf, standsOn } from "./lost";

/** The whole against its goal: below it only where luck does not explain that. */
export function belowGoal(material: Material): Found[] {
  const { total, goal, missing } = material;
  if (missing.includes("revenue") || missing.includes("cost") || total.cost <= 0) return [];
  const roas = total.revenue / total.cost;
  // Orders differ from day to day by luck: 80 % of a Poisson count lie within 1.28 of its root.
  const unsure = total.orders > 0 ? 1.28 / Math.sqrt(total.orders) : 1;
  if (roas * (1 + 2 * unsure) >= goal) return [];
  const at = (factor: number) => aMonth(total.cost - (total.revenue * factor) / goal, material);
  return [
    {
      ...{ key: "below-goal", fault: "below-goal" as const, about: [] },
      says: say`${{ money: aMonth(total.cost, material) }} a month return ${{ ratio: roas }} where the goal is ${{ ratio: goal }}.`,
      month: { mean: at(1), low: at(1 + unsure), high: at(1 - unsure) },
      money: "lost",
      stands: { clicks: total.clicks, orders: total.orders, cost: total.cost },
      mend: { by: "place", path: "moves", words: "Open Moves" },
    },
  ];
}

/** Days at the end that are looked at for orders that stopped, and the chance below which luck is no explanation. */
const MOST_STOPPED = 21;
const LEAST_CHANCE = 1e-5;
/** Clicks a day below this share of the usual are fewer clicks, not missing orders. */
const AS_EVER = 0.5;
/** Below this share of the orders that were to be expected something is broken, not merely weak. */
const BROKEN = 0.25;

/** Since which day orders are missing while clicks went on: as if they were no longer counted. Null where they are not. */
export function ordersMissing(
  daily: readonly StockDay[],
): { from: number; orders: number; expected: number; cost: number } | null {
  let least = LEAST_CHANCE;
  let found: { from: number; orders: number; expected: number; cost: number } | null = null;
  for (let length = 2; length <= Math.min(MOST_STOPPED, Math.floor(daily.length / 2)); length++) {
    const [before, late] = [daily.slice(0, -length), daily.slice(-length)];
    const sum = (days: readonly StockDay[], of: keyof StockDay) => days.reduce((all, day) => all + day[of], 0);
    const usual = sum(before, "orders") / sum(before, "seenClicks");
    const expected = usual * sum(late, "seenClicks");
    const orders = sum(late, "orders");
    const isAsEver = sum(late, "clicks") / length >= (AS_EVER * sum(before, "clicks")) / before.length;
    if (!(expected > 0) || !isAsEver || orders > BROKEN * expected) continue;
    const chance = poissonTail(Math.floor(orders), expected);
    // The day from which on it is least like luck.
    if (chance >= least) continue;
    least = chance;
    found = { from: late[0]!.day, orders, expected, cost: sum(late, "cost") };
  }
  return found;
}

/** Orders that stopped being counted. What comes after is judged on broken counts, so nothing weighs more. */
export function trackingBroken(material: Material): Found[] {
  const found = ordersMissing(material.daily);
  if (!found) return [];
  const { from, orders, expected, cost } = found;
  const days = material.daily.filter(({ day }) => day >= from).length;
  const month = (cost / days) * MONTH;
  return [
    {
      ...{ key: "tracking", fault: "tracking" as const, about: [] },
      says: say`Since ${formatDay(from)} clicks go on as ever and ${plural(Math.round(orders), "order")} came where ${String(Math.round(expected))} were to be expected: look whether orders are still counted before anything is judged by them.`,
      month: { mean: month, low: month, high: month },
      money: "spent",
      stands: { clicks: 0, orders: Math.round(orders), cost },
      mend: { by: "others", who: "shop", words: "Have the counting of orders looked at" },
    },
  ];
}

/** Share of the spend from which a few lines are much, and how much less of the sales they bring. */
const MUCH = 0.3;
const LESS = 0.6;
const FEW = 10;

/** A few items, terms or campaigns that take much of the money and bring little of the sales. */
export function concentration(material: Material): Found[] {
  const told: [StockLine[] | undefined, "item" | "term" | "campaign", string][] = [
    [material.levels.item, "item", "items"],
    [material.levels.term?.filter(({ key }) => key !== ""), "term", "terms"],
    [material.levels.campaign, "campaign", "campaigns"],
  ];
  return told.flatMap(([lines, kind, many]): Found[] => {
    if (!lines || lines.length < 4 * FEW || !tellsReturns(wholeOf(material, kind))) return [];
    const first = [...lines].sort((a, b) => b.sums.cost - a.sums.cost).slice(0, FEW);
    const { spend, sales } = sharesOf(first, wholeOf(material, kind).sums);
    const orders = first.reduce((sum, { sums }) => sum + sums.orders, 0);
    // What their sales would be at the usual return, against theirs: not by luck.
    const isLess = sales * (1 + 1.64 / Math.sqrt(Math.max(1, orders))) < LESS * spend;
    if (spend < MUCH || !isLess) return [];
    const lost = aMonth(
      first.reduce((sum, { sums }) => sum + sums.cost - sums.revenue / material.goal, 0),
      material,
    );
    if (!isWorthTelling(lost, material)) return [];
    const at = (factor: number) =>
      aMonth(
        first.reduce((sum, { sums }) => sum + sums.cost - (sums.revenue * factor) / material.goal, 0),
        material,
      );
    const unsure = 1.28 / Math.sqrt(Math.max(1, orders));
    return [
      {
        ...{ key: `concentration/${kind}`, fault: "concentration" as const },
        about: first.map((line) => refOf(kind, line)),
        says: say`${FEW} of ${plural(material.counts[kind] ?? lines.length, kind, many)} take ${{ share: spend, of: "the spend" }} and bring ${{ share: sales, of: "ad sales" }}.`,
        month: { mean: lost, low: at(1 + unsure), high: at(Math.max(0, 1 - unsure)) },
        money: "lost",
        stands: standsOn(first),
        mend: { by: "place", path: `results?level=${kind}`, words: "Open in Results" },
      },
    ];
  });
}
