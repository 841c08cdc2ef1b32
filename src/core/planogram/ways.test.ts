import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { TextColumn } from "../kit/columns";
import type { Plan } from "./plan";
import { Ways, type Step } from "./ways";

const WIDTH = 4;
const column = (codes: number[]): TextColumn =>
  ({
    kind: "text",
    codes: Uint32Array.from(codes),
    values: Array.from({ length: WIDTH }, (_, i) => `v${i}`),
  }) as TextColumn;

/** A plan of two rungs; values of the first that are pooled may be divided by a field of their own. */
const planArb = fc.integer({ min: 1, max: 25 }).chain((rows) => {
  const codesArb = fc.array(fc.nat(WIDTH - 1), { minLength: rows, maxLength: rows });
  return fc.record({
    rows: fc.constant(rows),
    first: codesArb,
    second: codesArb,
    other: codesArb,
    pooled: fc.subarray([0, 1, 2, 3]),
    isDivided: fc.boolean(),
  });
});

type Drawn = typeof planArb extends fc.Arbitrary<infer T> ? T : never;

function planOf({ first, second, other, pooled, isDivided }: Drawn): Plan {
  return {
    columns: [column(first), column(second)],
    otherColumns: [isDivided ? column(other) : null, null],
    pooled: [new Set(pooled), null],
  } as unknown as Plan;
}

/** The values that a row's way is made of, written down. */
function pathOf({ first, second, other, pooled, isDivided }: Drawn, row: number): string {
  const aside = isDivided && pooled.includes(first[row]!) ? `/${other[row]}` : "";
  return `${first[row]}${aside}|${second[row]}`;
}

describe("the ways of a plan", () => {
  it("end alike for two rows exactly where their values are alike, the others' field counting only for what is pooled", () => {
    fc.assert(
      fc.property(planArb, (drawn) => {
        const ways = new Ways(planOf(drawn));
        const ends = Array.from({ length: drawn.rows }, (_, row) => ways.add(row));
        const byPath = new Map<string, number>();
        for (let row = 0; row < drawn.rows; row++) {
          const path = pathOf(drawn, row);
          expect(ends[row]).toBe(byPath.get(path) ?? ends[row]);
          byPath.set(path, ends[row]!);
          expect(ways.find(row)).toBe(ends[row]);
        }
        expect(new Set(ends).size).toBe(byPath.size);
      }),
    );
  });

  it("tell each step once, from a node that is there to one that is new", () => {
    fc.assert(
      fc.property(planArb, (drawn) => {
        const ways = new Ways(planOf(drawn));
        const root = ways.root();
        const known = new Set([root]);
        const told = (step: Step) => {
          expect(known.has(step.from)).toBe(true);
          expect(known.has(step.to)).toBe(false);
          known.add(step.to);
        };
        for (let row = 0; row < drawn.rows; row++) ways.add(row, root, told);
        const before = known.size;
        for (let row = 0; row < drawn.rows; row++) ways.add(row, root, told);
        expect(known.size).toBe(before);
      }),
    );
  });

  it("of two trees are two, and nothing is found where nothing was added", () => {
    const drawn: Drawn = { rows: 2, first: [0, 1], second: [2, 2], other: [0, 0], pooled: [], isDivided: false };
    const ways = new Ways(planOf(drawn));
    const [one, two] = [ways.root(), ways.root()];
    const end = ways.add(0, one);
    expect(ways.find(0, one)).toBe(end);
    expect(ways.find(0, two)).toBeUndefined();
    expect(ways.find(1, one)).toBeUndefined();
    expect(ways.add(0, two)).not.toBe(end);
  });
});
