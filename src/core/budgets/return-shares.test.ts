import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { nextSales, type Response } from "./response";
import { ceilingOf, leftAt, shareByReturn, type Taker } from "./return-shares";

const response = (over: Partial<Response>): Response => ({
  ...{ form: "power", level: 100, shape: 0.5, elasticity: 0.5, spend: 1_000, days: 30, mixture: [] },
  ...over,
});
const taker = (over: Partial<Response>, more: Partial<Taker> = {}): Taker => ({
  ...{ response: response(over), worth: 0.4, least: 0, most: Infinity },
  ...more,
});

const anyTaker = fc
  .record({
    power: fc.boolean(),
    shape: fc.double({ min: 0.1, max: 0.9, noNaN: true }),
    roas: fc.double({ min: 0.5, max: 20, noNaN: true }),
    worth: fc.double({ min: 0.05, max: 0.9, noNaN: true }),
    least: fc.integer({ min: 0, max: 200 }),
    room: fc.integer({ min: 50, max: 5_000 }),
  })
  .map(({ power, shape, roas, worth, least, room }): Taker => {
    const own = power
      ? response({ form: "power", shape, level: roas * 1_000 ** (1 - shape) })
      : response({ form: "saturating", shape: 4_000 * shape, level: roas * 2_000 });
    return { response: own, worth, least, most: least + room };
  });

/** The obvious way: unit after unit to whoever gains most by it. */
function byUnits(takers: Taker[], total: number, unit: number): number[] {
  const amounts = takers.map(({ least }) => least);
  let left = total - amounts.reduce((sum, amount) => sum + amount, 0);
  while (left >= unit) {
    let [best, gain] = [-1, 0];
    takers.forEach((one, i) => {
      if (amounts[i]! + unit > one.most) return;
      const more = leftAt([one], [amounts[i]! + unit]) - leftAt([one], [amounts[i]!]);
      if (more > gain) [best, gain] = [i, more];
    });
    if (best < 0) break;
    amounts[best]! += unit;
    left -= unit;
  }
  return amounts;
}

describe("sharing money out by what the next of it brings", () => {
  it("is what one works out by hand", () => {
    // Sales 100·√x and 300·√x, of which 0.4 is left: 20 ÷ √x = 60 ÷ √y, so y is nine times x.
    const two = [taker({}), taker({ level: 300 })];
    const { amounts, next, kept } = shareByReturn(two, 1_000);
    expect(amounts[0]).toBeCloseTo(100, 3);
    expect(amounts[1]).toBeCloseTo(900, 3);
    expect(next).toBeCloseTo(2, 5);
    expect(kept).toBeCloseTo(0, 3);
    // 20 ÷ √x = 1 at 400: there the first one stops to pay, the second at 3,600.
    expect(ceilingOf(two[0]!)).toBeCloseTo(400, 6);
    const rich = shareByReturn(two, 10_000);
    expect(rich.amounts[0]).toBeCloseTo(400, 6);
    expect(rich.amounts[1]).toBeCloseTo(3_600, 6);
    expect([rich.next, Math.round(rich.kept)]).toEqual([1, 6_000]);
    const all = shareByReturn(two, 10_000, true);
    expect(all.amounts[0]! + all.amounts[1]!).toBeCloseTo(10_000, 2);
    expect(all.next).toBeCloseTo(Math.sqrt(0.4), 4);
  });

  it("keeps floors where they alone are more than there is, and gives nothing to what is worth nothing", () => {
    const floors = shareByReturn([taker({}, { least: 700 }), taker({}, { least: 600 })], 1_000);
    expect(floors.amounts.map(Math.round)).toEqual([700, 600]);
    expect(shareByReturn([taker({}, { worth: 0 }), taker({})], 100).amounts.map(Math.round)).toEqual([0, 100]);
  });

  it("never leaves its limits, never spends more than there is, and is as good as going unit by unit (property)", () => {
    fc.assert(
      fc.property(
        fc.array(anyTaker, { minLength: 1, maxLength: 4 }),
        fc.integer({ min: 900, max: 6_000 }),
        (takers, total) => {
          const { amounts } = shareByReturn(takers, total);
          amounts.forEach((amount, i) => {
            expect(amount).toBeGreaterThanOrEqual(takers[i]!.least);
            expect(amount).toBeLessThanOrEqual(takers[i]!.most);
          });
          expect(amounts.reduce((sum, amount) => sum + amount, 0)).toBeLessThanOrEqual(total + 1e-3);
          const obvious = leftAt(takers, byUnits(takers, total, 2));
          expect(leftAt(takers, amounts)).toBeGreaterThanOrEqual(obvious - Math.abs(obvious) * 1e-9 - 1e-6);
        },
      ),
      { numRuns: 60 },
    );
  });

  it("brings the same next unit wherever it is free to go (property)", () => {
    fc.assert(
      fc.property(fc.array(anyTaker, { minLength: 2, maxLength: 30 }), (takers) => {
        const { amounts, next } = shareByReturn(takers, 600 * takers.length);
        takers.forEach((one, i) => {
          const amount = amounts[i]!;
          if (amount <= one.least + 1 || amount >= one.most - 1) return;
          expect((one.worth * nextSales(one.response, amount)) / next).toBeCloseTo(1, 6);
        });
      }),
    );
  });
});
