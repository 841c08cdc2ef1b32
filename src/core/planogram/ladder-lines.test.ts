import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { AD_GROUP_LINE, CAMPAIGN_LINE, ladderFromList, ladderList, withoutRung, type LadderPart } from "./ladder-lines";

const part = (fields: string[], campaignLine: number, adGroupLine: number): LadderPart => ({
  ladder: fields.map((by) => ({ by, largest: null })),
  campaignLine,
  adGroupLine,
});

const anyPart = fc
  .tuple(fc.integer({ min: 1, max: 3 }), fc.integer({ min: 0, max: 3 }), fc.integer({ min: 0, max: 3 }))
  .map(([count, a, b]) => {
    const [first, second] = [Math.min(a, count), Math.min(b, count)].sort((x, y) => x - y);
    return part(["a", "b", "c"].slice(0, count), first!, second!);
  });

describe("the ladder as a list", () => {
  it("puts each line below the level it forms at", () => {
    expect(ladderList(part(["a", "b"], 1, 2))).toEqual(["rung-0", CAMPAIGN_LINE, "rung-1", AD_GROUP_LINE]);
    expect(ladderList(part(["a", "b"], 0, 0))).toEqual([CAMPAIGN_LINE, AD_GROUP_LINE, "rung-0", "rung-1"]);
    expect(ladderList(part(["a"], 1, 1))).toEqual(["rung-0", CAMPAIGN_LINE, AD_GROUP_LINE]);
  });

  it("comes back as it was", () => {
    fc.assert(
      fc.property(anyPart, (value) => {
        expect(ladderFromList(ladderList(value), value.ladder)).toEqual(value);
      }),
    );
  });

  it("in any order is a ladder with the campaign line on top of the ad-group line", () => {
    const shuffled = anyPart.chain((value) =>
      fc.tuple(fc.constant(value), fc.shuffledSubarray(ladderList(value), { minLength: ladderList(value).length })),
    );
    fc.assert(
      fc.property(shuffled, ([value, list]) => {
        const moved = ladderFromList(list, value.ladder);
        expect(moved.ladder.map(({ by }) => by).sort()).toEqual(value.ladder.map(({ by }) => by).sort());
        expect(moved.campaignLine).toBeLessThanOrEqual(moved.adGroupLine);
        expect(moved.adGroupLine).toBeLessThanOrEqual(moved.ladder.length);
      }),
    );
  });

  it("moves lines up when a rung above them goes", () => {
    expect(withoutRung(part(["a", "b", "c"], 1, 3), 0)).toEqual(part(["b", "c"], 0, 2));
    expect(withoutRung(part(["a", "b", "c"], 1, 2), 2)).toEqual(part(["a", "b"], 1, 2));
  });
});
