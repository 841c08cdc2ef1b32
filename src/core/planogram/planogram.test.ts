import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { numberColumn, textColumn, type Columns } from "../kit/columns";
import { applyDiff, diffSize, invertDiff } from "../kit/diff";
import { Account, type Structure } from "../account/account";
import { proveHomes } from "../account/homes";
import type { ProductGroup } from "../account/records/product-group";
import { lifted, recordsOf, without } from "../account/testing";
import { servingGroups } from "../account/walk";
import { NO_PLANS_BEFORE, replan } from "./merge";
import { countProductGroups, plannedCampaigns } from "./planned-campaigns";
import { plannedRecords } from "./planned-records";
import { renderName, settleNames } from "./names";
import { planCatalogue } from "./plan";
import { planogramSchema, type Planogram } from "./planogram";
import { previewPlan } from "./preview";
import { proveAccount as proveOn } from "./testing";

/** Plans onto an account given by its records. */
function proveAccount(plan: Planogram, catalogue: Columns, live: Structure) {
  const proved = proveOn(plan, catalogue, Account.fromStructure(live));
  return { ...proved, after: proved.after.toStructure() };
}

const serving = (structure: Structure, catalogue: Columns) =>
  servingGroups(Account.fromStructure(structure), catalogue);

const base: Planogram = {
  key: "plan",
  name: "Plan",
  ladder: [
    { by: "brand", largest: null },
    { by: "shelf:tiers", largest: null },
  ],
  campaignLine: 1,
  adGroupLine: 2,
  inStockOnly: false,
  campaignName: [{ kind: "field", field: "level-1" }],
  adGroupName: [{ kind: "field", field: "level-2" }],
  purpose: "scale",
  bidding: "fixed",
  goal: null,
  totalBudget: 100_000,
  shareBy: "items",
  startingBid: 300,
  serveOrder: 3,
  replaces: [],
};

function catalogueOf(rows: { brand: string; shelf: string; stock?: string }[]): Columns {
  return {
    length: rows.length,
    columns: {
      itemNo: numberColumn(rows.keys()),
      id: textColumn(rows.map((_, i) => `I${i}`)),
      brand: textColumn(rows.map(({ brand }) => brand)),
      "shelf:tiers": textColumn(rows.map(({ shelf }) => shelf)),
      availability: textColumn(rows.map(({ stock }) => stock ?? "in stock")),
    },
  };
}

const row = fc.record({
  brand: fc.constantFrom("Thornlea", "Ottersby", "Veldine", "", "A/B=C"),
  shelf: fc.constantFrom("Hot", "Cold", ""),
  stock: fc.constantFrom("in stock", "out of stock"),
});
const rows = fc.array(row, { maxLength: 40 });
const ladder = fc.uniqueArray(fc.constantFrom("brand", "shelf:tiers", "id"), { minLength: 1, maxLength: 3 });
const planogram = fc
  .record({
    ladder,
    lines: fc.tuple(fc.integer({ min: 0, max: 3 }), fc.integer({ min: 0, max: 3 })),
    inStockOnly: fc.boolean(),
    pool: fc.option(fc.integer({ min: 1, max: 3 })),
  })
  .map(({ ladder: fields, lines, inStockOnly, pool }): Planogram => {
    const [a, b] = lines.map((line) => Math.min(line, fields.length)).sort((x, y) => x - y);
    const splits = fields.map((by) => ({
      by,
      largest: pool === null ? null : { count: pool, measure: "items" as const },
    }));
    return { ...base, ladder: splits, campaignLine: a!, adGroupLine: b!, inStockOnly };
  });

describe("a plan", () => {
  it("gives every item that no filter leaves out exactly one home, proved by walking the records", () => {
    fc.assert(
      fc.property(rows, planogram, (list, plan) => {
        const catalogue = catalogueOf(list);
        const { proof, plan: planned, planned: records } = proveAccount(plan, catalogue, {});
        const sold = list.filter(({ stock }) => stock === "out of stock").length;
        const kept = plan.inStockOnly ? list.length - sold : list.length;
        const preview = previewPlan(plan, planned, catalogue);
        expect(preview.homes).toEqual({ none: list.length - kept, one: kept, several: 0 });
        expect({ none: proof.none, one: proof.one, several: proof.several }).toEqual(preview.homes);
        expect(proof.leaks).toEqual([]);
        expect(preview.counts).toEqual({
          campaigns: recordsOf(records, "campaign").length,
          adGroups: recordsOf(records, "adGroup").length,
          productGroups: recordsOf(records, "productGroup").filter(({ role }) => role === "unit").length,
          items: kept,
        });
        const budgets = recordsOf(records, "campaign").reduce((sum, c) => sum + c.dailyBudget, 0);
        expect(budgets).toBe(kept > 0 ? plan.totalBudget : 0);
        for (const group of recordsOf(records, "productGroup")) {
          if (group.role === "remainder") expect(group.status).toBe("closed");
        }
      }),
    );
  });

  it("counts as a brute force does, worked out by hand", () => {
    const catalogue = catalogueOf([
      { brand: "Thornlea", shelf: "Hot" },
      { brand: "Thornlea", shelf: "Cold" },
      { brand: "Thornlea", shelf: "Cold" },
      { brand: "Ottersby", shelf: "Hot" },
      { brand: "", shelf: "Hot", stock: "out of stock" },
    ]);
    const plan = planCatalogue({ ...base, inStockOnly: true }, catalogue);
    const { campaigns } = plannedCampaigns(base, plan);
    expect(
      campaigns.map((c) => [c.name, c.items, c.dailyBudget, c.adGroups.map((g) => `${g.name} ${g.items}`)]),
    ).toEqual([
      ["Thornlea", 3, 74_750, ["Hot 1", "Cold 2"]],
      ["Ottersby", 1, 25_250, ["Hot 1"]],
    ]);
    expect(plan.leftOut).toBe(1);
    expect(countProductGroups(plan)).toBe(3);
  });

  it("pools the small values by name, leaving nothing open", () => {
    const list = [..."AAAABBBCCD"].map((brand) => ({ brand, shelf: "Hot" }));
    const pooled = {
      ...base,
      ladder: [{ by: "brand", largest: { count: 2, measure: "items" as const } }],
      adGroupLine: 1,
      adGroupName: base.campaignName,
    };
    const { planned, proof } = proveAccount(pooled, catalogueOf(list), {});
    expect(recordsOf(planned, "campaign").map(({ name }) => name)).toEqual(["A", "B", "remainder"]);
    const units = recordsOf(planned, "productGroup").filter(
      ({ adGroup, role }) => adGroup.includes("~rest") && role === "unit",
    );
    expect(units.map(({ value }) => value)).toEqual(["C", "D"]);
    expect([proof.one, proof.leaks.length]).toEqual([10, 0]);
  });

  it("has keys that do not depend on the order of the feed", () => {
    fc.assert(
      fc.property(rows, planogram, (list, plan) => {
        const keys = (members: typeof list) => [
          ...plannedRecords(plan, planCatalogue(plan, catalogueOf(members)), catalogueOf(members)).keys(),
        ];
        const notItems = (key: string) => !key.includes("id=");
        if (plan.ladder.some(({ largest }) => largest !== null)) return;
        expect(keys(list).filter(notItems).sort()).toEqual(
          keys([...list].reverse())
            .filter(notItems)
            .sort(),
        );
      }),
    );
  });

  it("needs its fields, and lines in order", () => {
    expect(() => planCatalogue({ ...base, ladder: [{ by: "colour", largest: null }] }, catalogueOf([]))).toThrow(
      RangeError,
    );
    expect(planogramSchema.safeParse({ ...base, campaignLine: 2, adGroupLine: 1 }).success).toBe(false);
    expect(planogramSchema.safeParse({ ...base, bidding: "return" }).success).toBe(false);
    expect(planogramSchema.safeParse(base).success).toBe(true);
  });
});

describe("homes", () => {
  /** The obvious version: each item asks every tree, condition by condition. */
  function slowHomes(structure: Structure, catalogue: Columns): number[] {
    const groups = recordsOf(structure, "productGroup");
    const text = (field: string, i: number) => {
      const column = catalogue.columns[field];
      return column?.kind === "text" ? column.values[column.codes[i]!] : undefined;
    };
    const serves = (group: ProductGroup, i: number): number => {
      if (group.status === "closed") return 0;
      if (group.role !== "split") return 1;
      const children = groups.filter(({ parent }) => parent === group.key);
      const hit = children.find((child) => child.value !== null && child.value === text(group.by!, i));
      const next = hit ?? children.find((child) => child.value === null);
      return next ? serves(next, i) : 0;
    };
    return Array.from({ length: catalogue.length }, (_, i) =>
      recordsOf(structure, "adGroup").reduce((sum, adGroup) => {
        const campaign = structure[adGroup.campaign];
        const root = groups.find((group) => group.adGroup === adGroup.key && group.parent === null);
        const isOn = campaign?.type === "campaign" && campaign.status === "on" && adGroup.status === "on";
        const excluded = recordsOf(structure, "exclusion").some(
          (x) => x.item === `I${i}` && (x.campaign === null || x.campaign === adGroup.campaign),
        );
        const isOut =
          campaign?.type === "campaign" && campaign.inStockOnly && text("availability", i) === "out of stock";
        return sum + (isOn && root && !excluded && !isOut ? serves(root, i) : 0);
      }, 0),
    );
  }

  it("agree with a slow obvious version on accounts that were edited at random", () => {
    const edit = fc.tuple(fc.nat(), fc.constantFrom("open", "close", "pause", "bid", "exclude"));
    fc.assert(
      fc.property(rows, planogram, planogram, fc.array(edit, { maxLength: 6 }), (list, first, second, edits) => {
        const catalogue = catalogueOf(list);
        let account = proveAccount(first, catalogue, {}).after;
        account = proveAccount({ ...second, key: "other" }, catalogue, account).after;
        for (const [at, what] of edits) {
          const keys = Object.keys(account);
          const record = account[keys[at % Math.max(1, keys.length)]!];
          if (what === "exclude") account = without(account, `I${at % 50}`);
          else if (record?.type === "productGroup") {
            if (what === "bid") {
              account = lifted(account, record.key, `I${at % 50}`, 99) ?? account;
            } else account = { ...account, [record.key]: { ...record, status: what === "open" ? "on" : "closed" } };
          } else if (record?.type === "campaign")
            account = { ...account, [record.key]: { ...record, status: "paused" } };
        }
        // Labels stand for the shelves as they were sent; here they are the same as the catalogue's own column.
        const proof = proveHomes(serving(account, catalogue), catalogue.length);
        expect([...proof.perRow]).toEqual(slowHomes(account, catalogue));
        expect(proof.none + proof.one + proof.several).toBe(list.length);
      }),
      { numRuns: 200 },
    );
  });

  it("go by the labels that were sent, not by where the shelves stand now", () => {
    const before = catalogueOf([
      { brand: "A", shelf: "Hot" },
      { brand: "A", shelf: "Cold" },
    ]);
    const byShelf: Planogram = { ...base, ladder: [{ by: "shelf:tiers", largest: null }], adGroupLine: 1 };
    const { after } = proveAccount(byShelf, before, {});
    const now = catalogueOf([
      { brand: "A", shelf: "Cold" },
      { brand: "A", shelf: "Cold" },
    ]);
    const hot = serving(after, now).find(({ campaign }) => campaign.name === "Hot")!;
    expect([...hot.rows]).toEqual([0]);
  });

  it("lift an item into a unit of its own without opening anything or losing the rest", () => {
    const catalogue = catalogueOf([1, 2, 3].map(() => ({ brand: "A", shelf: "Hot" })));
    const { after } = proveAccount(base, catalogue, {});
    const unit = serving(after, catalogue)[0]!.group.key;
    const again = lifted(lifted(after, unit, "I1", 900)!, `${unit}/rest`, "I2", 800)!;
    const held = serving(again, catalogue).map(({ bid, rows: some, leak }) => [bid, [...some], leak]);
    expect(held.sort((a, b) => Number(b[0]) - Number(a[0]))).toEqual([
      [900, [1], false],
      [800, [2], false],
      [300, [0], false],
    ]);
    // Planning again keeps what was lifted.
    expect(diffSize(proveAccount(base, catalogue, again).diff)).toBe(0);
  });
});

describe("planning again", () => {
  const list = [
    { brand: "A", shelf: "Hot" },
    { brand: "A", shelf: "Cold" },
    { brand: "B", shelf: "Hot" },
  ];

  it("changes nothing when nothing changed, and can be taken back", () => {
    fc.assert(
      fc.property(rows, planogram, (members, plan) => {
        const catalogue = catalogueOf(members);
        const first = proveAccount(plan, catalogue, {});
        expect(diffSize(proveAccount(plan, catalogue, first.after).diff)).toBe(0);
        expect(applyDiff(first.after, invertDiff(first.diff))).toEqual({});
      }),
    );
  });

  it("keeps hand-set bids, pauses what is no longer planned, and pauses what it takes the place of", () => {
    const catalogue = catalogueOf(list);
    const old: Structure = {
      old: {
        type: "campaign",
        key: "old",
        name: "Old",
        kind: "feed",
        purpose: "catch-all",
        bidding: "fixed",
        goal: null,
        dailyBudget: 5000,
        status: "on",
        serveOrder: 5,
        inStockOnly: false,
        origin: null,
      },
    };
    const { after } = proveAccount({ ...base, replaces: ["old"] }, catalogue, old);
    expect(after["old"]).toMatchObject({ status: "paused" });
    const unit = recordsOf(after, "productGroup").find(({ role, value }) => role === "unit" && value === "Cold")!;
    const edited: Structure = { ...after, [unit.key]: { ...unit, bid: 777 } };
    const smaller = catalogueOf(list.slice(0, 2));
    const planned = plannedRecords(base, planCatalogue(base, smaller), smaller);
    const again = (from: Structure) =>
      replan(Account.fromStructure(from), planned, NO_PLANS_BEFORE, base.key, []).draft.diff();
    const next = applyDiff(edited, again(edited));
    expect(next[unit.key]).toMatchObject({ bid: 777 });
    expect(recordsOf(next, "campaign").map(({ name, status }) => `${name} ${status}`)).toEqual([
      "Old paused",
      "A on",
      "B paused",
    ]);
    expect(diffSize(again(next))).toBe(0);
  });
});

describe("names", () => {
  const values = {
    levels: ["Seeds", ""],
    purpose: "scale",
    planogram: "P",
    campaign: "C",
    product: "",
    number: 2,
    kind: "feed",
    firstDay: "",
    match: "",
  };

  it("drop parts without a value together with the text before them", () => {
    const pattern = [
      { kind: "field", field: "level-1" },
      { kind: "text", text: " · " },
      { kind: "field", field: "level-2" },
      { kind: "text", text: " #" },
      { kind: "field", field: "number" },
    ] as const;
    expect(renderName([...pattern], values)).toBe("Seeds #2");
    expect(
      renderName(
        [
          { kind: "text", text: "All " },
          { kind: "field", field: "level-1" },
        ],
        values,
      ),
    ).toBe("All Seeds");
  });

  it("are cut to fit and told apart", () => {
    const { names, cut, numbered } = settleNames(["aaaaaaaaaaaa", "b", "b", ""], 8);
    expect(names).toEqual(["aaaaaaa…", "b", "b (2)", "Unnamed"]);
    expect([cut, numbered]).toEqual([1, 1]);
    // Many alike are numbered without counting through them again for each; so many would take minutes otherwise.
    expect(settleNames(Array<string>(100_000).fill("Hoses")).names.at(-1)).toBe("Hoses (100000)");
    fc.assert(
      fc.property(fc.array(fc.string({ maxLength: 12 })), (list) => {
        const settled = settleNames(list, 9).names;
        expect(new Set(settled).size).toBe(list.length);
        for (const name of settled) expect(name.length).toBeLessThanOrEqual(9);
      }),
    );
  });
});
