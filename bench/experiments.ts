// node --import tsx bench/experiments.ts [--salt=abc] [--worlds=12] [--runs=18] [--items=300]: how often verdicts of experiments
// are right, in worlds whose truth is known: bench/out/experiments.md and .json, for docs/experiments.md.
import { mkdirSync, writeFileSync } from "node:fs";
import { Account } from "@/core/account/account";
import { makeEdit, type Edit } from "@/core/account/acts";
import { firstHomes, isHomeKind } from "@/core/account/homes";
import { Walker } from "@/core/account/walk";
import { planDays, pairsOfDays } from "@/core/experiments/day-plan";
import { effectOfDays, effectOfPairs, type Effect } from "@/core/experiments/effect";
import { adPart, MEASURES as EVERY, type Line, type MeasureKey } from "@/core/experiments/measures";
import { pairUnits } from "@/core/experiments/matching";
import { leastFound, noiseOfDays, noiseOfPairs, playedDays } from "@/core/experiments/noise";
import { meansOf, type Series } from "@/core/experiments/series";
import { findingOf, type Finding } from "@/core/experiments/verdict";
import { asText, type Columns } from "@/core/kit/columns";
import { randomFrom } from "@/core/kit/random";
import { quantile } from "@/core/kit/stats";
import { simulateDay } from "@/core/market/day";
import { firstState, type DayResult, type MarketState } from "@/core/market/day-types";
import { natureOf } from "@/core/market/nature";
import { planAccount, type MarketAccount } from "@/core/market/running-account";
import { lightShop, startingAccount } from "@/core/market/seen-world";
import { buildWorld } from "@/core/market/world";
import type { World } from "@/core/market/world-types";
import { countOption, SALT } from "./salt";

const FIRST = 20_500;
const BEFORE = 84;
const DAYS = 28;
const MARGIN = 0.4;
const MEASURES: MeasureKey[] = ["everything", "contribution", "clicks"];

interface Change {
  /** What is put into pairs. */
  units: "item" | "category";
  edit: (items: string[]) => Edit | null;
}

/** What is changed for the items of one arm. */
const CHANGES: Record<string, Change> = {
  "items, nothing": { units: "item", edit: () => null },
  "items excluded": { units: "item", edit: excluded },
  "items’ bids halved": { units: "item", edit: halved },
  "categories excluded": { units: "category", edit: excluded },
};

function excluded(items: string[]): Edit {
  return { action: "exclude", items, reason: "wasteful", reviewOn: null, campaign: null };
}

function halved(items: string[]): Edit {
  return { action: "item-bid", items, op: { how: "percent", percent: -50 } };
}

type Values = Record<string, Float64Array>;

/** Days of a market, and what each item brought on them, orders at the day of their click however late they were seen. */
class Run {
  state: MarketState;
  readonly values: Values;

  constructor(
    private readonly world: World,
    items: number,
    from: { state: MarketState; day: number; days: number },
    private readonly draw: { noise: boolean; seed: string },
  ) {
    this.state = from.state;
    this.from = from.day;
    this.days = from.days;
    this.values = Object.fromEntries(MEASURES.map((measure) => [measure, new Float64Array(items * this.days)]));
  }

  private readonly from: number;
  readonly days: number;

  play(accountOf: (day: number) => MarketAccount): this {
    for (let at = 0; at < this.days; at++) {
      const result = simulateDay(this.world, accountOf(at), this.from + at, this.state, this.draw);
      this.state = result.state;
      this.add(at, result);
    }
    // What was ordered and is not seen yet counts on the day of its click too.
    for (const order of this.state.late) {
      const at = order.day - this.from;
      if (at >= 0) this.count(order.itemNo, at, { clicks: 0, cost: 0, orders: order.orders, revenue: order.revenue });
    }
    return this;
  }

  private add(at: number, { facts, store, arrived }: DayResult): void {
    for (const fact of facts) this.count(fact.itemNo, at, fact);
    for (const order of arrived) {
      if (order.day < this.from) continue;
      this.count(order.itemNo, order.day - this.from, {
        clicks: 0,
        cost: 0,
        orders: order.orders,
        revenue: order.revenue,
      });
    }
    for (const { itemNo, revenue } of store)
      this.values["everything"]![(itemNo - 1) * this.days + at]! += revenue * MARGIN;
  }

  private count(itemNo: number, at: number, line: Line): void {
    for (const measure of MEASURES)
      this.values[measure]![(itemNo - 1) * this.days + at]! += adPart(measure, line, MARGIN);
  }

  /** The days of some units, each a list of items. */
  of(measure: MeasureKey, units: readonly number[][]): Series {
    const { days } = this;
    const picked = new Float64Array(units.length * days);
    const values = this.values[measure]!;
    units.forEach((rows, unit) => {
      for (const row of rows)
        for (let day = 0; day < days; day++) picked[unit * days + day]! += values[row * days + day]!;
    });
    return { units: units.length, days, values: picked };
  }

  /** What all items brought, a day. */
  totals(measure: MeasureKey): Float64Array {
    const totals = new Float64Array(this.days);
    this.values[measure]!.forEach((value, i) => (totals[i % this.days]! += value));
    return totals;
  }
}

interface Told {
  design: string;
  measure: MeasureKey;
  truth: number;
  found: Finding;
  /** Days until the first finding; null without one. */
  after: number | null;
  leastFound: number | null;
  /** Whether the truth lies in the interval at the end. */
  isCovered: boolean | null;
}

/** Looks every day, and stops at the first finding as a person would. */
function look(effects: (days: number) => Effect | null): Pick<Told, "found" | "after"> {
  for (let days = 1; days <= DAYS; days++) {
    const finding = findingOf(effects(days), 0);
    if (finding !== "open") return { found: finding, after: days };
  }
  return { found: "open", after: null };
}

function covers(effect: Effect | null, truth: number): boolean | null {
  return effect && effect.low <= truth && truth <= effect.high;
}

const mean = (values: Float64Array) => values.reduce((sum, value) => sum + value, 0) / Math.max(1, values.length);

function judgeWorld(at: number, runs: number, items: number): Told[] {
  const seed = `${SALT} experiments ${at}`;
  const shop = lightShop(items, seed);
  const world = buildWorld(shop, seed, undefined, natureOf(seed));
  const account = Account.fromStructure(startingAccount("untidy", shop, seed));
  const plain = planAccount(world, account, shop);
  const ids = cellTexts(shop, "id");
  const past = { state: firstState(), day: FIRST, days: BEFORE };
  const seen = new Run(world, items, past, { noise: true, seed }).play(() => plain);
  const certain = new Run(world, items, past, { noise: false, seed }).play(() => plain);
  const all = ids.map((_, row) => [row]);
  const clicks = meansOf(seen.of("clicks", all), 0, BEFORE);
  const categories = new Map<string, number[]>();
  cellTexts(shop, "category").forEach((name, row) => {
    if (clicks[row]! > 0) categories.set(name, [...(categories.get(name) ?? []), row]);
  });
  const unitsBy = { item: all.filter(([row]) => clicks[row!]! > 0), category: [...categories.values()] };
  const price = shop.columns["price"] as { values: Float64Array };
  const pairsBy = (units: number[][], to: number, ...coin: (string | number)[]) =>
    pairUnits(
      [
        meansOf(seen.of("clicks", units), 0, to),
        meansOf(seen.of("contribution", units), 0, to),
        Float64Array.from(units, (rows) => rows.reduce((sum, row) => sum + price.values[row]!, 0) / rows.length),
      ],
      randomFrom(seed, ...coin),
    );
  const sizesOf = (units: number[][]) => meansOf(seen.of("clicks", units), 0, BEFORE);
  const next = (state: MarketState) => ({ state, day: FIRST + BEFORE, days: DAYS });
  const homes = new Walker(shop).walk(account).filter(({ campaign }) => isHomeKind(campaign.kind));
  const first = firstHomes(homes, items);
  const changed = (edit: Edit | null): Account => {
    if (!edit) return account;
    const rowOf = new Map(ids.map((id, row) => [id, row]));
    const made = makeEdit(
      account,
      edit,
      (item) => {
        const home = homes[first[rowOf.get(item)!]!];
        return { home: home ? { group: home.group.key, bid: home.bid } : null, family: "", title: item };
      },
      "EUR",
    );
    if (!made.ok) throw new Error(made.error.message);
    return made.value.after();
  };
  const truthOf = (accountOf: (day: number) => MarketAccount) =>
    new Run(world, items, next(certain.state), { noise: false, seed }).play(accountOf);
  const untouched = truthOf(() => plain);
  const told: Told[] = [];
  const pausedTruth = new Map<string, Run>();
  for (let r = 0; r < runs; r++) {
    const draw = { noise: true, seed: `${seed} ${r}` };
    for (const [design, change] of Object.entries(CHANGES)) {
      const rows = unitsBy[change.units];
      const pairs = pairsBy(rows, BEFORE, "coin", r);
      const edit = change.edit(Array.from(pairs.with).flatMap((unit) => rows[unit]!.map((row) => ids[row]!)));
      const other = planAccount(world, changed(edit), shop);
      const run = new Run(world, items, next(seen.state), draw).play(() => other);
      const truth = edit ? truthOf(() => other) : untouched;
      for (const measure of MEASURES) {
        const before = seen.of(measure, rows);
        const noise = noiseOfPairs(before, pairsBy(rows, BEFORE - playedDays(BEFORE), "noise", r), sizesOf(rows));
        const means = meansOf(before, 0, BEFORE);
        const during = run.of(measure, rows);
        const effect = (until: number) => effectOfPairs(means, meansOf(during, 0, until), pairs, noise, until, DAYS);
        const sum = (of: Run) => {
          const each = meansOf(of.of(measure, rows), 0, DAYS);
          return pairs.with.reduce((all, unit) => all + each[unit]!, 0);
        };
        const amount = sum(truth) - sum(untouched);
        told.push({
          ...{ design, measure, truth: amount, ...look(effect) },
          ...{ leastFound: leastFound(noise, DAYS), isCovered: covers(effect(DAYS), amount) },
        });
      }
      if (!edit) told.push(...judgeDays("days, nothing", run, planDays(DAYS, `${seed} ${r}`), untouched));
    }
    const plan = planDays(DAYS, `${seed} ${r}`);
    const campaigns = account.all("campaign");
    const one = campaigns[r % campaigns.length]!;
    const without = account.withRecords(new Map([[one.key, { ...one, status: "paused" as const }]]));
    const paused = planAccount(world, without, shop);
    const run = new Run(world, items, next(seen.state), draw).play((day) => (plan[day] ? paused : plain));
    if (!pausedTruth.has(one.key))
      pausedTruth.set(
        one.key,
        truthOf(() => paused),
      );
    told.push(...judgeDays("days, a campaign paused", run, plan, pausedTruth.get(one.key)!));
  }
  return told;

  function judgeDays(design: string, run: Run, plan: boolean[], truth: Run): Told[] {
    return MEASURES.map((measure) => {
      const noise = noiseOfDays(seen.totals(measure))!;
      const totals = run.totals(measure);
      const effect = (until: number) =>
        effectOfDays(
          pairsOfDays(plan).flatMap(([one, two]) => (Math.max(one, two) < until ? [totals[one]! - totals[two]!] : [])),
          noise,
          DAYS / 2,
        );
      const amount = mean(truth.totals(measure)) - mean(untouched.totals(measure));
      return {
        ...{ design, measure, truth: amount, ...look(effect) },
        ...{ leastFound: leastFound(noise, DAYS), isCovered: covers(effect(DAYS), amount) },
      };
    });
  }
}

function cellTexts({ columns }: Columns, name: string): string[] {
  const column = asText(columns[name]!);
  return Array.from(column.codes, (code) => column.values[code]!);
}

function tableOf(told: Told[]): string {
  const share = (part: number, of: number) => (of === 0 ? "–" : `${((100 * part) / of).toFixed(1)} % of ${of}`);
  const groups = new Map<string, Told[]>();
  for (const one of told) {
    const name = `${one.design} | ${EVERY[one.measure].label.toLowerCase()}`;
    groups.set(name, [...(groups.get(name) ?? []), one]);
  }
  return [
    "| what was changed | measure | runs | “raises” said wrongly | “lowers” said wrongly | found where the plan said so | found of all with an effect | truth in the interval | days to a finding |",
    "| --- | --- | ---: | ---: | ---: | ---: | ---: | ---: | ---: |",
    ...[...groups].map(([name, own]) => {
      const more = own.filter(({ found, truth }) => found === "more" && truth <= 0);
      const less = own.filter(({ found, truth }) => found === "less" && truth >= 0);
      const sided = own.filter(({ truth }) => truth !== 0);
      const isRight = ({ found, truth }: Told) => found === (truth > 0 ? "more" : "less");
      const said = sided.filter(({ truth, leastFound: least }) => least !== null && Math.abs(truth) >= least);
      const known = own.filter(({ isCovered }) => isCovered !== null);
      const after = own.flatMap(({ after: days }) => days ?? []);
      return `| ${name} | ${own.length} | ${share(more.length, own.length)} | ${share(less.length, own.length)} | ${share(said.filter(isRight).length, said.length)} | ${share(sided.filter(isRight).length, sided.length)} | ${share(known.filter(({ isCovered }) => isCovered).length, known.length)} | ${quantile(after, 0.5) ?? "–"} |`;
    }),
  ].join("\n");
}

function main(): void {
  const [worlds, runs, items] = [countOption("worlds", 12), countOption("runs", 18), countOption("items", 300)];
  const start = performance.now();
  const told = Array.from({ length: worlds }, (_, at) => {
    const own = judgeWorld(at, runs, items);
    console.error(`experiments: world ${at + 1} of ${worlds}, ${Math.round((performance.now() - start) / 1000)} s`);
    return own;
  }).flat();
  mkdirSync("bench/out", { recursive: true });
  writeFileSync("bench/out/experiments.json", JSON.stringify({ salt: SALT, told }, null, 1));
  const text = `Salt ${SALT}, ${worlds} worlds of ${items} items, ${runs} runs each.\n\n${tableOf(told)}\n`;
  writeFileSync("bench/out/experiments.md", text);
  console.log(text);
}

main();
