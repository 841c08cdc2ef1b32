import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { commonEach, withEach } from "./each";

describe("settings of single planned campaigns", () => {
  it("change what is given and leave the rest; undefined puts one back, null all", () => {
    const each = { a: { purpose: "rank" as const, startingBid: 300 }, b: { goal: 4 } };
    expect(withEach(each, ["a", "c"], { startingBid: 500 })).toEqual({
      a: { purpose: "rank", startingBid: 500 },
      b: { goal: 4 },
      c: { startingBid: 500 },
    });
    expect(withEach(each, ["a"], { purpose: undefined })).toEqual({ a: { startingBid: 300 }, b: { goal: 4 } });
    expect(withEach(each, ["a"], null)).toEqual({ b: { goal: 4 } });
    // Where nothing is set otherwise there is nothing to keep.
    expect(withEach(each, ["a", "b"], null)).toBeUndefined();
    expect(withEach(undefined, ["a"], {})).toBeUndefined();
    expect(each.a).toEqual({ purpose: "rank", startingBid: 300 });
  });

  it("have in common what all of them have alike", () => {
    const each = { a: { goal: 4, serveOrder: 1 }, b: { goal: 4, serveOrder: 2 } };
    expect(commonEach(each, ["a", "b"])).toEqual({ goal: 4 });
    expect(commonEach(each, ["a"])).toEqual({ goal: 4, serveOrder: 1 });
    expect(commonEach(each, ["a", "other"])).toEqual({});
    expect(commonEach(undefined, ["a"])).toEqual({});
  });

  it("set for some are what they then have in common, and nobody else's (property)", () => {
    const one = fc.record(
      { goal: fc.integer({ min: 1, max: 9 }), serveOrder: fc.integer({ min: 1, max: 9 }) },
      { requiredKeys: [] },
    );
    const keys = fc.uniqueArray(fc.constantFrom("a", "b", "c", "d"), { minLength: 1 });
    fc.assert(
      fc.property(fc.dictionary(fc.constantFrom("a", "b", "c", "d"), one), keys, one, (each, picked, change) => {
        const next = withEach(each, picked, change);
        expect(commonEach(next, picked)).toMatchObject(change);
        for (const key of Object.keys(each)) {
          if (!(picked as string[]).includes(key) && Object.keys(each[key]!).length > 0)
            expect(next?.[key]).toEqual(each[key]);
        }
      }),
    );
  });
});
