import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { AD_MEASURES } from "../kit/metrics";
import { addLine, CubeBuilder, groupCube, totalOfGroups, type CubeRows } from "./cube";
import { noSums } from "../kit/metrics";

const DIMENSIONS = ["day", "campaign", "item"] as const;

interface Row {
  day: number;
  campaign: number;
  item: number;
  impressions: number;
  clicks: number;
  cost: number;
  orders: number;
  units: number;
  revenue: number;
}

const rowArb: fc.Arbitrary<Row> = fc.record({
  ...{ day: fc.nat(3), campaign: fc.nat(2), item: fc.nat(4) },
  ...{ impressions: fc.nat(500), clicks: fc.nat(50), cost: fc.nat(9000) },
  ...{ orders: fc.nat(3), units: fc.nat(5), revenue: fc.nat(90_000) },
});

const columnsOf = (rows: Row[], names: readonly (keyof Row)[]): CubeRows =>
  Object.fromEntries(names.map((name) => [name, rows.map((row) => row[name])]));

/** The sums of the rows that have some property, added up one by one. */
function slowly(rows: Row[], keep: (row: Row) => boolean): Record<string, number> {
  const sums = Object.fromEntries(AD_MEASURES.map((measure) => [measure, 0]));
  for (const row of rows.filter(keep)) for (const measure of AD_MEASURES) sums[measure]! += row[measure];
  return sums;
}

describe("a cube", () => {
  it("has a line for each combination that occurs, with the sums of its rows, whatever their order", () => {
    fc.assert(
      fc.property(fc.array(rowArb, { maxLength: 60 }), (rows) => {
        const builder = new CubeBuilder([...DIMENSIONS]);
        builder.add(columnsOf(rows, [...DIMENSIONS, ...AD_MEASURES]));
        const cube = builder.finish();
        const keys = rows.map(({ day, campaign, item }) => `${day}/${campaign}/${item}`);
        expect(cube.length).toBe(new Set(keys).size);
        for (let i = 0; i < cube.length; i++) {
          const key = DIMENSIONS.map((name) => cube.dimensions[name]![i]).join("/");
          const sums = slowly(rows, ({ day, campaign, item }) => `${day}/${campaign}/${item}` === key);
          for (const measure of AD_MEASURES) expect(cube.sums[measure][i]).toBe(sums[measure]);
        }
      }),
    );
  });

  it("is grouped by one or two codes like rows one by one, and no line that is left out counts", () => {
    fc.assert(
      fc.property(fc.array(rowArb, { maxLength: 60 }), fc.nat(2), (rows, without) => {
        const builder = new CubeBuilder([...DIMENSIONS]);
        builder.add(columnsOf(rows, [...DIMENSIONS, ...AD_MEASURES]));
        const cube = builder.finish();
        const { campaign, item } = cube.dimensions;
        // Item 0 has no code, so it is in no group.
        const groups = groupCube(
          cube,
          (i) => item![i]! - 1,
          (i) => campaign![i]!,
          (i) => campaign![i] !== without,
        );
        for (const { key, split, sums, told } of groups) {
          const obvious = slowly(rows, (row) => row.item - 1 === key && row.campaign === split);
          expect(sums).toMatchObject(obvious);
          expect([told.clicks, told.cost, told.revenue]).toEqual([
            obvious["clicks"],
            obvious["cost"],
            obvious["revenue"],
          ]);
        }
        const all = slowly(rows, (row) => row.item > 0 && row.campaign !== without);
        expect(totalOfGroups(groups)).toMatchObject(all);
      }),
    );
  });

  it("expects the orders that are still to come, and counts only the clicks that are seen through", () => {
    const builder = new CubeBuilder(["campaign"]);
    const rows: CubeRows = {
      impressions: [100],
      clicks: [10],
      cost: [2000],
      orders: [2],
      units: [3],
      revenue: [40_000],
    };
    builder.add(rows, { campaign: 7 });
    // Of a day whose orders are half in: what is seen counts double for what is expected, its clicks by half.
    builder.add(rows, { campaign: 7 }, 0.5);
    const cube = builder.finish();
    expect(cube.length).toBe(1);
    expect([cube.sums.orders[0], cube.sums.revenue[0]]).toEqual([4, 80_000]);
    expect([cube.expected.orders[0], cube.expected.units[0], cube.expected.revenue[0]]).toEqual([6, 9, 120_000]);
    expect(cube.seenClicks[0]).toBe(15);
    const [seen, expected] = [noSums(), noSums()];
    addLine(seen, cube, 0, false);
    addLine(expected, cube, 0, true);
    expect(seen).toMatchObject({ clicks: 20, cost: 4000, orders: 4, revenue: 80_000 });
    expect(expected).toMatchObject({ clicks: 20, cost: 4000, orders: 6, revenue: 120_000 });
  });

  it("leaves at nothing what rows do not tell", () => {
    const builder = new CubeBuilder(["placement"]);
    builder.add({ placement: [3, 4, 3], impressions: [5, 6, 7] });
    const cube = builder.finish();
    expect([...cube.sums.impressions]).toEqual([12, 6]);
    expect([...cube.sums.cost, ...cube.squares, ...cube.seenClicks]).toEqual([0, 0, 0, 0, 0, 0]);
  });
});
