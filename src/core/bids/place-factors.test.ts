import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { placeFactors } from "./place-factors";

describe("what clicks at a place are worth", () => {
  it("is orders over expected with some usual ones beside both, where a place shares nothing", () => {
    const [a, b] = placeFactors(
      [
        { parts: ["x"], orders: 9, expected: 3 },
        { parts: ["y"], orders: 0, expected: 2 },
      ],
      3,
    );
    expect(a).toBeCloseTo(12 / 6, 12);
    expect(b).toBeCloseTo(3 / 5, 12);
  });

  it("learns of a word from all that have it: a place with it and no clicks of its own is worth what the word is", () => {
    const pictures = Array.from({ length: 10 }, () => ({ parts: ["pictures"], orders: 0, expected: 4 }));
    const told = placeFactors([...pictures, { parts: ["pictures"], orders: 0, expected: 0 }], 3);
    // Forty expected and none seen, with eight usual ones beside both.
    expect(told.at(-1)).toBeCloseTo(Math.max(1 / 4, 8 / 48), 9);
    expect(told[0]).toBeCloseTo((3 * 0.25) / 7, 9);
  });

  it("tells two words apart that stand together now and then", () => {
    const of = (parts: string[], factor: number) => ({ parts, orders: 100 * factor, expected: 100 });
    const told = placeFactors(
      [of(["cheap"], 0.5), of(["cheap"], 0.5), of(["oak"], 1), of(["oak"], 1), of(["cheap", "oak"], 0.5)],
      0,
    );
    expect(told).toEqual([0.5, 0.5, 1, 1, 0.5].map((factor) => expect.closeTo(factor, 9)));
    const unread = placeFactors(
      [
        of(["cheap"], 0.5),
        of(["cheap"], 0.5),
        of(["oak"], 1),
        of(["oak"], 1),
        { parts: ["cheap", "oak"], orders: 0, expected: 0 },
      ],
      1,
    );
    expect(unread[4]).toBeGreaterThan(0.45);
    expect(unread[4]).toBeLessThan(0.6);
  });

  it("rises with orders, whatever else there is", () => {
    const place = fc.record({
      parts: fc.subarray(["a", "b", "c"], { minLength: 1 }),
      orders: fc.integer({ min: 0, max: 30 }),
      expected: fc.double({ min: 0.1, max: 30, noNaN: true }),
    });
    fc.assert(
      fc.property(fc.array(place, { minLength: 1, maxLength: 8 }), (places) => {
        const more = places.map((one, i) => (i === 0 ? { ...one, orders: one.orders + 5 } : one));
        expect(placeFactors(more, 3)[0]).toBeGreaterThan(placeFactors(places, 3)[0]!);
      }),
    );
  });
});
