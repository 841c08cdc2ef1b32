import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { textColumn } from "../kit/columns";
import { emptyRowSums } from "../results/window-sums";
import { assignShelves, blankMemory, readDegrees, shelfDegrees, type ShelfInputs } from "./assign";
import { decodeLive, encodeLive, liveFigures, cutLive, withoutCuts, type LiveSet } from "./live";
import { overlap } from "./figures";
import { READY_MADE, returnTiers } from "./ready-made";
import { shelfSetSchema } from "./shelf-set";
import { familySums, metricValues, type MetricInputs } from "./shelf-metrics";

const set = returnTiers(3);
const line = fc.record({
  clicks: fc.integer({ min: 0, max: 60 }),
  orders: fc.integer({ min: 0, max: 4 }),
  cost: fc.integer({ min: 0, max: 5000 }),
  revenue: fc.integer({ min: 0, max: 30_000 }),
  family: fc.integer({ min: 0, max: 4 }),
  price: fc.integer({ min: 1, max: 99 }),
  now: fc.integer({ min: 0, max: 5 }),
});

function made(
  lines: {
    clicks: number;
    orders: number;
    cost: number;
    revenue: number;
    family: number;
    price: number;
    now: number;
  }[],
) {
  const sums = emptyRowSums(lines.length);
  lines.forEach((one, row) => {
    for (const key of ["clicks", "orders", "cost", "revenue"] as const) sums[key][row] = one[key];
  });
  const roas = metricValues("roas", { sums } as MetricInputs)!;
  const inputs: ShelfInputs = {
    sums,
    expected: null,
    column: () => ({ kind: "number", values: roas }),
    picked: () => undefined,
  };
  const live: LiveSet = {
    ...{ length: lines.length, sums, masks: {}, metrics: { roas } },
    family: Uint32Array.from(lines, ({ family }) => family),
    price: Float64Array.from(lines, ({ price }) => price),
    read: readDegrees(set, inputs),
    now: Uint8Array.from(lines, ({ now }) => now),
  };
  return { inputs, live };
}

describe("a set cut anew on the screen", () => {
  it("comes through bytes, stands as the server would put it, and its figures agree with slow counts", () => {
    fc.assert(
      fc.property(fc.array(line, { maxLength: 40 }), (lines) => {
        const { inputs, live } = made(lines);
        const read = decodeLive(encodeLive(live).buffer);
        const shelf = cutLive(set, read);
        expect([...shelf]).toEqual([...assignShelves(shelfDegrees(set, inputs), blankMemory(lines.length), set).shelf]);
        const { shelves, moved } = liveFigures(set, read);
        expect(moved).toBe(lines.filter(({ now }, row) => now !== shelf[row]).length);
        shelves.forEach((figures, at) => {
          const mine = lines.filter((_, row) => shelf[row] === at);
          const families =
            new Set(mine.map(({ family }) => family).filter((family) => family > 0)).size +
            mine.filter(({ family }) => family === 0).length;
          expect(figures).toMatchObject({
            items: mine.length,
            families,
            came: mine.filter(({ now }) => now !== at).length,
          });
          expect(figures.sums.cost).toBe(mine.reduce((sum, { cost }) => sum + cost, 0));
          expect(figures.priceFrom).toBe(mine.length ? Math.min(...mine.map(({ price }) => price)) : null);
        });
      }),
    );
  });
});

describe("a set without its cuts", () => {
  const sets = READY_MADE.map(({ make }) => make(3.5));

  it.each(sets.map((one) => [one.name, one] as const))(
    "is sound for %s, so that its columns can be asked for",
    (_, one) => {
      expect(shelfSetSchema.safeParse(withoutCuts(one)).error?.issues ?? []).toEqual([]);
    },
  );

  it("stays the same however cuts are dragged, and is another one with another metric", () => {
    for (const one of sets) {
      const dragged = structuredClone(one);
      for (const shelf of dragged.shelves) {
        shelf.name = `${shelf.name} or so`;
        if (shelf.kind === "band" && shelf.cut?.by === "value") shelf.cut.at *= 0.9;
      }
      expect(withoutCuts(dragged)).toEqual(withoutCuts(one));
      const [first] = dragged.shelves;
      if (first?.kind !== "band") continue;
      first.metric = first.metric === "clicks" ? "cost" : "clicks";
      expect(withoutCuts(dragged)).not.toEqual(withoutCuts(one));
    }
  });
});

describe("metrics of shelves", () => {
  const sums = emptyRowSums(4);
  sums.orders.set([2, 1, 0, 5]);
  sums.cost.set([10, 30, 0, 50]);
  sums.revenue.set([60, 40, 0, 100]);
  sums.storeOrders.set([10, 2, 9, 5]);
  sums.storeRevenue.set([300, 60, 540, 100]);
  const late = emptyRowSums(4);
  late.storeOrders.set([5, 0, 3, 5]);
  const inputs: MetricInputs = {
    ...{ sums, late: { sums: late, days: 10 }, days: 40, goal: 3, evidence: null },
    family: textColumn(["f", "f", "", "g"]),
    paid: Float64Array.from([30, 40, 60, 20]),
    margin: Float64Array.from([0.5, NaN, 0.5, 0.1]),
    breakEven: Float64Array.from([2, NaN, 2, 10]),
    stock: Float64Array.from([5, 5, 0, NaN]),
    age: Float64Array.from([1, NaN, 20, 300]),
  };
  const of = (name: string) => [...metricValues(name, inputs)!];

  it("are what hand-worked numbers say", () => {
    expect(of("shopRevenue")).toEqual([240, 20, 540, 0]);
    expect(of("shopOrders")).toEqual([8, 1, 9, 0]);
    // A tenth of 1,000 of store sales is 10 points; of 90 of spend the first item takes 11.1.
    expect(of("storeGap")[0]).toBeCloseTo(30 - 100 / 9, 9);
    expect(of("contribution")).toEqual([20, NaN, 0, -40]);
    // The first pays at its margin; the second has no known cost and misses the goal; the last loses at a margin of a tenth.
    expect(of("goodOrders")).toEqual([2, 0, 0, 0]);
    // 5 in the last 10 days against 5 in the 30 before is three times the pace; nothing before is no pace.
    expect(of("pace").map((pace) => Math.round(pace * 1e9) / 1e9)).toEqual([3, 0, 1.5, NaN]);
    expect(of("stockCover")).toEqual([20, 100, 0, NaN]);
    expect(of("roas")).toEqual([6, 40 / 30, NaN, 2]);
    expect(metricValues("luck", inputs)).toBeNull();
    expect(metricValues("family:margin", inputs)).toBeNull();
  });

  it("of the family are of its sums, and an item without one stands for itself", () => {
    expect([...familySums(sums, inputs.family).orders]).toEqual([3, 3, 0, 5]);
    expect(of("family:roas")).toEqual([2.5, 2.5, NaN, 2]);
  });
});

describe("two sets laid over each other", () => {
  it("count every item, its spend and its sales in one cell", () => {
    const sums = emptyRowSums(3);
    sums.cost.set([1, 2, 4]);
    sums.revenue.set([10, 20, 40]);
    const cells = overlap(
      { shelf: Uint8Array.from([0, 1, 1]), count: 2 },
      { shelf: Uint8Array.from([2, 0, 0]), count: 3 },
      sums,
    );
    expect(cells.map((row) => row.map(({ items, cost }) => [items, cost]))).toEqual([
      [
        [0, 0],
        [0, 0],
        [1, 1],
      ],
      [
        [2, 6],
        [0, 0],
        [0, 0],
      ],
    ]);
    expect(cells[1]![0]!.revenue).toBe(60);
  });
});
