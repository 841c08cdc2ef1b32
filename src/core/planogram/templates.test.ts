import { describe, expect, it } from "vitest";
import { conditionsIn, fieldsIn, matchRows } from "../catalogue/where";
import { asText, numberColumn, textColumn, type Columns } from "../kit/columns";
import { READY_MADE } from "../shelves/ready-made";
import { Account } from "../account/account";
import { namesByLevels } from "./names";
import { planogramSchema, type Planogram } from "./planogram";
import { proveAccount } from "./testing";
import { JUDGED, judgedWords } from "./judged";
import { TEMPLATES } from "./templates";

const base: Planogram = planogramSchema.parse({
  ...{ key: "plan", name: "Plan", ladder: [{ by: "brand", largest: null }], campaignLine: 1, adGroupLine: 1 },
  ...{ inStockOnly: true, campaignName: namesByLevels(0, 1), adGroupName: namesByLevels(1, 1) },
  ...{ purpose: "scale", bidding: "fixed", goal: 4, totalBudget: 100_001, shareBy: "items", startingBid: 301 },
  ...{ serveOrder: 3, replaces: ["c:old"] },
});

const SIZE = 240;
const at = (values: string[]) => Array.from({ length: SIZE }, (_, i) => values[(i * 7) % values.length]!);
const catalogue: Columns = {
  length: SIZE,
  columns: {
    itemNo: numberColumn(Array.from({ length: SIZE }, (_, i) => i)),
    id: textColumn(Array.from({ length: SIZE }, (_, i) => `I${i}`)),
    category1: textColumn(at(["a", "b", "c", "d", "e", "f", "g", "h"])),
    category2: textColumn(at(["a1", "b1", "c1", "d1", "e1", "f1", "g1", "h1"])),
    availability: textColumn(at(["in stock", "in stock", "in stock", "out of stock"])),
    "shelf:store-best": textColumn(at(["store-best", "store-middle", "no-store-sales"])),
    "shelf:ads-best": textColumn(at(["ads-best", "ads-middle", "ads-worst"])),
    "shelf:return-by-chance": textColumn(at(["hot", "cold", "unread"])),
    "shelf:price-midpoint": textColumn(at(["below", "above"])),
    "shelf:proven": textColumn(
      at(["Proven", "No order yet", "Proven as a family", "One or two orders", "No order yet"]),
    ),
    family: textColumn(Array.from({ length: SIZE }, (_, i) => `F${Math.floor(i / 5)}`)),
    title: textColumn(Array.from({ length: SIZE }, (_, i) => `Product ${Math.floor(i / 5)}, size ${i % 5}`)),
  },
};

describe("templates", () => {
  it.each(TEMPLATES.map((template) => [template.name, template] as const))(
    "%s is a planogram whose items all have one home, with budgets that add up",
    (_, { change, needs }) => {
      const planogram = planogramSchema.parse({ ...base, ...change(base) });
      const { where } = planogram;
      const asked = [...planogram.ladder.map(({ by }) => by), ...(where ? fieldsIn(where) : [])];
      for (const need of needs) expect(asked).toContain(need);
      const wanted = where ? matchRows(catalogue, where) : null;
      const { proof, plan, after } = proveAccount(planogram, catalogue, Account.fromStructure({}), {}, wanted);
      expect(proof).toMatchObject({ one: SIZE - plan.leftOut, several: 0, leaks: [] });
      expect(plan.leftOut).toBeLessThan(SIZE);
      const campaigns = after.all("campaign");
      expect(campaigns.reduce((sum, { dailyBudget }) => sum + dailyBudget, 0)).toBe(planogram.totalBudget);
      expect(new Set(campaigns.map(({ name }) => name)).size).toBe(campaigns.length);
    },
  );

  it("say what came of them in test worlds, each of them, as a warning where it was often a loss", () => {
    expect(Object.keys(JUDGED.lost).sort()).toEqual(TEMPLATES.map(({ key }) => key).sort());
    for (const [key, lost] of Object.entries(JUDGED.lost)) {
      expect(lost).toBeLessThanOrEqual(JUDGED.worlds);
      expect(judgedWords(key)).toMatchObject({ isWarning: 3 * lost > JUDGED.worlds });
    }
    expect(judgedWords("no such structure")).toBeNull();
  });

  it("ask for sets that are ready-made, and for shelves that these have", () => {
    const made = new Map(READY_MADE.map((one) => [one.key, one.make(3)]));
    for (const { needs, change } of TEMPLATES) {
      for (const need of needs.filter((name) => name.startsWith("shelf:"))) {
        const set = made.get(need.slice("shelf:".length));
        expect([need, set !== undefined]).toEqual([need, true]);
        const shelves = [...set!.shelves, set!.rest];
        const { ladder, where } = planogramSchema.parse({ ...base, ...change(base) });
        const split = ladder.find(({ by }) => by === need);
        for (const value of split?.values ?? []) expect(shelves.map(({ key }) => key)).toContain(value);
        // A filter goes by the names that people see.
        for (const { field, value } of where ? conditionsIn(where) : []) {
          if (field === need) expect(shelves.map(({ name }) => name)).toContain(value);
        }
      }
    }
  });

  it("of which one revives has an easier goal, and those beside the others replace none", () => {
    const of = (key: string) => ({ ...base, ...TEMPLATES.find((one) => one.key === key)!.change(base) });
    expect([of("revive").goal, of("revive").bidding, of("revive").replaces]).toEqual([2.8, "return", []]);
    expect([of("catch-all").startingBid, of("catch-all").serveOrder]).toEqual([151, 9]);
    // What stands beside costs a quarter on top, not as much again.
    const besides = TEMPLATES.filter(({ change }) => change(base).replaces?.length === 0);
    expect(besides.map(({ key }) => key)).toEqual(["store-best", "ads-best", "revive", "solo", "catch-all"]);
    for (const { key } of besides) expect(of(key).totalBudget).toBe(25_000);
    expect(of("one-campaign").campaignName).toEqual([{ kind: "field", field: "planogram" }]);
  });

  it("of solos makes campaigns of whole families, called after their products, for the ten that sold most", () => {
    const solo = planogramSchema.parse({ ...base, ...TEMPLATES.find(({ key }) => key === "solo")!.change(base) });
    const family = asText(catalogue.columns["family"]!);
    // Of 48 families the shelf holds the first twelve; the later ones sold more.
    const wanted = Uint8Array.from(family.codes, (code) => (Number(family.values[code]!.slice(1)) < 12 ? 1 : 0));
    const revenue = Float64Array.from(family.codes, (code) => Number(family.values[code]!.slice(1)) * 1000);
    const first = planogramSchema.parse({ ...base, key: "first", ...TEMPLATES[0]!.change(base), replaces: [] });
    const running = proveAccount(first, catalogue, Account.EMPTY).after;
    const { after } = proveAccount({ ...solo, inStockOnly: false }, catalogue, running, { revenue }, wanted);
    const made = after.all("campaign").filter(({ key }) => !running.has(key));
    expect(made.map(({ name }) => name).sort()).toEqual(
      Array.from({ length: 10 }, (_, i) => `Product ${i + 2}, size`).sort(),
    );
    expect(new Set(made.map(({ serveOrder, dailyBudget }) => `${serveOrder} ${dailyBudget}`))).toEqual(
      new Set(["1 2500"]),
    );
    // What runs is not touched: it takes over when a solo's money is gone.
    for (const record of running.records()) expect(after.get(record.key)).toBe(record);
  });
});
