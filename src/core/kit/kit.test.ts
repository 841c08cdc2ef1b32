import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { decodeColumn, encodeColumn } from "./column-bytes";
import { asText, cellText, coverage, numberColumn, postings, textColumn } from "./columns";
import { dayOfYear, formatDay, parseDay, weekday, windowBefore, windowEnding } from "./days";
import { applyDiff, composeDiffs, diffOf, diffRecords, diffSize, invertDiff, sameValue, touchedBy } from "./diff";
import { formatGap, formatMetric, formatOf, plural } from "./format";
import { METRICS, noSums, orderOf, shareGap, valueOf } from "./metrics";
import { lowestBetween } from "./golden-section";
import {
  formatChange,
  formatMoney,
  fromUnits,
  mills,
  millsToDecimal,
  millsToField,
  moneyForm,
  parseMoney,
  parseMoneyBy,
  wordsInTheWay,
} from "./money";
import { binomial, poisson, randomFrom } from "./random";
import { shareMoney, shareOut } from "./share-out";
import { normalCdf, normalQuantile, quantile, solve } from "./stats";

describe("money", () => {
  it.each([
    ["12.90", 12_900, null],
    ["12.90 EUR", 12_900, "EUR"],
    ["€ 1.234,56", 1_234_560, "EUR"],
    ["1,234.56", 1_234_560, null],
    ["1.234.567", 1_234_567_000, null],
    ["12,5", 12_500, null],
    ["1 234,5", 1_234_500, null],
    ["CHF 12", 12_000, "CHF"],
    ["£0.99", 990, "GBP"],
    ["1'299.00", 1_299_000, null],
    ["0", 0, null],
    ["12,-", 12_000, null],
    ["12.– €", 12_000, "EUR"],
    ["Fr. 12.-", 12_000, "CHF"],
    ["ab 12,90 €", 12_900, "EUR"],
    ["from $1,299.00", 1_299_000, "USD"],
    ["12,90 € inkl. MwSt.", 12_900, "EUR"],
    ["12,90 € inkl. 19 % MwSt., zzgl. Versand", 12_900, "EUR"],
    ["12.90€/Stk", 12_900, "EUR"],
    ["12.90 EUR / piece", 12_900, "EUR"],
    ["1 299,00 zł brutto", 1_299_000, "PLN"],
    ["349 kr", 349_000, null],
    ["UVP 9,99 EUR*", 9_990, "EUR"],
    ["1’299.00", 1_299_000, null],
  ])("reads %s", (text, amount, currency) => {
    expect(parseMoney(text)).toMatchObject({ ok: true, mills: amount, currency });
  });

  it.each([
    ["", "empty"],
    ["   ", "empty"],
    ["ask us", "unreadable"],
    ["12.90 QQQ", "unknown-currency"],
    ["-4.50 EUR", "negative"],
    ["EUR -4", "negative"],
    ["99999999999", "absurd"],
    ["1.2.3,4", "unreadable"],
    ["12,34,56", "unreadable"],
    ["12,90 - 15,90 €", "unreadable"],
    ["12,90 € (was 15,90 €)", "unreadable"],
    ["12,90 oder Anfrage", "unreadable"],
    ["1.234", "open"],
    ["1.234 EUR", "open"],
    ["1,234", "open"],
    ["20 %", "unreadable"],
    ["12-", "unreadable"],
    ["2x 5.00", "unreadable"],
    ["-€5", "negative"],
    ["1.29.99", "unreadable"],
  ])("refuses %s as %s", (text, fault) => {
    expect(parseMoney(text)).toEqual({ ok: false, fault });
  });

  it("tells which words keep an amount from being read, and reads it without them", () => {
    expect(wordsInTheWay("VK-Netz 12,90 €", "auto")).toEqual(["netz"]);
    expect(wordsInTheWay("auf Anfrage", "auto")).toEqual([]);
    expect(parseMoney("Netz 12,90 €", "auto", undefined, new Set(["netz"]))).toMatchObject({ ok: true, mills: 12_900 });
    expect([moneyForm("Netz 12,90 €"), moneyForm(" Netz  1.299,00 € ")]).toEqual(["Netz 9,9 €", "Netz 9.9,9 €"]);
  });

  it("reads back what it writes, to the mill", () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 10_000_000_000 }), (amount) => {
        expect(parseMoneyBy(millsToDecimal(amount), ".")).toEqual({ ok: true, mills: amount, currency: null });
        // In a field nobody says which mark is which, and it is read as what it is all the same.
        expect(parseMoney(millsToField(amount))).toEqual({ ok: true, mills: amount, currency: null });
      }),
    );
  });

  it("rounds half away from zero on both sides", () => {
    expect([mills(0.5), mills(-0.5), mills(1.4), fromUnits(0.0125)]).toEqual([1, -1, 1, 13]);
    expect(formatMoney(1_234_560, "EUR")).toBe("€1,234.56");
    expect([formatChange(1_200, "EUR"), formatChange(-300, "EUR"), formatChange(0, "EUR")]).toEqual([
      "+€1.20",
      "−€0.30",
      "+€0.00",
    ]);
  });
});

describe("days", () => {
  it("turns days into numbers and back", () => {
    fc.assert(
      fc.property(fc.integer({ min: -20_000, max: 60_000 }), (day) => {
        expect(parseDay(formatDay(day))).toBe(day);
      }),
    );
    expect(parseDay("1970-01-01")).toBe(0);
    expect(weekday(parseDay("2026-11-25"))).toBe(2);
    expect(dayOfYear(parseDay("2026-03-01"))).toBe(59);
    expect(() => parseDay("2026-02-30")).toThrow(RangeError);
  });

  it("puts the window before right in front, of the same length", () => {
    const window = windowEnding(100, 30);
    expect(window).toEqual({ from: 71, to: 100 });
    expect(windowBefore(window)).toEqual({ from: 41, to: 70 });
  });
});

describe("diff", () => {
  const records = fc.dictionary(
    fc.constantFrom("a", "b", "c", "d", "__proto", "constructor"),
    fc.record({ n: fc.integer({ min: 0, max: 3 }), list: fc.array(fc.integer({ min: 0, max: 2 }), { maxLength: 2 }) }),
  );

  it("leads from before to after, and its inverse back", () => {
    fc.assert(
      fc.property(records, records, (before, after) => {
        const diff = diffRecords(before, after);
        expect(applyDiff(before, diff)).toEqual(after);
        expect(applyDiff(after, invertDiff(diff))).toEqual(before);
        expect(invertDiff(invertDiff(diff))).toEqual(diff);
      }),
    );
  });

  it("is made of rows as of two states, and its lists hold what it holds", () => {
    fc.assert(
      fc.property(records, records, (a, b) => {
        const of = (one: typeof a, key: string) => (Object.hasOwn(one, key) ? one[key]! : null);
        const keys = [...new Set([...Object.keys(a), ...Object.keys(b)])];
        const made = diffOf(
          keys.map((key) => [key, of(a, key), of(b, key)] as const).filter(([, from, to]) => !sameValue(from, to)),
        );
        expect(made).toEqual(diffRecords(a, b));
        for (const diff of [made, diffRecords(a, b)]) {
          const { added, changed, removed } = touchedBy(diff);
          expect(new Set(added)).toEqual(new Set(Object.values(diff.added)));
          expect(new Set(changed)).toEqual(new Set(Object.values(diff.changed)));
          expect(new Set(removed)).toEqual(new Set(Object.values(diff.removed)));
          expect(added.length + changed.length + removed.length).toBe(diffSize(diff));
          expect(diffSize(diff)).toBe(keys.filter((key) => !sameValue(of(a, key), of(b, key))).length);
        }
      }),
    );
  });

  it("composes: one diff does what two do, and a change taken back vanishes", () => {
    fc.assert(
      fc.property(records, records, records, (a, b, c) => {
        const first = diffRecords(a, b);
        const both = composeDiffs(first, diffRecords(b, c));
        expect(both).toEqual(diffRecords(a, c));
        expect(diffSize(composeDiffs(first, invertDiff(first)))).toBe(0);
      }),
    );
  });
});

describe("share-out", () => {
  it("sums exactly, respects the floor, and never strays a whole unit from the exact share", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 1_000_000 }),
        fc.array(fc.integer({ min: 0, max: 1000 }), { minLength: 1, maxLength: 40 }),
        fc.integer({ min: 0, max: 50 }),
        (total, weights, floor) => {
          const parts = shareOut(total, weights, floor);
          expect(parts.reduce((a, b) => a + b, 0)).toBe(total);
          if (floor * weights.length > total) return;
          const sum = weights.reduce((a, b) => a + b, 0);
          const rest = total - floor * weights.length;
          parts.forEach((part, i) => {
            const exact = floor + (sum > 0 ? (rest * weights[i]!) / sum : rest / weights.length);
            expect(part).toBeGreaterThanOrEqual(floor);
            expect(Math.abs(part - exact)).toBeLessThan(1);
          });
        },
      ),
    );
  });

  it("gives the odd mill to the largest remainder, the earlier one on a tie", () => {
    expect(shareOut(100, [1, 1, 1])).toEqual([34, 33, 33]);
    expect(shareOut(10, [5, 3, 1])).toEqual([6, 3, 1]);
    expect(shareOut(7, [0, 0])).toEqual([4, 3]);
  });

  it("shares money in whole cents, and loses no mill of what is not whole", () => {
    expect(shareMoney(100_000, [1, 1, 1])).toEqual([33_340, 33_330, 33_330]);
    expect(shareMoney(100_003, [1, 1])).toEqual([50_003, 50_000]);
    // Floors of a cent or more hold; what is less than a cent each is shared in mills.
    expect(shareMoney(3000, [100, 1, 0], 500)).toEqual([1990, 510, 500]);
    expect(shareMoney(25, [1, 1, 1])).toEqual([9, 8, 8]);
    fc.assert(
      fc.property(fc.nat(10_000_000), fc.array(fc.nat(50), { minLength: 1, maxLength: 40 }), (total, weights) => {
        const parts = shareMoney(total, weights);
        expect(parts.reduce((a, b) => a + b, 0)).toBe(total);
        if (total >= 10 * weights.length) expect(parts.slice(1).every((part) => part % 10 === 0)).toBe(true);
      }),
    );
  });
});

describe("metrics", () => {
  const sums = {
    ...noSums(),
    impressions: 1000,
    clicks: 40,
    cost: mills(20_000),
    orders: 2,
    revenue: mills(60_000),
    storeRevenue: mills(200_000),
  };

  it("are worked from sums", () => {
    const values = Object.fromEntries(Object.values(METRICS).map((metric) => [metric.key, metric.of(sums)]));
    expect(values).toMatchObject({
      ctr: 0.04,
      cpc: 500,
      cvr: 0.05,
      aov: 30_000,
      rpc: 1500,
      roas: 3,
      tacos: 0.1,
      adDependence: 0.3,
    });
    expect(values["acos"]).toBeCloseTo(1 / 3, 12);
  });

  it("are null where nothing is divided by nothing, and shown as a dash", () => {
    expect(METRICS.roas.of(noSums())).toBeNull();
    expect(formatMetric("roas", null, "EUR")).toBe("–");
    expect(METRICS.roas.of({ ...noSums(), cost: mills(5) })).toBe(0);
    expect(METRICS.acos.of({ ...noSums(), cost: mills(5) })).toBeNull();
  });

  it("give the gap between sales share and spend share in points", () => {
    const scope = { ...noSums(), cost: mills(200), revenue: mills(400) };
    const { gap } = shareGap({ ...noSums(), cost: mills(50), revenue: mills(40) }, scope);
    expect(formatGap(gap)).toBe("−15.0");
    expect(shareGap(noSums(), noSums()).gap).toBeNull();
  });

  it("count in words", () => {
    expect([plural(1, "item"), plural(1200, "item"), plural(2, "leaf", "leaves")]).toEqual([
      "1 item",
      "1,200 items",
      "2 leaves",
    ]);
  });
});

describe("columns", () => {
  const texts = fc.array(fc.constantFrom("", "a", "b", "ü😀", "x,y"), { maxLength: 60 });

  it("survive being bytes", () => {
    fc.assert(
      fc.property(texts, fc.array(fc.option(fc.double({ noNaN: true })), { maxLength: 40 }), (words, numbers) => {
        const text = textColumn(words);
        expect(decodeColumn(encodeColumn(text))).toEqual(text);
        const number = numberColumn(numbers);
        expect(decodeColumn(encodeColumn(number))).toEqual(number);
      }),
    );
    expect(() => decodeColumn(new Uint8Array(16))).toThrow("no column");
  });

  it("give the rows of each value, every row once", () => {
    fc.assert(
      fc.property(texts, (words) => {
        const column = textColumn(words);
        const { rows, offsets } = postings(column);
        column.values.forEach((value, code) => {
          const found = [...rows.subarray(offsets[code], offsets[code + 1])];
          expect(found).toEqual([...words.keys()].filter((row) => words[row] === value));
        });
      }),
    );
  });

  it("count what is filled and how many values differ", () => {
    expect(coverage(textColumn(["a", "", "b", "a"]))).toEqual({ filled: 3, distinct: 2 });
    expect(coverage(numberColumn([1, null, 1]))).toEqual({ filled: 2, distinct: 1 });
    expect(cellText(asText(numberColumn([1.5, null])), 0)).toBe("1.5");
  });
});

describe("random", () => {
  it("gives the same stream for the same seed and another for another", () => {
    const draw = (seed: string) => Array.from({ length: 5 }, randomFrom(seed, 7));
    expect(draw("a")).toEqual(draw("a"));
    expect(draw("a")).not.toEqual(draw("b"));
  });

  it.each([0.3, 4, 80])("draws Poisson counts with mean and variance %d", (mean) => {
    const random = randomFrom("poisson", mean);
    const draws = Array.from({ length: 40_000 }, () => poisson(random, mean));
    const average = draws.reduce((a, b) => a + b, 0) / draws.length;
    const variance = draws.reduce((a, b) => a + (b - average) ** 2, 0) / draws.length;
    // Five standard errors of the mean; the variance of a Poisson is its mean.
    expect(Math.abs(average - mean)).toBeLessThan(5 * Math.sqrt(mean / draws.length));
    expect(variance / mean).toBeGreaterThan(0.9);
    expect(variance / mean).toBeLessThan(1.1);
  });

  it("draws binomial counts between 0 and the trials, with the right mean", () => {
    const random = randomFrom("binomial");
    for (const [trials, p] of [
      [10, 0.2],
      [500, 0.02],
      [500, 0.4],
    ] as const) {
      const draws = Array.from({ length: 20_000 }, () => binomial(random, trials, p));
      expect(Math.min(...draws)).toBeGreaterThanOrEqual(0);
      expect(Math.max(...draws)).toBeLessThanOrEqual(trials);
      const average = draws.reduce((a, b) => a + b, 0) / draws.length;
      expect(Math.abs(average / (trials * p) - 1)).toBeLessThan(0.03);
    }
  });
});

describe("statistics", () => {
  it("agree with printed tables", () => {
    expect(normalCdf(1.96)).toBeCloseTo(0.9750021, 6);
    expect(normalCdf(-1)).toBeCloseTo(0.1586553, 6);
    expect(normalQuantile(0.9)).toBeCloseTo(1.2815516, 6);
    expect(normalQuantile(0.025)).toBeCloseTo(-1.959964, 6);
  });

  it("solve equations", () => {
    const matrix = [
      [0, 2, 1],
      [4, 1, 0],
      [1, 1, 3],
    ];
    const right = [7, 6, 12];
    const x = solve(matrix, right);
    matrix.forEach((row, i) =>
      expect(row.reduce((sum, factor, j) => sum + factor * x[j]!, 0)).toBeCloseTo(right[i]!, 9),
    );
    expect(matrix[0]).toEqual([0, 2, 1]);
  });

  it("take type 7 quantiles", () => {
    expect(quantile([3, 1, 2, 4], 0.5)).toBe(2.5);
    expect(quantile([1, 2, 3, 4, 5], 0.1)).toBeCloseTo(1.4, 12);
    expect(quantile([], 0.5)).toBeNull();
  });
});

describe("what a report does not tell", () => {
  const sums = { ...noSums(), clicks: 10, cost: mills(5_000), orders: 0, revenue: mills(0) };

  it("has no value, and money that bought nothing says so and stands first", () => {
    expect(valueOf("roas", sums, [])).toBe(0);
    expect(valueOf("roas", sums, ["revenue"])).toBeNull();
    expect([formatOf("acos", sums, [], "EUR"), formatOf("cpo", sums, [], "EUR")]).toEqual(["no sales", "no orders"]);
    expect(formatOf("acos", sums, ["revenue"], "EUR")).toBe("–");
    expect(formatOf("ctr", sums, [], "EUR")).toBe("–");
    expect(orderOf("acos", sums, [])).toBe(Number.MAX_VALUE);
    expect(orderOf("acos", noSums(), [])).toBeNull();
    expect(orderOf("cpo", { ...sums, orders: 2 }, [])).toBe(2_500);
  });
});

describe("golden-section search", () => {
  it("finds the lowest point of a function that has one, also at an end, with one evaluation a step", () => {
    let asked = 0;
    const { at, least } = lowestBetween((x) => (asked++, (x - 1.7) ** 2 + 3), -4, 9, 40);
    expect(at).toBeCloseTo(1.7, 6);
    expect(least).toBeCloseTo(3, 9);
    expect(asked).toBe(42);
    expect(lowestBetween((x) => x, 2, 5, 40).at).toBeCloseTo(2, 6);
    expect(lowestBetween((x) => -x, 2, 5, 40).at).toBeCloseTo(5, 6);
  });
});
