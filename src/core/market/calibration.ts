/*
 * How well evidence is calibrated, judged on worlds of the test market: days drawn at random are what an advertiser sees,
 * the same days as expected values are the truth. The world has its own form (auctions, seasons, late orders, days that
 * run dry), not that of the model.
 */
import { paidPrices } from "../catalogue/margins";
import { chanceOfGoal, pooledReturn, type ReturnInterval } from "../evidence/evidence";
import { DEFAULT_HEAT_RULES, heatOf } from "../evidence/heat";
import { categoryLadder, itemEvidence } from "../evidence/item-evidence";
import { linesEvidence } from "../evidence/lines";
import { asText } from "../kit/columns";
import { squareOf, toldNothing } from "../results/told";
import type { SeenLine, SeenWorld } from "./seen-world";

/** Of some true returns, how many lie in their 80 % intervals, and how far means are off. */
export interface Cell {
  name: string;
  cases: number;
  /** Share of truths within the interval, and below it. */
  covered: number;
  below: number;
  /** Mean of the estimates ÷ mean of the truths. */
  bias: number;
  /** Mean chance said of reaching the goal, and the share that reaches it. */
  said: number;
  reached: number;
  /** Squared error of the pooled estimates ÷ that of the raw ones, which are taken no higher than five times the mean. */
  error: number;
}

/** One true return, what is believed of it, and what it looked like. */
export interface Case extends ReturnInterval {
  truth: number;
  raw: number;
  /** The chance it is said to have of reaching the goal, and whether it does. */
  chance: number;
  reaches: boolean;
  /** The cells it counts in. */
  kinds: string[];
}

/** Clicks from which an item stands in a list that is picked by its result. */
const LISTED = 20;

function sizeOf(clicks: number): string {
  if (clicks === 0) return "without a click";
  return clicks < 10 ? "under 10 clicks" : clicks < 60 ? "10 to 60 clicks" : "over 60 clicks";
}

/** Judges the evidence of items, families, categories, campaigns, terms and days of a world, case by case. */
export function judgeEvidence(world: SeenWorld, goal = 3): Case[] {
  return [
    ...judgeItems(world, goal),
    ...judgeLines("families", inGroups(world, asText(world.shop.columns["family"]!).codes), goal),
    ...judgeLines("categories", inGroups(world, asText(world.shop.columns["category"]!).codes), goal),
    ...judgeLines("campaigns", world.campaigns, goal),
    ...judgeLines("terms", world.terms, goal),
    ...judgeLines("days", world.days, goal),
  ];
}

function judgeItems({ shop, sums, seenClicks, trueReturn }: SeenWorld, goal: number): Case[] {
  const column = (name: string) => asText(shop.columns[name]!);
  const availability = column("availability");
  const soldOut = Uint8Array.from(availability.codes, (code) => (availability.values[code] === "out of stock" ? 1 : 0));
  const paid = paidPrices(shop);
  const [family, category] = [column("family"), column("category")];
  const newness = new Float64Array(shop.length);
  const evidence = itemEvidence(sums, { family, category, paid, soldOut, newness, seenClicks });
  const means = Float64Array.from(paid, (_, row) => pooledReturn(evidence, row)?.mean ?? NaN);
  const raw = Float64Array.from(paid, (_, row) => sums.revenue[row]! / sums.cost[row]!);
  const off = priceAmongKind(paid, categoryLadder(category, shop.length)[0]!);
  const listed = (values: Float64Array, worst: string, best: string) => {
    const sorted = values.filter((value, row) => sums.clicks[row]! >= LISTED && Number.isFinite(value)).sort();
    const [low, high] = [sorted[Math.floor(sorted.length / 5)]!, sorted[Math.floor((4 * sorted.length) / 5)]!];
    return (row: number) => {
      if (sums.clicks[row]! < LISTED) return [];
      return values[row]! <= low ? [worst] : values[row]! >= high ? [best] : [];
    };
  };
  const byRaw = listed(raw, "items, worst fifth by raw return", "items, best fifth by raw return");
  const byPooled = listed(means, "items, worst fifth as pooled", "items, best fifth as pooled");
  const cases: Case[] = [];
  for (let row = 0; row < shop.length; row++) {
    const interval = pooledReturn(evidence, row);
    const truth = trueReturn[row]!;
    if (!interval || !Number.isFinite(truth)) continue;
    const kind =
      off[row]! < -0.5 ? "cheap for their kind" : off[row]! > 0.5 ? "dear for their kind" : "priced as their kind";
    const own = soldOut[row] ? ["items, sold out"] : ["items", `items, ${sizeOf(sums.clicks[row]!)}`, `items, ${kind}`];
    const chance = chanceOfGoal(evidence, row, goal);
    const known = { clicks: sums.clicks[row]!, orders: sums.orders[row]!, expected: evidence.expected[row]! };
    const heat = soldOut[row] ? [] : [`items, ${heatOf(chance, known, DEFAULT_HEAT_RULES)}`];
    const reaches = { chance, reaches: truth >= goal };
    cases.push({
      ...interval,
      ...reaches,
      truth,
      raw: raw[row]!,
      kinds: [...own, ...heat, ...byRaw(row), ...byPooled(row)],
    });
  }
  return cases;
}

/** How dear each row is among those of its code: logarithm of its price over the mean one. */
function priceAmongKind(paid: Float64Array, codes: Uint32Array): Float64Array {
  const sums = new Map<number, { sum: number; count: number }>();
  codes.forEach((code, row) => {
    const sum = sums.get(code) ?? { sum: 0, count: 0 };
    sums.set(code, { sum: sum.sum + Math.log(paid[row]!), count: sum.count + 1 });
  });
  return paid.map((price, row) => Math.log(price) - sums.get(codes[row]!)!.sum / sums.get(codes[row]!)!.count);
}

/** The items' figures by a code a row. The truth is weighed by what was spent, as the line's own return is. */
function inGroups({ sums, seenClicks, trueReturn }: SeenWorld, codes: Uint32Array): Map<string, SeenLine> {
  const lines = new Map<string, SeenLine>();
  codes.forEach((code, row) => {
    if (!Number.isFinite(trueReturn[row])) return;
    const line = lines.get(String(code)) ?? { ...toldNothing(), truth: 0 };
    const cost = sums.cost[row]!;
    if (line.cost + cost > 0) line.truth = (line.truth * line.cost + trueReturn[row]! * cost) / (line.cost + cost);
    line.clicks += sums.clicks[row]!;
    line.seenClicks += seenClicks[row]!;
    line.cost += cost;
    line.orders += sums.orders[row]!;
    line.revenue += sums.revenue[row]!;
    line.squares += squareOf(sums.orders[row]!, sums.revenue[row]!);
    lines.set(String(code), line);
  });
  return lines;
}

function judgeLines(name: string, lines: Map<string, SeenLine>, goal: number): Case[] {
  const evidence = linesEvidence([...lines.values()], goal);
  return [...lines.values()].flatMap((line) => {
    const known = evidence.of(line);
    if (!known || !Number.isFinite(line.truth)) return [];
    const kinds = [name, `${name}, ${sizeOf(line.clicks)}`];
    const reaches = { chance: known.chance, reaches: line.truth >= goal };
    return [{ ...known, ...reaches, truth: line.truth, raw: line.revenue / line.cost, kinds }];
  });
}

/** Sums cases up by their kinds. */
export function calibrationTable(cases: Case[]): Cell[] {
  const kinds = [...new Set(cases.flatMap((one) => one.kinds))].sort();
  return kinds.map((name) => {
    const own = cases.filter((one) => one.kinds.includes(name));
    const mean = (of: (one: Case) => number) => own.reduce((sum, one) => sum + of(one), 0) / own.length;
    const truth = mean((one) => one.truth);
    const rawOf = ({ raw }: Case) => (Number.isFinite(raw) ? Math.min(raw, 5 * truth) : 0);
    return {
      name,
      cases: own.length,
      covered: mean((one) => (one.truth >= one.low && one.truth <= one.high ? 1 : 0)),
      below: mean((one) => (one.truth < one.low ? 1 : 0)),
      said: mean(({ chance }) => chance),
      reached: mean(({ reaches }) => (reaches ? 1 : 0)),
      bias: mean((one) => one.mean) / truth,
      error: mean((one) => (one.mean - one.truth) ** 2) / mean((one) => (rawOf(one) - one.truth) ** 2),
    };
  });
}
