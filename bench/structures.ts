// node --import tsx bench/structures.ts [--salt=abc] [--worlds=12] [--items=200]: builds each structure to start from in worlds
// of the test market, on an untidy account with a month behind it, plans it anew every two weeks for 90 days by what
// reports show, and prints what ads added in truth: bench/out/structures.md and .json, for docs/structures.md.
import { mkdirSync, writeFileSync } from "node:fs";
import { Account, type Structure } from "@/core/account/account";
import { paidPrices } from "@/core/catalogue/margins";
import { itemEvidence } from "@/core/evidence/item-evidence";
import { asText, textColumn, type Columns } from "@/core/kit/columns";
import { quantile } from "@/core/kit/stats";
import { bestContribution } from "@/core/market/best-contribution";
import { simulateDay } from "@/core/market/day";
import { firstState, type DayResult, type MarketState } from "@/core/market/day-types";
import { contributionOf, daysWithoutAds, truthOfAccount, type TrueDay } from "@/core/market/judge";
import { natureOf } from "@/core/market/nature";
import { planAccount } from "@/core/market/running-account";
import { lightShop, startingAccount } from "@/core/market/seen-world";
import { buildWorld } from "@/core/market/world";
import type { World } from "@/core/market/world-types";
import { NO_PLANS_BEFORE, replan, type PlansBefore } from "@/core/planogram/merge";
import { usualNames } from "@/core/planogram/names";
import { planCatalogue, type RowMeasures } from "@/core/planogram/plan";
import { plannedRecords } from "@/core/planogram/planned-records";
import type { Planogram } from "@/core/planogram/planogram";
import { TEMPLATES, type Template } from "@/core/planogram/templates";
import { addSeen, emptyRowSums, type RowSums } from "./seen-sums";
import { assignShelves, blankMemory, shelfDegrees } from "@/core/shelves/assign";
import { READY_MADE } from "@/core/shelves/ready-made";
import { metricValues, type MetricInputs } from "@/core/shelves/shelf-metrics";
import { shelvesOf } from "@/core/shelves/shelf-set";
import { shelfColumn, shelfSetOf } from "@/core/account/records/labels";
import { countOption, SALT } from "./salt";

const WORLDS = countOption("worlds", 12);
const ITEMS = countOption("items", 200);
const BEFORE = 30;
const DAYS = 90;
const EVERY = 14;
const FIRST = 20_500;
const MARGIN = 0.4;
/** The demo's goal: what sells for less than twice and a half its cost earns nothing at this margin. */
const GOAL = 3.5;

/** The shop with what the server makes of a feed: category levels, and the shelves of the sets that templates need. */
function catalogueOf(shop: Columns, sums: RowSums): { catalogue: Columns; measures: RowMeasures } {
  const column = (name: string) => asText(shop.columns[name]!);
  const [category, family, availability] = [column("category"), column("family"), column("availability")];
  const level = (at: number) =>
    textColumn(Array.from(category.codes, (code) => category.values[code]!.split(" > ")[at]!));
  const paid = paidPrices(shop);
  const evidence = itemEvidence(sums, {
    ...{ family, category, paid, newness: new Float64Array(shop.length) },
    soldOut: Uint8Array.from(availability.codes, (code) => (availability.values[code] === "out of stock" ? 1 : 0)),
  });
  const margin = new Float64Array(shop.length).fill(MARGIN);
  const inputs: MetricInputs = {
    ...{ sums, late: null, days: BEFORE, goal: GOAL, family, evidence, paid, margin },
    ...{ breakEven: margin.map((share) => 1 / share), stock: null, age: null },
  };
  const ids = column("id");
  const byId = () => Uint32Array.from(shop.columns["itemNo"]!.kind === "number" ? ids.codes.keys() : []);
  const shelves: Columns["columns"] = {};
  for (const set of new Set(TEMPLATES.flatMap(({ needs }) => needs.flatMap((need) => shelfSetOf(need) ?? [])))) {
    const definition = READY_MADE.find(({ key }) => key === set)!.make(GOAL);
    const isPooled = definition.shelves.some((shelf) => shelf.kind === "band" && shelf.metric === "chance");
    const degrees = shelfDegrees(definition, {
      ...{ sums, expected: isPooled ? evidence.expected : null, picked: () => undefined, byId },
      column: (name) => {
        const values = metricValues(name, inputs);
        return values ? { kind: "number", values } : shop.columns[name];
      },
    });
    const { shelf } = assignShelves(degrees, blankMemory(shop.length), definition);
    const keys = shelvesOf(definition).map(({ key }) => key);
    shelves[shelfColumn(set)] = textColumn(Array.from(shelf, (at) => keys[at]!));
  }
  return {
    catalogue: {
      length: shop.length,
      columns: { ...shop.columns, category1: level(1), category2: level(2), ...shelves },
    },
    measures: {
      ...{ cost: sums.cost, clicks: sums.clicks, revenue: sums.revenue, orders: sums.orders },
      worth: evidence.orderRate.map((rate, row) => rate * evidence.orderValue[row]!),
    },
  };
}

/** The planogram that a builder begins with on an account. */
function baseOf(account: Account): Planogram {
  const running = account.all("campaign").filter(({ status, kind }) => status === "on" && kind === "feed");
  return {
    ...{ key: "structure", name: "Structure", ladder: [{ by: "category1", largest: null }], campaignLine: 1 },
    ...{ adGroupLine: 1, inStockOnly: true, ...usualNames(1, 1, [{ by: "category1" }]) },
    ...{ purpose: "scale", bidding: "fixed", goal: GOAL, shareBy: "revenue", serveOrder: 3 },
    totalBudget: Math.min(
      1_000_000_000,
      running.reduce((sum, { dailyBudget }) => sum + dailyBudget, 0),
    ),
    startingBid: account.all("adGroup")[0]!.bid,
    replaces: running.map(({ key }) => key),
  };
}

/** Rows that a template's filter lets through: of those offered only solos have one, by shelf. */
function wantedBy(planogram: Planogram, catalogue: Columns): Uint8Array | null {
  if (!planogram.where) return null;
  const shelf = asText(catalogue.columns[shelfColumn("proven")]!);
  const proven = new Set(["proven", "proven-as-a-family"]);
  return Uint8Array.from(shelf.codes, (code) => (proven.has(shelf.values[code]!) ? 1 : 0));
}

/** Days of an account as reports show them, and as they are in truth. */
class Running {
  private shown: MarketState = firstState();
  private certain: MarketState = firstState();
  readonly sums: RowSums;
  readonly days: TrueDay[] = [];

  constructor(
    private readonly world: World,
    private readonly seed: string,
  ) {
    this.sums = emptyRowSums(world.itemNo.length);
  }

  run(account: Account, catalogue: Columns, from: number, to: number, isJudged: boolean): void {
    const ready = planAccount(this.world, account, catalogue);
    for (let day = from; day <= to; day++) {
      const result: DayResult = simulateDay(this.world, ready, day, this.shown, { noise: true, seed: this.seed });
      this.shown = result.state;
      addSeen(this.sums, result);
      const truth = truthOfAccount(this.world, ready, day, day, this.certain);
      this.certain = truth.state;
      if (isJudged) this.days.push(truth.days[0]!);
    }
  }
}

interface WorldResult {
  leave: number;
  best: number;
  templates: Record<string, number>;
}

function judge(at: number): WorldResult {
  const seed = `${SALT} ${at}`;
  const shop = lightShop(ITEMS, seed);
  const world = buildWorld(shop, seed, undefined, natureOf(seed));
  const margins = new Float64Array(ITEMS).fill(MARGIN);
  const [begins, ends] = [FIRST + BEFORE, FIRST + BEFORE + DAYS - 1];
  const without = daysWithoutAds(world, shop, begins, ends);
  const start: Structure = startingAccount("untidy", shop, seed);
  const run = (template: Template | null): number => {
    const running = new Running(world, seed);
    let account = Account.fromStructure(start);
    running.run(account, shop, FIRST, begins - 1, false);
    let before: PlansBefore = NO_PLANS_BEFORE;
    const base = baseOf(account);
    for (let from = begins; from <= ends; from += EVERY) {
      const { catalogue, measures } = catalogueOf(shop, running.sums);
      if (template) {
        const planogram = { ...base, ...template.change(base) };
        const plan = planCatalogue(planogram, catalogue, measures, wantedBy(planogram, catalogue));
        const records = plannedRecords(planogram, plan, catalogue);
        const made = replan(account, records, before, planogram.key, from === begins ? planogram.replaces : []);
        account = made.draft.after();
        before = { sent: made.plan, waiting: null };
      }
      running.run(account, catalogue, from, Math.min(ends, from + EVERY - 1), true);
    }
    return contributionOf(world, running.days, without, margins) / DAYS;
  };
  const leave = run(null);
  const templates = Object.fromEntries(TEMPLATES.map((template) => [template.key, run(template)]));
  const best = bestContribution(world, shop, margins, begins, ends).contribution / DAYS;
  console.error(`world ${at + 1} of ${WORLDS}`);
  return { leave, best, templates };
}

const results = Array.from({ length: WORLDS }, (_, at) => judge(at));
const median = (values: number[]) => quantile(values, 0.5) as number;
const euros = (mills: number) => (mills / 1000).toFixed(1);
const lines = TEMPLATES.map(({ key, name }) => {
  const more = results.map(({ leave, templates }) => templates[key]! - leave);
  const share = results.map(({ leave, best, templates }) => (templates[key]! - leave) / Math.max(1, best - leave));
  const lost = more.filter((value) => value < 0).length;
  return `| ${name} | ${lost} of ${WORLDS} | ${euros(median(more))} | ${euros(Math.min(...more))} | ${euros(Math.max(...more))} | ${(100 * median(share)).toFixed(0)} % |`;
});
mkdirSync("bench/out", { recursive: true });
writeFileSync("bench/out/structures.json", JSON.stringify({ salt: SALT, items: ITEMS, results }, null, 1));
const text = [
  `Salt ${SALT}, ${WORLDS} worlds of ${ITEMS} items; leaving the account alone adds ${euros(median(results.map(({ leave }) => leave)))} a day in the median, the most found ${euros(median(results.map(({ best }) => best)))}.`,
  "",
  "| structure | loses in | more a day, median | worst world | best world | of what can be gained, median |",
  "| --- | ---: | ---: | ---: | ---: | ---: |",
  ...lines,
  "",
].join("\n");
writeFileSync("bench/out/structures.md", text);
console.log(text);
