// node --import tsx bench/copy.ts [--salt=abc] [--worlds=12] [--items=200]: text campaigns of the usual copy plan in worlds of the
// test market, against the same campaigns whose ads the channel makes of titles, in truth over 30 days: bench/out/copy.md and
// .json, for docs/copy.md.
import { mkdirSync, writeFileSync } from "node:fs";
import { Account } from "@/core/account/account";
import type { AccountRecord } from "@/core/account/records";
import { SOLD_OUT } from "@/core/account/walk";
import { CHANNEL_LIMITS } from "@/core/channel/limits";
import { RateBook } from "@/core/channel/rate-card";
import type { CopyPlan } from "@/core/copy/copy-plan";
import { copyRecords } from "@/core/copy/copy-records";
import { makeKeywords, widestMatch } from "@/core/copy/keywords";
import { structureOf } from "@/core/copy/structure";
import { unitsOf } from "@/core/copy/units";
import { usualPlan } from "@/core/copy/usual-plan";
import { CopyValues } from "@/core/copy/values";
import { CopyWriter } from "@/core/copy/write-plan";
import { asText, numberColumn, textColumn, type Columns } from "@/core/kit/columns";
import { randomFrom } from "@/core/kit/random";
import { quantile } from "@/core/kit/stats";
import { firstState } from "@/core/market/day-types";
import { contributionOf, daysWithoutAds, truthOfAccount } from "@/core/market/judge";
import { natureOf } from "@/core/market/nature";
import { planAccount } from "@/core/market/running-account";
import { lightShop } from "@/core/market/seen-world";
import { toldPlaces } from "@/core/market/told-places";
import { buildWorld } from "@/core/market/world";
import { planCatalogue } from "@/core/planogram/plan";
import { countOption, SALT } from "./salt";

const FIRST = 20_560;
const DAYS = 30;
const MARGIN = 0.4;

/** The shop with what the server makes of a feed, and a stock for each item. */
function catalogueOf(shop: Columns, seed: string): Columns {
  const random = randomFrom("stock", seed);
  const category = asText(shop.columns["category"]!);
  const level = textColumn(Array.from(category.codes, (code) => category.values[code]!.split(" > ")[1]!));
  const stock = numberColumn(Array.from({ length: shop.length }, () => Math.floor(60 * random() ** 2)));
  return { length: shop.length, columns: { ...shop.columns, category1: level, stock } };
}

/** The records of a plan in a world, by what its channel tells of searches. */
function recordsOf(plan: CopyPlan, catalogue: Columns, book: RateBook): AccountRecord[] {
  const structure = structureOf(plan);
  const planned = planCatalogue(structure, catalogue);
  const availability = asText(catalogue.columns["availability"]!);
  const sold = availability.values.indexOf(SOLD_OUT);
  const sellable = Uint8Array.from(availability.codes, (code) => (code === sold ? 0 : 1));
  const units = unitsOf(planned, structure.adGroupLine, sellable);
  const settings = { currency: "EUR", language: plan.language, wideCountTwice: CHANNEL_LIMITS.wideCountTwice };
  const values = new CopyValues(units, catalogue, settings);
  const writer = new CopyWriter(
    plan,
    units,
    values,
    plan.ads.map(() => null),
    new Set(),
  );
  const match = widestMatch(plan.keywords);
  const keywords = makeKeywords(plan.keywords, units, values, catalogue, {
    language: plan.language,
    searches: (text) => (book.hasNoQuery(text, match) ? 0 : (book.keyword(text, match)?.monthlyViews ?? null)),
    claim: Float64Array.from({ length: units.count }, (_, unit) => units.start[unit + 1]! - units.start[unit]!),
  });
  return [...copyRecords(plan, { plan: planned, catalogue }, writer, values, keywords).values()];
}

interface Outcome {
  clicks: number;
  orders: number;
  cost: number;
  revenue: number;
  contribution: number;
}

function main(): void {
  const [worlds, items] = [countOption("worlds", 12), countOption("items", 200)];
  const ways: Record<string, string[]> = { "kind × brand": ["category", "brand"], kind: ["category"], item: ["id"] };
  const rows = Array.from({ length: worlds }, (_, at) => {
    const seed = `${SALT} copy ${at}`;
    const shop = lightShop(items, seed);
    const world = buildWorld(shop, seed, undefined, natureOf(seed));
    const catalogue = catalogueOf(shop, seed);
    const book = new RateBook([...toldPlaces(world)]);
    const margins = new Float64Array(items).fill(MARGIN);
    const without = daysWithoutAds(world, catalogue, FIRST, FIRST + DAYS - 1);
    const typical = book.places.flatMap(({ typical: price }) => price ?? []).sort((a, b) => a - b);
    const startingBid = Math.round((quantile(typical, 0.5) ?? 300) * 0.7);
    const run = (records: AccountRecord[]): Outcome => {
      const account = planAccount(world, Account.of(records), catalogue);
      const { days } = truthOfAccount(world, account, FIRST, FIRST + DAYS - 1, firstState());
      const sum = (of: (day: (typeof days)[number]) => number) => days.reduce((all, day) => all + of(day), 0) / DAYS;
      return {
        ...{ clicks: sum((d) => d.clicks), orders: sum((d) => d.orders), cost: sum((d) => d.cost) },
        ...{ revenue: sum((d) => d.revenue), contribution: contributionOf(world, days, without, margins) / DAYS },
      };
    };
    const told = Object.entries(ways).map(([way, groupsBy]) => {
      const usual = usualPlan({
        ...{ key: "usual", name: "Usual", language: "en", has: (field) => field in catalogue.columns },
        ...{ totalBudget: 1_000_000_000, startingBid, goal: null },
      });
      const plan = { ...usual, groupsBy };
      const records = recordsOf(plan, catalogue, book);
      const written = run(records);
      const titles = run(records.filter(({ type }) => type !== "ad"));
      return { way, adGroups: records.filter(({ type }) => type === "adGroup").length, written, titles };
    });
    console.error(`copy: world ${at + 1} of ${worlds}`);
    return { world: at, told };
  });
  const euro = (mills: number) => (mills / 1000).toFixed(2);
  const roas = ({ cost, revenue }: Outcome) => (cost > 0 ? revenue / cost : 0);
  const lines = rows.flatMap(({ world, told }) =>
    told.map(({ way, adGroups, written, titles }) =>
      [
        ...["", world + 1, way, adGroups, titles.clicks.toFixed(1), written.clicks.toFixed(1)],
        ...[
          roas(titles).toFixed(2),
          roas(written).toFixed(2),
          euro(titles.contribution),
          euro(written.contribution),
          "",
        ],
      ].join(" | "),
    ),
  );
  const better = Object.keys(ways).map((way) => {
    const pairs = rows.map(({ told }) => told.find((one) => one.way === way)!);
    const count = (of: (one: Outcome) => number) =>
      pairs.filter(({ written, titles }) => of(written) > of(titles)).length;
    const mean = pairs.reduce((sum, { written }) => sum + written.contribution, 0) / pairs.length;
    return `${way}: more contribution in ${count((one) => one.contribution)}, more return in ${count(roas)}, more clicks in ${count((one) => one.clicks)} of ${worlds} worlds; ${euro(mean)} a day`;
  });
  const table = [
    `Salt ${SALT}, ${worlds} worlds of ${items} items, ${DAYS} days; clicks and contribution (EUR) a day.`,
    "",
    "| world | ad groups by | ad groups | clicks, titles | clicks, written | return, titles | return, written | contribution, titles | contribution, written |",
    "| ---: | --- | ---: | ---: | ---: | ---: | ---: | ---: | ---: |",
    ...lines.map((line) => line.trim()),
    "",
    ...better.map((line) => `- ${line}`),
  ].join("\n");
  mkdirSync("bench/out", { recursive: true });
  writeFileSync("bench/out/copy.json", JSON.stringify(rows, null, 1));
  writeFileSync("bench/out/copy.md", `${table}\n`);
  console.log(table);
}

main();
