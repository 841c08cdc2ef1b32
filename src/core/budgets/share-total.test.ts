import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { CampaignReturn } from "./money-desk";
import { SHARE_WAYS, shareTotal, type ShareAsk, type SharedCampaign, type ShareWay } from "./share-total";

const known = (key: string, over: Partial<CampaignReturn> = {}): CampaignReturn => ({
  ...{ key, spent: 10_000, sales: 60_000, full: { cost: 20_000, sales: 120_000 }, dryDays: 7, margin: 0.4, shared: 0 },
  // Sales 600·√x: at 10,000 a day 60,000.
  response: { form: "power", level: 600, shape: 0.5, elasticity: 0.5, spend: 10_000, days: 30, mixture: [] },
  ...{ next: { sales: 3, left: 1.2 }, ceiling: 14_400, evened: 0 },
  ...over,
});
const campaign = (key: string, budget: number, over: Partial<CampaignReturn> | null = {}): SharedCampaign => ({
  ...{ key, budget },
  known: over === null ? null : known(key, over),
});
const ask = (over: Partial<ShareAsk>): ShareAsk => ({ total: 30_000, way: "next", step: null, room: null, ...over });

function toOf(campaigns: SharedCampaign[], asked: Partial<ShareAsk>): number[] {
  const done = shareTotal(campaigns, ask(asked));
  if (!done.ok) throw new Error(done.error.message);
  return done.value.lines.map(({ to }) => to);
}

describe("a total shared out over campaigns", () => {
  it("goes where the next unit brings most, and is kept where it would not pay", () => {
    // Twice the sales at the same spend: four times the money. 0.4·300 ÷ √x = 0.4·600 ÷ √y.
    const two = [campaign("a", 15_000), campaign("b", 15_000, { response: { ...known("b").response, level: 1_200 } })];
    expect(toOf(two, { total: 30_000 })).toEqual([6_000, 24_000]);
    const rich = shareTotal([campaign("a", 15_000)], ask({ total: 30_000 }));
    // 120 ÷ √x = 1 at 14,400.
    expect(rich.ok && [rich.value.lines[0]!.to, rich.value.kept, rich.value.next]).toEqual([14_400, 15_600, 1]);
  });

  it("counts what a campaign would only take from another as less", () => {
    const [plain] = toOf([campaign("a", 15_000), campaign("b", 15_000)], {});
    const [less] = toOf([campaign("a", 15_000, { shared: 1 }), campaign("b", 15_000)], {});
    expect(plain).toBe(14_400);
    // Worth 0.4 of what it was, so the next unit pays until 0.16 of the spend.
    expect(less).toBe(2_300);
  });

  it("follows parts, sales, spend and returns as worked out by hand, to the cent", () => {
    const three = [
      campaign("a", 10_000, { sales: 60_000, spent: 10_000 }),
      campaign("b", 10_000, { sales: 30_000, spent: 20_000 }),
      campaign("c", 10_000, { sales: 10_000, spent: 10_000, margin: 0.2 }),
    ];
    expect(toOf(three, { way: "even", total: 30_010 })).toEqual([10_010, 10_000, 10_000]);
    expect(toOf(three, { way: "sales" })).toEqual([18_000, 9_000, 3_000]);
    expect(toOf(three, { way: "spend" })).toEqual([7_500, 15_000, 7_500]);
    expect(toOf(three, { way: "hand", parts: { a: 50, b: 35, c: 15 } })).toEqual([15_000, 10_500, 4_500]);
    expect(toOf(three, { way: "left" })).toEqual([12_000, 12_000, 6_000]);
  });

  it("says what is expected at the bids as they stand: full days at most, in proportion below", () => {
    const done = shareTotal(
      [campaign("a", 10_000), campaign("b", 10_000)],
      ask({ way: "hand", parts: { a: 5, b: 1 } }),
    );
    if (!done.ok) throw new Error(done.error.message);
    const [a, b] = done.value.lines;
    expect(a).toMatchObject({ to: 25_000, spend: { from: 10_000, to: 20_000 }, sales: { from: 60_000, to: 120_000 } });
    expect(b).toMatchObject({ to: 5_000, spend: { from: 10_000, to: 5_000 }, sales: { from: 60_000, to: 30_000 } });
  });

  it("says in words what it can't do", () => {
    const message = (campaigns: SharedCampaign[], asked: Partial<ShareAsk>) => {
      const done = shareTotal(campaigns, ask(asked));
      return done.ok ? null : done.error.code;
    };
    expect(message([], {})).toBe("share-nobody");
    expect(message([campaign("a", 90_000)], { total: 10_000, step: 50 })).toBe("share-floors");
    expect(message([campaign("a", 9_000, null)], {})).toBe("share-unknown");
    expect(message([campaign("a", 9_000, { margin: null })], {})).toBe("share-costs");
    expect(message([campaign("a", 9_000)], { way: "hand", parts: {} })).toBe("share-parts");
    expect(message([campaign("a", 9_000, null)], { way: "sales" })).toBe("share-parts");
  });

  it("stays within every limit and gives no more than there is (property)", () => {
    const one = fc.record({
      budget: fc.integer({ min: 1_000, max: 90_000 }),
      full: fc.integer({ min: 0, max: 90_000 }),
      level: fc.integer({ min: 1, max: 3_000 }),
      margin: fc.option(fc.double({ min: -0.2, max: 0.9, noNaN: true })),
      isKnown: fc.boolean(),
    });
    const way = fc.constantFrom(...(Object.keys(SHARE_WAYS) as ShareWay[]));
    const limits = fc.record({
      step: fc.option(fc.integer({ min: 5, max: 300 })),
      room: fc.option(fc.integer({ min: 0, max: 200 })),
    });
    fc.assert(
      fc.property(
        fc.array(one, { minLength: 1, maxLength: 12 }),
        way,
        limits,
        fc.integer({ min: 1_000, max: 400_000 }),
        (drawn, how, { step, room }, total) => {
          const campaigns = drawn.map(({ budget, full, level, margin, isKnown }, i) =>
            campaign(
              String(i),
              budget,
              isKnown
                ? { full: { cost: full, sales: 5 * full }, margin, response: { ...known("").response, level } }
                : null,
            ),
          );
          const parts = Object.fromEntries(campaigns.map(({ key }, i) => [key, i + 1]));
          const done = shareTotal(campaigns, { total, way: how, step, room, parts });
          if (!done.ok) {
            expect(done.error.message).not.toBe("");
            return;
          }
          const { lines, kept } = done.value;
          expect(lines.reduce((sum, { to }) => sum + to, 0) + kept).toBeGreaterThanOrEqual(total - 10);
          if (step !== null || total >= 1_000 * lines.length)
            expect(lines.reduce((sum, { to }) => sum + to, 0)).toBeLessThanOrEqual(total);
          for (const { from, to } of lines) {
            expect(to % 10).toBe(0);
            if (step === null) continue;
            expect(to).toBeGreaterThanOrEqual(Math.floor(from / (1 + step / 100)) - 10);
            expect(to).toBeLessThanOrEqual(Math.max(1_000, from * (1 + step / 100)) + 10);
          }
        },
      ),
    );
  });
});
