import { describe, expect, it } from "vitest";
import { textColumn } from "../kit/columns";
import { testCampaign } from "../market/test-shop";
import { testGround, type TestItem } from "../moves/ground.testing";
import type { Ground } from "../moves/ground";
import { PRESET_RULES } from "../moves/house-rules";
import { pageWork } from "./page-work";

// Ten items of a kind, 5 orders in 100 clicks each, but the first has none; of another kind two that nobody clicked.
const ITEMS: TestItem[] = [
  ...Array.from({ length: 10 }, (_, i) => ({
    id: `A${i}`,
    clicks: 100,
    cost: 20_000,
    orders: i === 0 ? 0 : 5,
    category: 1,
  })),
  { id: "B0", category: 2 },
  { id: "B1", category: 2 },
];
const text = (of: (i: number) => string) => textColumn(ITEMS.map((_, i) => of(i)));
const content = {
  length: ITEMS.length,
  columns: {
    // Nine of ten have a long description, the first a short one; all of the kind but the first have a colour.
    description: text((i) => (i === 0 ? "A rake." : "A rake of ash, hung straight, for leaves and for stones.")),
    color: text((i) => (i === 0 ? "" : "green")),
    size: text((i) => (i === 3 ? "L" : "")),
  },
};
const structure = testCampaign(
  "a",
  {},
  ITEMS.map(({ id }) => id),
  300,
);
const work = (more: Partial<Ground> = {}, items = ITEMS) => pageWork(testGround(items, structure, more), content);

describe("page work", () => {
  it("names what converts clearly below its kind, with what its page lacks, as worked out by hand", () => {
    const [one, ...others] = work();
    expect(others).toEqual([]);
    // The nine others: (45 + 10) orders in 900 clicks and 10 orders' worth at the shop's 0.045.
    const rate = 55 / (900 + 10 / 0.045);
    expect(one).toMatchObject({ row: 0, clicks: 100, orders: 0, missing: ["color"], thin: ["description"] });
    expect(one!.usual).toBeCloseTo(100 * rate, 9);
    expect(one!.chance).toBeCloseTo(Math.exp(-100 * rate), 9);
    // Ten days, 50.00 an order, 0.4 of it left, three quarters new.
    expect(one!.lost).toBeCloseTo(10 * rate * 50_000 * 0.4 * 0.75, 6);
  });

  it("names nothing on little traffic, of what can't be bought, or where all do alike", () => {
    expect(work({ rules: { ...PRESET_RULES, pageClicks: 101 } })).toEqual([]);
    expect(work({ isBuyable: (row) => row !== 0 })).toEqual([]);
    expect(
      work(
        {},
        ITEMS.map((item) => ({ ...item, orders: 3 })),
      ),
    ).toEqual([]);
    expect(
      work(
        {},
        ITEMS.map((item) => ({ ...item, orders: 0 })),
      ),
    ).toEqual([]);
  });

  it("says of what it would bring nothing where costs are not known", () => {
    const [one] = work({ margin: new Float64Array(ITEMS.length).fill(NaN) });
    expect(one!.lost).toBeNaN();
  });
});
