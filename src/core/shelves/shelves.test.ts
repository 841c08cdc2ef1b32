import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Column } from "../kit/columns";
import { emptyRowSums, sumsByCode, totalOf, type RowSums } from "../results/window-sums";
import { assignShelves, blankMemory, shelfDegrees, WHY, type ShelfInputs } from "./assign";
import { blankSet, READY_MADE, returnByChance, returnTiers } from "./ready-made";
import { metricValues, SHELF_METRICS, type MetricInputs } from "./shelf-metrics";
import { shelfSetSchema, shelvesOf, type ShelfRule, type ShelfSet } from "./shelf-set";

type Line = { clicks: number; orders: number; cost: number; revenue: number; storeRevenue?: number };

function sumsOf(rows: Line[]): RowSums {
  const sums = emptyRowSums(rows.length);
  rows.forEach((row, i) => {
    for (const [key, value] of Object.entries(row)) sums[key as keyof RowSums][i] = value;
    sums.units[i] = row.orders;
  });
  return sums;
}

function metricInputs(sums: RowSums): MetricInputs {
  return {
    ...{ sums, late: null, days: 90, goal: 3, family: null, evidence: null },
    ...{ paid: null, margin: null, breakEven: null, stock: null, age: null },
  };
}

/** Inputs with the metrics of some sums, and fields and picks beside them. */
function inputsOf(
  sums: RowSums,
  columns: Record<string, Column> = {},
  picks: Record<string, number[]> = {},
): ShelfInputs {
  return {
    ...{ sums, expected: null },
    column: (name) => {
      const values = metricValues(name, metricInputs(sums));
      return columns[name] ?? (values ? { kind: "number", values } : undefined);
    },
    picked: (shelf) => picks[shelf] && Uint8Array.from(sums.clicks, (_, row) => (picks[shelf]!.includes(row) ? 1 : 0)),
  };
}

function fresh(set: ShelfSet, inputs: ShelfInputs): number[] {
  const length = inputs.sums.clicks.length;
  return [...assignShelves(shelfDegrees(set, inputs), blankMemory(length), set).shelf];
}

const set = returnTiers(3);
const at = (roas: number, clicks = 100): Line => ({ clicks, orders: 0, cost: 1000, revenue: roas * 1000 });

describe("shelves", () => {
  it("take the first tier whose cut is reached; too little evidence is no verdict", () => {
    // Cuts at goal 3: 5.4, 3.45, 2.4, 1.2.
    const rows = [at(6), at(5.4), at(5.39), at(3), at(1.2), at(1.19), at(0), at(9, 19), { ...at(9, 5), orders: 3 }];
    expect(fresh(set, inputsOf(sumsOf(rows)))).toEqual([0, 0, 1, 2, 3, 4, 4, 5, 0]);
    expect(shelvesOf(set).map(({ key }) => key)).toEqual(["hot", "warm", "mild", "cool", "cold", "unread"]);
  });

  it("are a partition, and agree with a slow obvious version", () => {
    const row = fc.record({
      clicks: fc.integer({ min: 0, max: 60 }),
      orders: fc.integer({ min: 0, max: 5 }),
      cost: fc.integer({ min: 0, max: 5000 }),
      revenue: fc.integer({ min: 0, max: 30_000 }),
    });
    fc.assert(
      fc.property(fc.array(row, { maxLength: 50 }), (rows) => {
        const sums = sumsOf(rows);
        const shelf = fresh(set, inputsOf(sums));
        const cuts = [5.4, 3.45, 2.4, 1.2, -Infinity];
        const slow = rows.map(({ clicks, orders, cost, revenue }) => {
          if (clicks < 20 && orders < 3) return 5;
          // Neither spent nor sold: there is no return to cut by.
          if (cost === 0 && revenue === 0) return 5;
          const roas = cost > 0 ? revenue / cost : Infinity;
          return cuts.findIndex((least) => roas >= least);
        });
        expect(shelf).toEqual(slow);
        const total = totalOf(sums);
        const parts = sumsByCode(sums, shelf, 6);
        expect(parts.reduce((sum, part) => sum + part.cost, 0)).toBe(total.cost);
        expect(parts.reduce((sum, part) => sum + part.revenue, 0)).toBe(total.revenue);
      }),
    );
  });

  it("of all kinds stand in one set: picked, ruled and cut, the first match wins", () => {
    const base = { heat: null, goal: null, note: "", lookAgain: null };
    const shelves: ShelfRule[] = [
      { ...base, kind: "pick", key: "own", name: "Own", families: false },
      {
        ...base,
        kind: "rule",
        key: "red",
        name: "Red",
        where: { match: "all", of: [{ field: "colour", op: "is", value: "red" }] },
      },
      {
        ...base,
        kind: "band",
        key: "top",
        name: "Top",
        metric: "revenue",
        side: "above",
        cut: { by: "count", n: 3 },
        evidence: false,
      },
      {
        ...base,
        kind: "band",
        key: "low",
        name: "Low",
        metric: "revenue",
        side: "below",
        cut: { by: "share", share: 0.25 },
        evidence: false,
      },
    ];
    const mixed = blankSet("mixed", "Mixed", 3, shelves);
    // Sales 8, 7, …, 1: the top three are rows 0 to 2, of whom 0 is picked and 1 is red; the lowest quarter are rows 6 and 7.
    const sums = sumsOf([8, 7, 6, 5, 4, 3, 2, 1].map((revenue) => ({ clicks: 1, orders: 1, cost: 1, revenue })));
    const colour: Column = { kind: "text", values: ["", "red"], codes: Uint32Array.from([0, 1, 0, 0, 0, 0, 0, 1]) };
    expect(fresh(mixed, inputsOf(sums, { colour }, { own: [0] }))).toEqual([0, 1, 2, 4, 4, 4, 3, 1]);
  });

  it("of a rule on a field that went away hold nothing, and the partition stands", () => {
    const rule: ShelfRule = {
      ...{ kind: "rule", key: "gone", name: "Gone", heat: null, goal: null, note: "", lookAgain: null },
      where: { match: "all", of: [{ field: "colour", op: "is", value: "red" }] },
    };
    expect(fresh(blankSet("s", "S", 3, [rule]), inputsOf(sumsOf([at(1), at(2)])))).toEqual([1, 1]);
  });

  it("refuse cuts that are no cuts, twins, and a set that asks itself", () => {
    const messages = (given: unknown) => {
      const parsed = shelfSetSchema.safeParse(given);
      return parsed.success ? [] : parsed.error.issues.map(({ message }) => message);
    };
    expect(messages(set)).toEqual([]);
    const wide = set.shelves.map((shelf, i) =>
      i === 1 && shelf.kind === "band" ? { ...shelf, cut: { by: "value", at: 9 } } : shelf,
    );
    expect(messages({ ...set, shelves: wide })).toEqual([
      '"Return 5.4 and up" before it takes all that "Return 3.45 to 5.4" could hold: ROAS goes from the highest cut to the lowest.',
    ]);
    const chance = returnByChance(3);
    const over = chance.shelves.map((shelf, i) => (i === 0 ? { ...shelf, cut: { by: "value", at: 1.5 } } : shelf));
    expect(messages({ ...chance, shelves: over })).toContain("A chance lies between 0 and 1.");
    const twins = set.shelves.map((shelf, i) =>
      i === 1 ? { ...shelf, name: set.shelves[0]!.name.toUpperCase() } : shelf,
    );
    expect(messages({ ...set, shelves: twins })).toEqual(['Two shelves have the name "RETURN 5.4 AND UP".']);
    const nobody = set.shelves.map((shelf) => ({ ...shelf, metric: "luck" }));
    expect(messages({ ...set, shelves: nobody })).toContain("There is no such metric.");
    const rule = {
      kind: "rule",
      key: "r",
      name: "R",
      where: { match: "all", of: [{ field: "shelf:return-tiers", op: "is", value: "hot" }] },
    };
    expect(messages({ ...set, shelves: [rule] })).toEqual(['"R" asks for a shelf of its own set.']);
  });
});

describe("stability", () => {
  function path(lines: Line[][], isNew: (round: number) => boolean = () => true) {
    let memory = blankMemory(lines[0]!.length);
    return lines.map((rows, round) => {
      const next = assignShelves(shelfDegrees(set, inputsOf(sumsOf(rows))), memory, {
        patience: 3,
        isNewData: isNew(round),
      });
      memory = next;
      return [next.shelf[0], next.why[0]];
    });
  }
  const move = (roas: number[]) => path(roas.map((value) => [at(value)])).map(([shelf]) => shelf);

  it("lets an item leave only past the margin, or after three recomputes on the other side", () => {
    // Warm from 3.45 up; 10 % past it is 3.795 upwards and 3.105 downwards.
    expect(move([3, 3.5, 3.5, 3.5])).toEqual([2, 2, 2, 1]);
    expect(move([3, 3.8])).toEqual([2, 1]);
    expect(move([3.6, 3.4, 3.5, 3.4, 3.4, 3.4])).toEqual([1, 1, 1, 1, 1, 2]);
    expect(move([3.6, 3.1])).toEqual([1, 2]);
  });

  it("counts no round while the data is the same, however often one recomputes", () => {
    const same = path(
      [at(3), ...Array.from({ length: 9 }, () => at(3.5))].map((row) => [row]),
      (round) => round <= 1,
    );
    expect(same.map(([shelf]) => shelf)).toEqual(Array.from({ length: 10 }, () => 2));
  });

  it("holds between read and unread too", () => {
    // Read from 20 clicks on: 19 is less than that by under a tenth, 17 by more.
    const clicks = (...counts: number[]) => path(counts.map((count) => [at(3, count)])).map(([shelf]) => shelf);
    expect(clicks(30, 19, 19, 19)).toEqual([2, 2, 2, 5]);
    expect(clicks(30, 17)).toEqual([2, 5]);
    expect(clicks(10, 21, 21, 21)).toEqual([5, 5, 5, 2]);
    expect(clicks(10, 23)).toEqual([5, 2]);
  });

  it("says why an item moved", () => {
    expect(path([[at(3)], [at(3.8)]])).toEqual([
      [2, WHY.arrived],
      [1, WHY.clear],
    ]);
    expect(path([[at(3)], [at(3.5)], [at(3.5)], [at(3.5)]]).at(-1)).toEqual([1, WHY.patience]);
  });

  it("never lets two items of one history stand apart, and in the end comes to where nothing remembers", () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: 0, max: 10, noNaN: true }), { minLength: 1, maxLength: 12 }), (returns) => {
        const walked = path(returns.map((value) => [at(value), at(value)]));
        const settled = path(
          [...returns, ...Array.from({ length: 3 }, () => returns.at(-1)!)].map((value) => [at(value)]),
        );
        expect(walked).toHaveLength(returns.length);
        expect(settled.at(-1)![0]).toBe(fresh(set, inputsOf(sumsOf([at(returns.at(-1)!)])))[0]);
      }),
    );
  });
});

describe("ready-made sets", () => {
  it.each(READY_MADE.map((one) => [one.key, one] as const))(
    "%s is whole, explains itself and names only metrics and fields there are",
    (_, one) => {
      const made = one.make(3);
      expect(shelfSetSchema.safeParse(made).error?.issues ?? []).toEqual([]);
      expect(made.key).toBe(one.key);
      for (const text of [one.about, one.helps, one.hurts, one.learning]) expect(text.length).toBeGreaterThan(20);
      const fields = made.shelves.flatMap((shelf) =>
        shelf.kind === "rule" ? shelf.where.of.flatMap((part) => ("field" in part ? part.field : [])) : [],
      );
      for (const field of fields) expect(Object.keys(SHELF_METRICS).concat("availability")).toContain(field);
    },
  );
});
