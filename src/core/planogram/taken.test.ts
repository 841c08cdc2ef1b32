import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Account } from "../account/account";
import { recordsOf } from "../account/testing";
import { servingGroups } from "../account/walk";
import { numberColumn, textColumn, type Columns } from "../kit/columns";
import { namesByLevels } from "./names";
import { ancestorAt, planCatalogue, type Plan } from "./plan";
import { plannedFrame, plannedRecords } from "./planned-records";
import { reachedByPlan } from "./reached";
import { plannedCampaigns } from "./planned-campaigns";
import { planogramSchema, type Planogram } from "./planogram";
import { previewPlan } from "./preview";
import { proveAccount } from "./testing";

const base: Planogram = planogramSchema.parse({
  ...{ key: "plan", name: "Plan", ladder: [{ by: "brand", largest: null }], campaignLine: 1, adGroupLine: 1 },
  ...{ inStockOnly: false, campaignName: namesByLevels(0, 1), adGroupName: namesByLevels(1, 1) },
  ...{ purpose: "scale", bidding: "fixed", goal: null, totalBudget: 100_001, shareBy: "items", startingBid: 300 },
  ...{ serveOrder: 3, replaces: [] },
});

interface Row {
  brand: string;
  kind: string;
  stock: string;
}

function catalogueOf(rows: Row[]): Columns {
  return {
    length: rows.length,
    columns: {
      itemNo: numberColumn(rows.keys()),
      id: textColumn(rows.map((_, i) => `I${i}`)),
      brand: textColumn(rows.map(({ brand }) => brand)),
      kind: textColumn(rows.map(({ kind }) => kind)),
      availability: textColumn(rows.map(({ stock }) => stock)),
    },
  };
}

const row = fc.record({
  brand: fc.constantFrom("Thornlea", "Ottersby", "Veldine", ""),
  kind: fc.constantFrom("rake", "hose", "can"),
  stock: fc.constantFrom("in stock", "out of stock"),
});

const split = (by: string) =>
  fc.record({
    by: fc.constant(by),
    largest: fc.option(fc.record({ count: fc.integer({ min: 1, max: 2 }), measure: fc.constant("items" as const) })),
    values: fc.option(fc.constantFrom<string[]>(["Thornlea"], ["rake", "hose", "Veldine"], [""]), { nil: undefined }),
    others: fc.constantFrom("pooled" as const, "closed" as const, "divided" as const, undefined),
    othersBy: fc.constant(by === "brand" ? "kind" : "brand"),
  });

/** Rows by ad group that a plan's trees lead to, reckoned from the plan. */
function reachedBy(planogram: Planogram, plan: Plan): Record<string, number[]> {
  const { adGroups } = plannedFrame(planogram, plan, { length: 0, columns: {} });
  const found = reachedByPlan(plan, (node) => ancestorAt(plan, node, planogram.adGroupLine));
  return Object.fromEntries([...found].map(([node, rows]) => [adGroups[0]!.get(node)!, [...rows]]));
}

/** The same by walking the records, with campaigns that let sold-out items through. */
function walked(planogram: Planogram, plan: Plan, catalogue: Columns): Record<string, number[]> {
  const records = plannedRecords({ ...planogram, inStockOnly: false }, plan, catalogue);
  const rows: Record<string, number[]> = {};
  for (const group of servingGroups(Account.of(records.values()), catalogue)) {
    (rows[group.adGroup.key] ??= []).push(...group.rows);
  }
  for (const list of Object.values(rows)) list.sort((a, b) => a - b);
  return rows;
}

describe("what a planogram does not take", () => {
  it("has no home and is counted by the first rule that leaves it out; all else has exactly one, walked over the records", () => {
    const wanted = fc.array(fc.boolean(), { minLength: 30, maxLength: 30 });
    fc.assert(
      fc.property(fc.array(row, { maxLength: 30 }), split("brand"), split("kind"), wanted, (rows, a, b, marks) => {
        const catalogue = catalogueOf(rows);
        const planogram: Planogram = { ...base, ladder: [a, b], adGroupLine: 2, inStockOnly: true };
        const isWanted = Uint8Array.from(rows, (_, i) => (marks[i] ? 1 : 0));
        const plan = planCatalogue(planogram, catalogue, {}, isWanted);

        // Slower and obvious: row by row, rule by rule.
        let left = rows.map((one, i) => ({ one, i }));
        const counts: Record<string, number> = {};
        const drop = (rule: string, isOut: (one: Row, i: number) => boolean) => {
          const out = left.filter(({ one, i }) => isOut(one, i));
          if (out.length > 0) counts[rule] = out.length;
          left = left.filter(({ one, i }) => !isOut(one, i));
        };
        drop("filter ", (_, i) => !marks[i]);
        drop("sold out ", ({ stock }) => stock === "out of stock");
        for (const [at, one] of [a, b].entries()) {
          const field = at === 0 ? "brand" : "kind";
          const sizes = new Map<string, number>();
          for (const { one: item } of left) sizes.set(item[field], (sizes.get(item[field]) ?? 0) + 1);
          const bySize = [...sizes]
            .filter(([value]) => value !== "")
            .sort((x, y) => y[1] - x[1] || (x[0] < y[0] ? -1 : 1));
          const taken = one.values
            ? new Set(one.values)
            : one.largest
              ? // What has no value is none of the largest.
                new Set(bySize.slice(0, one.largest.count).map(([value]) => value))
              : null;
          if (one.others === "closed" && taken) drop(`not taken ${at + 1}`, (item) => !taken.has(item[field]));
        }
        expect(
          Object.fromEntries(plan.leftOutBy.map(({ rule, split: at, items }) => [`${rule} ${at ?? ""}`, items])),
        ).toEqual(counts);
        expect([...plan.home].flatMap((home, i) => (home >= 0 ? [i] : []))).toEqual(left.map(({ i }) => i));
        // The records say the same when they are walked.
        const { proof } = proveAccount(planogram, catalogue, Account.fromStructure({}), {}, isWanted);
        expect([...proof.perRow].flatMap((homes, i) => Array<number>(homes).fill(i))).toEqual(left.map(({ i }) => i));
        expect(proof.leaks).toEqual([]);
        // And so do the rows that its trees lead to without being made, sold-out ones with them.
        expect(reachedBy(planogram, plan)).toEqual(walked(planogram, plan, catalogue));
        const preview = previewPlan(planogram, plan, catalogue);
        expect(preview.counts.items).toBe(left.length);
        expect(
          preview.campaigns.every(({ items, adGroups }) => items > 0 && adGroups.every((group) => group.items > 0)),
        ).toBe(true);
      }),
    );
  });

  it("is divided by another field where that was chosen, each value a branch of its own", () => {
    const list: [brand: string, kind: string][] = [
      ...[
        ["Thornlea", "rake"],
        ["Thornlea", "hose"],
        ["Ottersby", "rake"],
        ["Veldine", "hose"],
        ["Veldine", "rake"],
      ],
    ] as [string, string][];
    const rows = list.map(([brand, kind]) => ({ brand, kind, stock: "in stock" }));
    const planogram: Planogram = {
      ...base,
      ladder: [{ by: "brand", largest: null, values: ["Thornlea"], others: "divided", othersBy: "kind" }],
    };
    const { proof, planned, after } = proveAccount(planogram, catalogueOf(rows), Account.fromStructure({}));
    expect([proof.one, proof.leaks.length]).toEqual([5, 0]);
    const names = new Map(recordsOf(planned, "campaign").map(({ key, name }) => [key, name]));
    expect([...names.values()].sort()).toEqual(["Thornlea", "hose", "rake"]);
    const byRow = new Map<number, string>();
    for (const { campaign, rows: held } of servingGroups(after, catalogueOf(rows))) {
      for (const row of held) byRow.set(row, names.get(campaign.key)!);
    }
    expect(list.map((_, row) => byRow.get(row))).toEqual(["Thornlea", "Thornlea", "rake", "hose", "rake"]);
    // Two brands of rakes: the tree names each brand, and below it the kind.
    expect(previewPlan(planogram, planCatalogue(planogram, catalogueOf(rows)), catalogueOf(rows)).counts).toEqual({
      ...{ campaigns: 3, adGroups: 3, productGroups: 4, items: 5 },
    });
    expect(
      planogramSchema.safeParse({ ...planogram, ladder: [{ ...planogram.ladder[0], othersBy: undefined }] }).success,
    ).toBe(false);
  });

  it("stays closed in the records too", () => {
    const rows = ["Thornlea", "Thornlea", "Ottersby", "Veldine"].map((brand) => ({
      brand,
      kind: "rake",
      stock: "in stock",
    }));
    const planogram: Planogram = {
      ...base,
      ladder: [{ by: "brand", largest: { count: 1, measure: "items" }, others: "closed" }],
    };
    const { proof, planned } = proveAccount(planogram, catalogueOf(rows), Account.fromStructure({}));
    expect([...proof.perRow]).toEqual([1, 1, 0, 0]);
    expect(proof.leaks).toEqual([]);
    expect(recordsOf(planned, "campaign").map(({ name }) => name)).toEqual(["Thornlea"]);
  });
});

describe("budgets set by hand", () => {
  const names = ["a", "b", "c", "d"];
  const rows = names.flatMap((brand, i) =>
    Array.from({ length: i + 1 }, () => ({ brand, kind: "k", stock: "in stock" })),
  );
  const plan = planCatalogue(base, catalogueOf(rows));
  const keys = plannedCampaigns(base, plan).campaigns.map(({ key }) => key);

  it("stay as they are, and the others share what is left, to the last mill", () => {
    fc.assert(
      fc.property(fc.array(fc.option(fc.integer({ min: 0, max: 60_000 })), { minLength: 4, maxLength: 4 }), (hand) => {
        const budgets = Object.fromEntries(keys.flatMap((key, i) => (hand[i] === null ? [] : [[key, hand[i]!]])));
        const { campaigns } = plannedCampaigns({ ...base, budgets }, plan);
        const sum = campaigns.reduce((total, one) => total + one.dailyBudget, 0);
        const byHand = Object.values(budgets).reduce((total, one) => total + one, 0);
        const areAllSet = Object.keys(budgets).length === keys.length;
        expect(sum).toBe(areAllSet ? byHand : Math.max(base.totalBudget, byHand));
        campaigns.forEach(({ key, dailyBudget, isSetByHand }) => {
          expect(isSetByHand).toBe(budgets[key] !== undefined);
          if (isSetByHand) expect(dailyBudget).toBe(budgets[key]);
        });
      }),
    );
  });
});

describe("usual names", () => {
  it("take every split that sets a group apart, and the planogram's where none does", () => {
    expect(namesByLevels(0, 0)).toEqual([{ kind: "field", field: "planogram" }]);
    expect(namesByLevels(1, 3)).toEqual([
      { kind: "field", field: "level-2" },
      { kind: "text", text: " · " },
      { kind: "field", field: "level-3" },
    ]);
    expect(() => planogramSchema.shape.campaignName.parse(namesByLevels(0, 7))).not.toThrow();
  });
});
