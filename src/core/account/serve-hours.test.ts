import { describe, expect, it } from "vitest";
import { servesAt, servingDay } from "./serve-hours";

const home = (dryAt: number | null = null, ...offHours: number[]) => ({ dryAt, offHours });

describe("who serves an item", () => {
  it("is the first in order while it has money, then the next", () => {
    expect(servingDay([home(14.5), home()])).toEqual([
      { from: 0, to: 15, home: 0 },
      { from: 15, to: 24, home: 1 },
    ]);
  });
  it("skips hours in which a campaign bids nothing, and says when nobody serves", () => {
    expect(servingDay([home(null, 0, 1, 2), home(1)])).toEqual([
      { from: 0, to: 1, home: 1 },
      { from: 1, to: 3, home: -1 },
      { from: 3, to: 24, home: 0 },
    ]);
    expect(servesAt([], 5)).toBe(-1);
    expect(servesAt([home(0)], 0)).toBe(-1);
  });
});
