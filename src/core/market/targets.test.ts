import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { formatDay } from "../kit/days";
import { REACHES, type ReachName } from "../account/records/reach";
import { textColumn, type Columns } from "../kit/columns";
import { Account, type Structure } from "../account/account";
import { recordSchema } from "../account/records";
import type { Campaign } from "../account/records/campaign";
import { planAccount } from "./running-account";
import { simulateDay } from "./day";
import { firstState, type DayResult, type Fact } from "./day-types";
import { comparedWords, matches, QueryIndex } from "../channel/matching";
import { OVERSPEND } from "./purses";
import { testCampaign, testShop } from "./test-shop";
import { buildWorld } from "./world";

const shop = testShop();
const world = buildWorld(shop, "w");
const DAY = 20_700;
const ALL = Array.from({ length: shop.length }, (_, i) => `I${i}`);
const RAKES = ALL.filter((_, i) => i % 2 === 0);
const HOSES = ALL.filter((_, i) => i % 2 === 1);

function run(structure: Structure, state = firstState(), day = DAY, noise = false): DayResult {
  return simulateDay(world, planAccount(world, Account.fromStructure(structure), shop), day, state, {
    noise,
    seed: "s",
  });
}
const total = (facts: Fact[], key: "impressions" | "clicks" | "cost" | "orders" | "revenue", of = (_: Fact) => true) =>
  facts.filter(of).reduce((sum, fact) => sum + fact[key], 0);
const terms = (facts: Fact[]) => [...new Set(facts.map(({ term }) => term))].sort();
const queryLabels = world.surfaces.filter(({ kind }) => kind === "query").map(({ label }) => label);

describe("keywords", () => {
  it.each([
    // keyword, query, exact, phrase, broad
    ["garden hose", "garden hose", true, true, true],
    ["garden hose", "Garden Hoses", true, true, true],
    ["garden hose", "gardne hose", true, true, true],
    ["hose for the garden", "hose garden", true, true, true],
    ["garden hose", "hose garden", false, false, true],
    ["garden hose", "long garden hose 25 m", false, true, true],
    ["garden hose", "garden rubber hose", false, false, true],
    ["garden hose", "garden rake", false, false, false],
    ["garden hose reel", "hose reel", false, false, true],
    ["rake", "race", false, false, false],
    ["berry net", "berries nets", true, true, true],
    ["brush", "brushes", true, true, true],
    ["glass", "glas", false, false, false],
  ])("%s against %s", (keyword, query, exact, phrase, broad) => {
    const [k, q] = [comparedWords(keyword), comparedWords(query)];
    expect([matches(k, q, "exact"), matches(k, q, "phrase"), matches(k, q, "broad")]).toEqual([exact, phrase, broad]);
  });

  it("are found through the index just as by comparing with every query", () => {
    const index = new QueryIndex(queryLabels.map((label, id) => ({ label, id })));
    for (const text of ["hoses", "oak rake", "brand1 hose", "cheep rakes", "how to use hose", "nothing"]) {
      for (const match of ["exact", "phrase", "broad"] as const) {
        const slow = queryLabels.flatMap((label, i) =>
          matches(comparedWords(text), comparedWords(label), match) ? [i] : [],
        );
        expect(index.find(text, match)).toEqual(slow);
      }
    }
  });

  it("are found so among any words, with slips, plurals and repeats", () => {
    const letter = fc.constantFrom("a", "b", "s");
    const word = fc.string({ unit: letter, minLength: 2, maxLength: 7 });
    const text = fc.array(word, { minLength: 1, maxLength: 4 }).map((words) => words.join(" "));
    fc.assert(
      fc.property(fc.array(text, { minLength: 1, maxLength: 12 }), text, (labels, keyword) => {
        const index = new QueryIndex(labels.map((label, id) => ({ label, id })));
        for (const match of ["exact", "phrase", "broad"] as const) {
          const slow = labels.flatMap((label, i) =>
            matches(comparedWords(keyword), comparedWords(label), match) ? [i] : [],
          );
          expect(index.find(keyword, match)).toEqual(slow);
        }
      }),
      { numRuns: 1000 },
    );
  });

  it("reach the queries they match, in result pages alone, and nothing else", () => {
    const aimed = run(
      testCampaign("k", { kind: "keyword" }, HOSES, 400, [
        { type: "keyword", text: "hoses", match: "exact" },
        { type: "keyword", text: "cheap hoses", match: "phrase" },
      ]),
    ).facts;
    expect(terms(aimed)).toEqual(["cheap hoses", "hoses"]);
    expect(new Set(aimed.map(({ slot }) => slot))).toEqual(new Set([0, 1]));
    expect(new Set(aimed.map(({ target }) => target))).toEqual(new Set(["t:k/0", "t:k/1"]));
    expect(new Set(aimed.map(({ itemNo }) => itemNo % 2))).toEqual(new Set([0]));
  });

  it("hardly sell on another category's queries", () => {
    const rate = (text: string) => {
      const facts = run(
        testCampaign("k", { kind: "keyword" }, RAKES, 900, [{ type: "keyword", text, match: "exact" }]),
      ).facts;
      expect(total(facts, "impressions")).toBeGreaterThan(0);
      return total(facts, "orders") / total(facts, "clicks");
    };
    expect(rate("hoses")).toBeLessThan(0.6 * rate("rakes"));
  });

  it("yield to negatives of their ad group, campaign or the workspace, whole or in part", () => {
    const base = {
      ...testCampaign("k", { kind: "keyword" }, HOSES, 400, [{ type: "keyword", text: "hoses", match: "broad" }]),
      ...testCampaign("f", { kind: "feed", serveOrder: 6 }, HOSES, 300),
    };
    const without = (scope: string | null, match: "exact" | "phrase", value: string) => {
      const record = { type: "negative", key: "n", scope, what: "term", match, value, reason: "wasteful" };
      return run({ ...base, n: recordSchema.parse(record) }).facts;
    };
    const has = (facts: Fact[], campaign: string, term: string) =>
      facts.some((fact) => fact.campaign === campaign && fact.term === term);
    expect(has(run(base).facts, "k", "cheap hoses")).toBe(true);
    for (const scope of ["k", "g:k"]) {
      const facts = without(scope, "exact", "cheap hose");
      expect([has(facts, "k", "cheap hoses"), has(facts, "k", "hoses")]).toEqual([false, true]);
      // What one campaign leaves, the next in serve order takes.
      expect(has(facts, "f", "cheap hoses")).toBe(true);
    }
    expect(terms(without(null, "phrase", "cheap")).filter((term) => term.includes("cheap"))).toEqual([]);
    expect(terms(without(null, "exact", "cheap"))).toContain("cheap hoses");
  });
});

describe("listing targets and automatic reach", () => {
  const rivals = world.surfaces.filter(
    ({ kind, id }) => kind === "rival-page" && world.categoryOf[id] === world.rowCategory[1],
  );

  it("aim at one listing, or a window of a category", () => {
    const one = rivals[0]!.listing!;
    const facts = run(
      testCampaign("l", { kind: "listing" }, HOSES, 500, [
        { type: "listingTarget", aim: { by: "listing", listing: one.id } },
      ]),
    ).facts;
    expect(terms(facts)).toEqual([one.id]);
    const middle = [...rivals].sort((a, b) => a.listing!.rating - b.listing!.rating)[2]!.listing!.rating;
    const window = run(
      testCampaign("l", { kind: "listing" }, HOSES, 500, [
        { type: "listingTarget", aim: { by: "category", category: "Garden > Hoses", ratingTo: middle } },
      ]),
    ).facts;
    const expected = world.surfaces
      .filter(({ id, kind, listing }) => {
        if (world.categoryOf[id] !== world.rowCategory[1] || !listing || kind === "own-page") return false;
        return listing.rating <= middle;
      })
      .map(({ label }) => label);
    expect(terms(window)).toEqual([...new Set(expected)].sort());
  });

  it("sell more where the rival is dearer and worse rated", () => {
    const rates = rivals.map(({ listing, lift }) => ({
      pull: Math.log(listing!.price) - 0.64 * listing!.rating,
      lift: lift!.reduce((a, b) => a + b, 0),
    }));
    rates.sort((a, b) => a.pull - b.pull);
    expect(rates.at(-1)!.lift).toBeGreaterThan(rates[0]!.lift);
  });

  it("part the places of a category and its neighbours between the six reaches", () => {
    // Five categories of one department: each has one beside it and three around it.
    const wares = ["Hoses", "Rakes", "Spades", "Pots", "Seeds"];
    const wide: Columns = {
      length: shop.length,
      columns: { ...shop.columns, category: textColumn(ALL.map((_, i) => `Garden > ${wares[i % 5]}`)) },
    };
    const there = buildWorld(wide, "w");
    const hoses = ALL.filter((_, i) => i % 5 === 0);
    const facts = (kind: ReachName) => {
      const structure = testCampaign("d", { kind: "discovery" }, hoses, 3_000, [{ type: "reach", kind }]);
      const account = planAccount(there, Account.fromStructure(structure), wide);
      return simulateDay(there, account, DAY, firstState(), { noise: false, seed: "s" }).facts;
    };
    const places = (kind: ReachName) => facts(kind).map(({ term, itemNo }) => `${term}/${itemNo}`);
    const categoriesOf = (kind: ReachName) => {
      const seen = new Set(facts(kind).map(({ term }) => term));
      return new Set(there.surfaces.filter(({ label }) => seen.has(label)).map(({ id }) => there.categoryOf[id]!));
    };
    const kinds = REACHES.map((kind) => new Set(places(kind)));
    kinds.forEach((a, i) => {
      expect(a.size).toBeGreaterThan(0);
      kinds.slice(i + 1).forEach((b) => expect([...a].filter((place) => b.has(place))).toEqual([]));
    });
    // Each ring leads to the categories it is of, and the one beside is none of those around.
    const [own] = [...categoriesOf("searches-alike")];
    expect([...categoriesOf("pages-alike")]).toEqual([own]);
    const [beside] = [...categoriesOf("searches-beside")];
    expect(beside).not.toBe(own);
    expect(categoriesOf("pages-around")).toEqual(new Set([0, 1, 2, 3, 4].filter((at) => at !== own && at !== beside)));
    const [alike, , around] = kinds;
    expect([...alike!].some((place) => place.startsWith("how to use"))).toBe(false);
    expect([...around!].some((place) => place.startsWith("how to use"))).toBe(true);
  });

  it("defend our own pages: fewer organic sales go to rivals, and part of the ad sales would have come anyway", () => {
    const own = world.surfaces.filter(({ kind }) => kind === "own-page");
    const quiet = run({});
    const defended = run(
      testCampaign(
        "d",
        { kind: "listing", purpose: "defend" },
        ALL,
        2_000,
        own.map(({ label }) => ({ type: "listingTarget", aim: { by: "listing", listing: label } })),
      ),
    );
    const store = (result: DayResult) => result.store.reduce((sum, line) => sum + line.orders, 0);
    const gained = store(defended) - store(quiet);
    expect(gained).toBeGreaterThan(0);
    const lost = own.reduce((sum, { ownRow }) => sum + world.truth.organic[ownRow]! * 0.16, 0);
    // More than incremental ad orders alone would bring, less than if every ad order were one.
    expect(gained).toBeLessThan(total(defended.facts, "orders") + lost * 2);
    expect(gained).toBeGreaterThan(0.35 * total(defended.facts, "orders"));
  });
});

describe("bids in an auction", () => {
  const feed = (more: Partial<Campaign>) => testCampaign("f", more, ALL, 400);

  it("follow slot factors: nought keeps out of a slot, more wins more there", () => {
    const plain = run(feed({})).facts;
    const at = (facts: Fact[], slot: number) => total(facts, "impressions", (fact) => fact.slot === slot);
    const off = run(feed({ slots: { "partner-media": 0, "lead-row": 1.5 } })).facts;
    expect(at(off, 3)).toBe(0);
    expect(at(off, 0)).toBeGreaterThan(at(plain, 0));
    expect(at(off, 2)).toBeCloseTo(at(plain, 2), 6);
    for (const fact of off) expect(fact.cost / fact.clicks).toBeLessThanOrEqual(fact.slot === 0 ? 600 : 400);
  });

  it("follow the hour: nothing is spent where the factor is nought", () => {
    const hours = Array.from({ length: 24 }, (_, hour) => (hour < 12 ? 0 : 1));
    const evening = run(feed({ hours }));
    expect(evening.hours.filter(({ hour }) => hour < 12)).toEqual([]);
    const whole = run(feed({}));
    const later = (result: DayResult) =>
      result.hours.reduce((sum, line) => (line.hour >= 12 ? sum + line.clicks : sum), 0);
    expect(later(evening)).toBeCloseTo(later(whole), 6);
    // People look at noon and buy in the evening.
    const rate = (facts: Fact[]) => total(facts, "orders") / total(facts, "clicks");
    expect(rate(evening.facts)).toBeGreaterThan(rate(whole.facts));
  });

  it("are flexed within their range, held where it is nothing", () => {
    const low = (flex?: Campaign["flex"]) => run(testCampaign("f", flex ? { flex } : {}, ALL, 160)).facts;
    const hold = low();
    expect(low({ below: 0, above: 0 })).toEqual(hold);
    const ease = low({ below: 0.6, above: 0 });
    const stretch = low({ below: 0.6, above: 0.5 });
    const little = low({ below: 0.1, above: 0 });
    expect(total(little, "cost")).toBeGreaterThan(total(ease, "cost"));
    expect(total(little, "cost")).toBeLessThan(total(hold, "cost"));
    expect(total(ease, "cost")).toBeLessThan(total(hold, "cost"));
    for (const fact of ease) expect(fact.cost).toBeLessThanOrEqual(fact.clicks * 160 + 1e-6);
    for (const fact of stretch) expect(fact.cost).toBeLessThanOrEqual(fact.clicks * 240 + 1e-6);
    expect(stretch.some((fact) => fact.cost > fact.clicks * 160)).toBe(true);
    const value = (facts: Fact[]) => total(facts, "revenue") / total(facts, "cost");
    expect(value(stretch)).toBeGreaterThan(value(hold));
  });

  it("of campaigns after clicks fall until the budget lasts the day", () => {
    const structure = feed({ bidding: "clicks", dailyBudget: 1_500 });
    let state = firstState();
    const first = run(structure);
    for (let day = 0; day < 40; day++) state = run(structure, state, DAY + day).state;
    const last = run(structure, { ...state, carry: {} }, DAY + 40);
    expect(first.campaigns[0]!.dryAt).not.toBeNull();
    expect(last.campaigns[0]!.dryAt ?? 24).toBeGreaterThan(first.campaigns[0]!.dryAt! + 2);
    expect(total(last.facts, "clicks")).toBeGreaterThan(total(first.facts, "clicks"));
  });
});

describe("money", () => {
  it("left over earlier in the month is spent later within the allowance, and the month keeps its budget", () => {
    const small = (dailyBudget: number) => testCampaign("f", { dailyBudget }, ALL, 400);
    const rich = total(run(small(1e8)).facts, "cost");
    const budget = Math.round(rich * 0.7);
    let state = { ...firstState(), carry: { f: budget * 2 }, month: 0 };
    const day = DAY;
    const date = new Date(day * 86_400_000);
    state = { ...state, month: date.getUTCFullYear() * 12 + date.getUTCMonth() };
    const over = run(small(budget), state, day);
    expect(over.campaigns[0]!.cost).toBeCloseTo(Math.min(rich, budget * (1 + OVERSPEND)), 3);
    expect(over.state.carry["f"]).toBeCloseTo(budget * 3 - over.campaigns[0]!.cost, 3);
    // Another month begins with nothing carried.
    expect(run(small(budget), { ...state, month: state.month - 1 }, day).campaigns[0]!.cost).toBeCloseTo(budget, 3);
    let spent = 0;
    let running = firstState();
    for (let i = 0; i < 120; i++) {
      const result = run(small(budget), running, day + i, true);
      expect(result.campaigns[0]!.cost).toBeLessThanOrEqual(budget * (1 + OVERSPEND));
      running = result.state;
      spent += result.campaigns[0]!.cost;
      if (formatDay(day + i + 1).endsWith("-01")) break;
      expect(spent).toBeLessThanOrEqual(budget * (i + 1));
    }
  });

  it("of a pool and of the day cap is never overspent, and stops all that draw on it", () => {
    const pooled = {
      ...testCampaign("a", { pool: "p" }, RAKES, 400),
      ...testCampaign("b", { pool: "p" }, HOSES, 400),
      ...testCampaign("c", {}, ALL, 200),
      p: recordSchema.parse({ type: "pool", key: "p", name: "P", dailyBudget: 800 }),
    };
    const result = run(pooled);
    const cost = (key: string) => result.campaigns.find(({ campaign }) => campaign === key)!.cost;
    expect(cost("a") + cost("b")).toBeCloseTo(800, 3);
    expect(cost("c")).toBeGreaterThan(0);
    expect(result.campaigns.find(({ campaign }) => campaign === "a")!.dryAt).not.toBeNull();
    const cap = { ...pooled, "day-cap": recordSchema.parse({ type: "dayCap", key: "day-cap", dailyBudget: 500 }) };
    expect(total(run(cap).facts, "cost")).toBeCloseTo(500, 3);
    expect(total(run(cap, firstState(), DAY, true).facts, "cost")).toBeLessThanOrEqual(500);
  });

  it("is spent only between a campaign's first and last day", () => {
    const dated = testCampaign("f", { startsOn: formatDay(DAY), endsOn: formatDay(DAY + 1) }, ALL, 400);
    const spends = [-1, 0, 1, 2].map((offset) => total(run(dated, firstState(), DAY + offset).facts, "cost") > 0);
    expect(spends).toEqual([false, true, true, false]);
  });
});

describe("orders that come late", () => {
  it("are seen once each, when they are due, and restate the day of their click", () => {
    const structure = testCampaign("f", {}, ALL, 900);
    let state = firstState();
    let now = 0;
    let later = 0;
    const promised = new Map<string, number>();
    const promise = (order: object, count: number) => {
      const key = JSON.stringify(order);
      promised.set(key, (promised.get(key) ?? 0) + count);
      return promised.get(key)!;
    };
    for (let day = DAY; day < DAY + 240; day++) {
      const result = run(structure, state, day, true);
      for (const order of result.arrived) {
        expect(order.due).toBe(day);
        expect(promise(order, -1)).toBeGreaterThanOrEqual(0);
      }
      now += total(result.facts, "orders");
      later += result.arrived.reduce((sum, order) => sum + order.orders, 0);
      for (const order of result.state.late) if (order.day === day) promise(order, 1);
      state = result.state;
    }
    // 62 % are seen at once; of the rest nearly all have come by the end.
    expect(now / (now + later)).toBeGreaterThan(0.55);
    expect(now / (now + later)).toBeLessThan(0.7);
  });
});

describe("newcomers", () => {
  it("sell less at first, and then as well as any", () => {
    const since = new Float64Array(shop.length).fill(NaN);
    since[1] = DAY;
    const young = buildWorld(shop, "w", since);
    const account = planAccount(young, Account.fromStructure(testCampaign("f", {}, ALL, 400)), shop);
    const of = (offset: number) => {
      const result = simulateDay(young, account, DAY + offset, firstState(), { noise: false, seed: "s" });
      const old = run(testCampaign("f", {}, ALL, 400), firstState(), DAY + offset);
      const item = (facts: Fact[]) => total(facts, "orders", (fact) => fact.itemNo === 2);
      const shopOrders = (day: DayResult) => day.store.find(({ itemNo }) => itemNo === 2)!.orders;
      return [item(result.facts) / item(old.facts), shopOrders(result) / shopOrders(old)];
    };
    const [adsAtFirst, shopAtFirst] = of(0) as [number, number];
    expect(adsAtFirst).toBeLessThan(0.6);
    expect(shopAtFirst).toBeLessThan(0.5);
    for (const ratio of of(80)) expect(ratio).toBeCloseTo(1, 6);
  });
});
