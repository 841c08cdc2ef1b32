import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { normal, randomFrom } from "../kit/random";
import {
  fitResponse,
  fitResponses,
  nextSales,
  salesAt,
  salesBetween,
  spendWhere,
  type ResponseDay,
  type ResponsePrior,
} from "./response";

const NOTHING_BELIEVED: ResponsePrior = { roas: 1, spend: 1e-9, elasticity: 0.5, noise: 0 };
const day = (spend: number, sales: number): ResponseDay => ({ spend, sales, weight: 1 });

/** Sales the slow way round, for each form. */
const truth = {
  power: (x: number) => 50 * Math.sqrt(x),
  saturating: (x: number) => 9_000 * (1 - Math.exp(-x / 1_500)),
};

describe("how sales follow spend", () => {
  it("is found back from days that lie on a curve, of either form", () => {
    for (const form of ["power", "saturating"] as const) {
      const days = Array.from({ length: 30 }, (_, i) => day(200 + 100 * i, truth[form](200 + 100 * i)));
      const found = fitResponse(days, NOTHING_BELIEVED)!;
      expect(found.form).toBe(form);
      for (const x of [300, 1_000, 3_000]) {
        expect(Math.abs(salesAt(found, x) / truth[form](x) - 1)).toBeLessThan(0.02);
        const step = (truth[form](x + 1) - truth[form](x - 1)) / 2;
        expect(Math.abs(nextSales(found, x) / step - 1)).toBeLessThan(0.06);
      }
    }
  });

  it("of a root: level by weighted least squares as worked out by hand", () => {
    // Weights are 1 ÷ spend, so each curve² × weight is 1 and the level is the mean of sales ÷ √spend: 4, 4.1 and 3.9.
    const three = [day(100, 40), day(400, 82), day(900, 117)];
    const response = fitResponse(three, { ...NOTHING_BELIEVED, noise: 1e-6 })!;
    expect(response.form).toBe("power");
    const root = response.mixture.find(({ shape }) => Math.abs(shape - 0.5) < 1e-9)!;
    expect(root.level).toBeCloseTo(4, 6);
    expect(nextSales({ ...response, shape: 0.5, level: 4 }, 400)).toBeCloseTo(4 * 0.5 * 400 ** -0.5, 9);
  });

  it("falls back on what campaigns alike do where own days are few", () => {
    const believed: ResponsePrior = { roas: 4, spend: 10_000, elasticity: 0.6, noise: 40 };
    const few = fitResponse([day(1_000, 20_000)], believed)!;
    // One day of 1,000 at 20 beside 10,000 at 4.
    expect(salesAt(few, 1_000)).toBeCloseTo((1_000 * 20 + 10_000 * 4) / 11, 4);
    expect(few.elasticity).toBeCloseTo(0.6, 1);
    const many = fitResponse(
      Array.from({ length: 400 }, () => day(1_000, 20_000)),
      believed,
    )!;
    expect(salesAt(many, 1_000)).toBeGreaterThan(19_000);
  });

  it("has intervals that hold the truth about four times in five", () => {
    let [held, all] = [0, 0];
    for (let world = 0; world < 150; world++) {
      const random = randomFrom("response", world);
      // Bends and returns differ as campaigns are believed to.
      const bend = Math.min(0.95, Math.max(0.05, 0.6 + 0.15 * normal(random)));
      const level = 6 * 1_000 ** (1 - bend);
      const noise = 400;
      const days = Array.from({ length: 40 }, () => {
        const spend = 500 + 1_500 * random();
        return day(spend, level * spend ** bend + Math.sqrt(noise * spend) * normal(random));
      });
      const found = fitResponse(days, { roas: 6, spend: 300, elasticity: 0.6, noise })!;
      for (const x of [700, 1_000, 1_800]) {
        const { low, high } = salesBetween(found, x);
        const sales = level * x ** bend;
        if (sales >= low && sales <= high) held++;
        all++;
      }
    }
    expect(held / all).toBeGreaterThan(0.74);
    expect(held / all).toBeLessThan(0.9);
  });

  it("rises ever more slowly, and tells back the spend at which a unit more brings so much (property)", () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({ spend: fc.integer({ min: 10, max: 90_000 }), sales: fc.integer({ min: 1, max: 900_000 }) }),
          {
            minLength: 1,
            maxLength: 20,
          },
        ),
        (seen) => {
          const [found] = fitResponses([seen.map(({ spend, sales }) => day(spend, sales))]);
          const at = [0.25, 0.5, 1, 2, 4].map((factor) => factor * found!.spend);
          at.slice(1).forEach((x, i) => {
            expect(salesAt(found!, x)).toBeGreaterThanOrEqual(salesAt(found!, at[i]!));
            expect(nextSales(found!, x)).toBeLessThanOrEqual(nextSales(found!, at[i]!));
          });
          const next = nextSales(found!, found!.spend);
          if (next > 1e-9) expect(spendWhere(found!, next) / Math.max(1, found!.spend)).toBeCloseTo(1, 3);
        },
      ),
    );
  });

  it("of campaigns without a day of spend is not known", () => {
    expect(fitResponses([[], [day(0, 0)]])).toEqual([null, null]);
    expect(fitResponses([[], [day(500, 900)]])[1]).not.toBeNull();
  });
});
