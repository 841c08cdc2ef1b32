import { describe, expect, it } from "vitest";
import { Account } from "../account/account";
import { noSums, type Sums } from "../kit/metrics";
import { testCampaign } from "../market/test-shop";
import { compareStocktakes } from "./compare";
import { asKept } from "./finding";
import { sharedHomes } from "./faults/structure";
import { wastedLines } from "./faults/waste";
import { weakLines } from "./faults/weak";
import { ordersMissing } from "./faults/whole";
import { Aliases, findUnmasked, isMasked, maskedSpelling } from "./masking";
import type { Material, StockItem, StockLine } from "./material";
import { listOf, phraseText, plainSpelling, say } from "./phrase";
import { daysUntilTold } from "./thin";

const sums = (cost: number, revenue: number, clicks = 100, orders = 5) =>
  ({ ...noSums(), cost, revenue, clicks, orders }) as Sums;
const line = (key: string, of: Sums, chance: number | null = null, mean = 1): StockLine => ({
  ...{ key, name: key, sums: of, chance },
  sure: chance === null ? null : { low: mean * 0.9, mean, high: mean * 1.1 },
});

describe("what takes more than it brings", () => {
  const material = { goal: 3, falseAlarms: 0.1, days: 30, total: sums(100_000, 300_000) } as Material;

  it("is named where it is below the goal and the whole for sure, and takes a share worth a line", () => {
    const lines = [
      line("bad", sums(40_000, 40_000), 0.001, 1),
      line("unsure", sums(30_000, 30_000), 0.4, 1),
      line("good", sums(29_500, 230_000), 0.99, 7),
      line("small", sums(500, 0), 0.001, 0.1),
      line("", sums(40_000, 40_000), 0.001, 1),
    ];
    expect(weakLines(lines, material).map(({ key }) => key)).toEqual(["bad"]);
  });

  it("is said with shares that name what they are of", () => {
    const ref = (key: string) => ({ kind: "item" as const, key, name: "" });
    const says = say`${listOf(["a", "b", "c", "d", "e"].map(ref))} take ${{ share: 0.25, of: "the spend" }} for ${{ money: 12_000 }}.`;
    expect(phraseText(says, plainSpelling("EUR"))).toBe("a, b, c and 2 more take 25.0 % of the spend for €12.");
  });
});

describe("what only costs", () => {
  it("is what would be a rare accident if it paid: 20 at an order of 50 and a goal of 3 has to bring 1.2 orders", () => {
    // e^-1.2 = 0.30 is no accident; 200 would have to bring 12, and e^-12 is one.
    const of = (key: string, cost: number) => line(key, sums(cost, 0, 50, 0));
    const wasted = wastedLines([of("luck", 20_000), of("waste", 200_000)], { goal: 3, falseAlarms: 0.1 }, () => 50_000);
    expect(wasted.map(({ key }) => key)).toEqual(["waste"]);
  });
});

describe("items in several campaigns", () => {
  const account = Account.fromStructure({
    ...testCampaign("c:a", { name: "Rakes" }, ["I1"], 500),
    ...testCampaign("c:b", { name: "All" }, ["I1"], 500),
  });
  const item = (key: string, homes: string[]) => ({ key, homes }) as StockItem;
  const material = (shared: number, proposers: string[] = []) =>
    ({
      ...{ account, days: 60, moves: proposers.map((proposer) => ({ proposer })) },
      items: [
        ...Array.from({ length: shared }, (_, at) => item(`S${at}`, at === 0 ? ["c:b"] : ["c:a", "c:b"])),
        item("S0b", ["c:a", "c:b"]),
      ],
      // One of them and one that is in no other campaign: 20.00 in sixty days is 10.00 a month.
      levels: { item: [line("S1", sums(20_000, 0)), line("S0", sums(90_000, 0))] },
    }) as unknown as Material;

  it("are told with what they cost a month, unless they are few or a proposal says so", () => {
    const [found] = sharedHomes(material(5));
    expect(phraseText(found!.says, plainSpelling("EUR"))).toContain("5 items lie in several campaigns: Rakes, All.");
    expect(found).toMatchObject({ fault: "overlap", month: { mean: 10_000 }, money: "spent" });
    expect(sharedHomes(material(4))).toEqual([]);
    expect(sharedHomes(material(5, ["overlap"]))).toEqual([]);
  });
});

describe("orders that stopped", () => {
  const day = (at: number, clicks: number, orders: number) => ({
    ...{ day: at, clicks, orders, cost: clicks * 200, revenue: orders * 50_000, seenClicks: clicks },
  });

  it("are seen while clicks go on, from the first such day, and not where clicks went too", () => {
    const before = Array.from({ length: 30 }, (_, at) => day(at, 500, 12));
    const after = (clicks: number, orders: number) => [5, 6, 7, 8].map((at) => day(25 + at, clicks, orders));
    expect(ordersMissing([...before, ...after(500, 0)])).toMatchObject({ from: 30, orders: 0, cost: 400_000 });
    expect(ordersMissing([...before, ...after(20, 0)])).toBeNull();
    expect(ordersMissing([...before, ...after(500, 11)])).toBeNull();
  });

  it("count late orders as still to come", () => {
    const before = Array.from({ length: 30 }, (_, at) => day(at, 500, 12));
    const late = [30, 31].map((at) => ({ ...day(at, 500, 0), seenClicks: 5 }));
    expect(ordersMissing([...before, ...late])).toBeNull();
  });
});

describe("what can't be told yet", () => {
  it("is told once its spread, which falls with the root of time, is within its distance from the goal", () => {
    // ln(4/1) = 2 × 1.2816 spreads; ln(2/3) lies 0.405 away: (0.5408 × 1.2816 ÷ 0.4055)² = 2.92 windows of 30 days.
    const one = { ...line("a", sums(1, 1)), sure: { low: 1, mean: 2, high: 4 } };
    expect(daysUntilTold(one, { goal: 3, days: 30 })).toBe(58);
    expect(daysUntilTold({ ...one, sure: null }, { goal: 3, days: 30 })).toBeNull();
  });
});

describe("a finding about many", () => {
  it("keeps a hundred by name, and how many there are", () => {
    const about = Array.from({ length: 250 }, (_, at) => ({ kind: "item" as const, key: String(at), name: "" }));
    const kept = asKept({
      ...{ key: "homeless", fault: "homeless", about, says: [], month: null, money: "to gain", stands: null },
      mend: { by: "place", path: "catalogue", words: "See them" },
    });
    expect([kept.about.length, kept.about[99]!.key, kept.count]).toEqual([100, "99", 250]);
  });
});

describe("masked names", () => {
  const noBrand = () => false;

  it("stay the same, are numbered by kind, and are never the real name of something else", () => {
    const known = new Map([["item\nA7", 3]]);
    const aliases = new Aliases(known, ["Item 4", "Spring"]);
    const item = (key: string) => aliases.of({ kind: "item", key, name: key });
    expect([item("A7"), item("B1"), item("B1"), item("C")]).toEqual(["Item 3", "Item 5", "Item 5", "Item 6"]);
    expect(aliases.of({ kind: "brand", key: "x", name: "x" })).toBe("Brand A");
    expect(aliases.fresh.map(({ key, no }) => [key, no])).toEqual([
      ["B1", 5],
      ["C", 6],
      ["x", 1],
    ]);
  });

  it("leave words that anybody could have written, unless a brand is in them", () => {
    const term = { kind: "term" as const, key: "thornlea rake", name: "" };
    expect([isMasked(term, noBrand), isMasked(term, (text) => text.includes("thornlea"))]).toEqual([false, true]);
    expect(isMasked({ kind: "campaign", key: "c", name: "Spring" }, noBrand)).toBe(true);
  });

  it("scale amounts so that all spend is 100,000", () => {
    const spelling = maskedSpelling(new Aliases(new Map(), []), 2_000_000, noBrand);
    expect(spelling.money(500_000)).toBe("25,000");
  });

  it("are searched for word by word; what stands in every report gives nothing away", () => {
    const found = (text: string) => findUnmasked(text, ["Gloves Push", "Spend", "B12"], "Spend and sales");
    expect(found("Item 4 of gloves-push, spend 12")).toEqual(["gloves push"]);
    expect(found("Gloves, push; B1 2; spend")).toEqual(["gloves push"]);
    expect(found("Item b12")).toEqual(["b12"]);
    expect(found("push gloves, spend")).toEqual([]);
  });
});

describe("two stocktakes", () => {
  it("tell what was mended, is still there, is new and came back", () => {
    const finding = (key: string, mean: number, about: string[] = []) => ({
      ...{ key, fault: "leak" as const, says: [], money: "lost" as const, stands: null },
      ...{ month: { mean, low: mean, high: mean }, mend: { by: "place" as const, path: "", words: "" } },
      ...{ about: about.map((name) => ({ kind: "item" as const, key: name, name })), count: about.length },
    });
    const head = (findings: ReturnType<typeof finding>[], total: Sums) => ({
      ...{ from: 0, to: 29, days: 30, currency: "EUR", goal: 3, missing: [], before: null, findings, total },
    });
    const then = head([finding("a", 9_000, ["x", "y"]), finding("b", 5_000)], sums(10_000, 20_000));
    const now = head([finding("a", 4_000, ["y", "z"]), finding("c", 2_000), finding("d", 1_000)], sums(10_000, 30_000));
    const compared = compareStocktakes(then, now, new Set(["d"]));
    expect(compared.findings.map(({ finding: { key }, became }) => [key, became])).toEqual([
      ["b", "mended"],
      ["a", "still there"],
      ["c", "new"],
      ["d", "came back"],
    ]);
    expect(compared.findings[1]).toMatchObject({ before: 9_000, after: 4_000, gone: 1, came: 1 });
    expect([compared.before.roas, compared.after.roas]).toEqual([2, 3]);
  });
});
