import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { textColumn } from "../kit/columns";
import { normal, poisson, randomFrom } from "../kit/random";
import { toldNothing, type Told } from "../results/told";
import { emptyRowSums, type RowSums } from "../results/window-sums";
import { chanceOf, chanceOfGoal, intervalOf, pooledReturn } from "./evidence";
import { fitEffects, unsureAt } from "./effects";
import { factorsOf } from "./kinds";
import { DEFAULT_HEAT_RULES, heatOf } from "./heat";
import { shareIdle } from "./idle";
import { categoryLadder, itemEvidence, type ItemFacts } from "./item-evidence";
import { linesEvidence } from "./lines";
import { poolAmounts } from "./pool-amounts";
import { poolRates } from "./pool-rates";
import { fitSpread, posteriorLog } from "./spread";

/** The posterior's mean and variance by brute force: a fine grid over all that is likely. */
function slowPosterior(orders: number, expected: number, variance: number) {
  let [sum, first, second] = [0, 0, 0];
  for (let x = -12; x <= 8; x += 0.001) {
    const weight = Math.exp(orders * x - expected * Math.exp(x) - (x + variance / 2) ** 2 / (2 * variance));
    sum += weight;
    first += weight * x;
    second += weight * x * x;
  }
  const mean = first / sum;
  return { mean, variance: second / sum - mean * mean };
}

describe("the posterior of a rate", () => {
  it.each([
    [0, 0.4, 0.5],
    [0, 12, 0.8],
    [1, 0.2, 1],
    [3, 9, 0.3],
    [40, 10, 0.6],
    [500, 480, 0.05],
  ])("of %d orders of %d expected at a variance of %d is that of a fine grid", (orders, expected, variance) => {
    const slow = slowPosterior(orders, expected, variance);
    const quick = posteriorLog(orders, expected, variance);
    expect(quick.mean).toBeCloseTo(slow.mean, 3);
    expect(quick.variance / slow.variance).toBeCloseTo(1, 2);
  });

  it("has a spread that is found again from orders made with it", () => {
    const random = randomFrom("spread");
    const expected = Array.from({ length: 3000 }, () => 0.5 + 8 * random());
    const orders = expected.map((mean) => poisson(random, mean * Math.exp(0.5 * normal(random) - 0.125)));
    const one = expected.map(() => 1);
    const found = fitSpread(
      orders,
      expected,
      one,
      one.map(() => 0),
    );
    expect(found).toBeGreaterThan(0.45);
    expect(found).toBeLessThan(0.55);
  });
});

describe("pooling over a ladder", () => {
  it("leaves a member's own orders out of what the level above says of it", () => {
    // A family of one says nothing of its only item beyond what the category says.
    const [orders, exposure] = [
      [9, 1, 1, 1],
      [100, 100, 100, 100],
    ];
    const alone = poolRates(orders, exposure, [[0, 1, 2, 3]]);
    const bare = poolRates(orders, exposure, []);
    // Only through the spread of its level does a rung of families of one change anything.
    expect(alone.priorMean[0]).toBeCloseTo(bare.priorMean[0]!, 2);
    expect(bare.priorMean[0]!).toBeLessThan(bare.priorMean[1]!);
  });

  it("draws a member with little to those it is one of, level by level", () => {
    // Two kinds of 10 items that convert at 10 % and 1 %, a new item in each, and one in a kind of its own.
    const orders = [...Array<number>(10).fill(20), ...Array<number>(10).fill(2), 0, 0, 0];
    const exposure = [...Array<number>(20).fill(200), 1, 1, 1];
    const kind = [...Array<number>(10).fill(0), ...Array<number>(10).fill(1), 0, 1, 2];
    const { log } = poolRates(orders, exposure, [kind]);
    const [good, poor, other] = [20, 21, 22].map((row) => Math.exp(log[row]!)) as [number, number, number];
    expect(good).toBeGreaterThan(0.07);
    expect(poor).toBeLessThan(0.016);
    expect(other).toBeGreaterThan(poor);
    expect(other).toBeLessThan(good);
  });
});

describe("effects", () => {
  it("are found again from orders made with them", () => {
    const random = randomFrom("effects");
    const rows = 4000;
    const [x, y] = [new Float64Array(rows), new Float64Array(rows)].map((values) => values.map(() => normal(random)));
    const exposure = x!.map(() => 1 + 4 * random());
    const orders = exposure.map((mean, i) => poisson(random, mean * Math.exp(-0.6 * x![i]! + 0.3 * y![i]!)));
    const {
      effects: [a, b],
    } = fitEffects(orders, exposure, [x!, y!], 1000);
    expect(a).toBeCloseTo(-0.6, 1);
    expect(b).toBeCloseTo(0.3, 1);
  });

  it("are as unsure as they miss by over many draws, the more the further a row lies from all others", () => {
    const x = Float64Array.from({ length: 300 }, (_, i) => (i % 21) / 10 - 1);
    const exposure = new Float64Array(300).fill(0.5);
    const found = Array.from({ length: 200 }, (_, draw) => {
      const random = randomFrom("unsure", draw);
      const orders = exposure.map((mean, i) => poisson(random, mean * Math.exp(-0.5 * x[i]!)));
      return fitEffects(orders, exposure, [x], 1000);
    });
    const mean = found.reduce((sum, { effects }) => sum + effects[0]!, 0) / found.length;
    const scatter = found.reduce((sum, { effects }) => sum + (effects[0]! - mean) ** 2, 0) / (found.length - 1);
    const said = found.reduce((sum, { covariance }) => sum + covariance[0]![0]!, 0) / found.length;
    // A variance from 200 draws is known to a tenth (standard error √(2 ÷ 199)).
    expect(Math.abs(said / scatter - 1)).toBeLessThan(0.3);
    const { covariance } = found[0]!;
    expect(unsureAt(covariance, () => 3)).toBeCloseTo(9 * covariance[0]![0]!, 12);
  });

  it("are taken by the share they are trusted, with as large a share of what is unsure, for rows and lines alike", () => {
    const random = randomFrom("trust");
    const rows = 2000;
    const x = Float64Array.from({ length: rows }, () => normal(random));
    const clicks = new Float64Array(rows).fill(40);
    const orders = x.map((value) => poisson(random, 2 * Math.exp(0.5 * value)));
    const [whole, half] = [1, 0.5].map((trust) => factorsOf(orders, clicks, [], [x], [trust]));
    const slope = ({ of }: ReturnType<typeof factorsOf>) => Math.log(of([1]).factor / of([0]).factor);
    expect(slope(whole!)).toBeCloseTo(0.5, 1);
    expect(slope(half!) / slope(whole!)).toBeGreaterThan(0.4);
    expect(slope(half!) / slope(whole!)).toBeLessThan(0.6);
    for (const made of [whole!, half!]) {
      for (let row = 0; row < 50; row++) {
        const one = made.of([x[row]!]);
        expect(made.rows[row]).toBeCloseTo(one.factor, 10);
        expect(made.unsure[row]).toBeCloseTo(one.unsure, 10);
      }
    }
  });
});

describe("pooled amounts", () => {
  it("stand between a row's own mean and that of all, nearer to its own the more it has", () => {
    const random = randomFrom("amounts");
    const counts = Array.from({ length: 400 }, (_, i) => 1 + (i % 40));
    const truth = counts.map(() => 100 * Math.exp(0.3 * normal(random)));
    const sums = counts.map((count, i) => {
      let sum = 0;
      for (let k = 0; k < count; k++) sum += truth[i]! * Math.exp(0.8 * normal(random) - 0.32);
      return sum;
    });
    const { mean, unsure } = poolAmounts(sums, counts);
    const error = (values: ArrayLike<number>) =>
      truth.reduce((sum, value, i) => sum + (values[i]! - value) ** 2, 0) / truth.length;
    expect(error(mean)).toBeLessThan(0.6 * error(sums.map((sum, i) => sum / counts[i]!)));
    expect(unsure[39]!).toBeLessThan(0.5 * unsure[0]!);
  });
});

describe("beliefs about a return", () => {
  const belief = { mean: 4, variance: 0.25, nothing: 0 };

  it("agree with draws", () => {
    const random = randomFrom("draws");
    const draws = Array.from({ length: 40_000 }, () => 4 * Math.exp(0.5 * normal(random) - 0.125)).sort(
      (a, b) => a - b,
    );
    const { low, high, mean } = intervalOf(belief);
    expect(low).toBeCloseTo(draws[4000]!, 1);
    expect(high).toBeCloseTo(draws[36_000]!, 0);
    expect(mean).toBe(4);
    expect(chanceOf(belief, 3)).toBeCloseTo(draws.filter((draw) => draw >= 3).length / draws.length, 2);
  });

  it("allow for what may sell nothing at all", () => {
    const doubtful = { ...belief, nothing: 0.6 };
    expect(intervalOf(doubtful).low).toBe(0);
    expect(intervalOf(doubtful).mean).toBeCloseTo(1.6, 9);
    expect(chanceOf(doubtful, 3)).toBeCloseTo(0.4 * chanceOf(belief, 3), 9);
  });
});

/** Items of one category with their figures; all cost 0.30 a click. */
function items(
  rows: { clicks: number; orders: number; paid?: number; sold?: number; store?: number; out?: boolean }[],
) {
  const sums: RowSums = emptyRowSums(rows.length);
  rows.forEach(({ clicks, orders, paid = 30_000, sold = paid, store = 0 }, row) => {
    sums.clicks[row] = clicks;
    sums.orders[row] = orders;
    sums.cost[row] = clicks * 300;
    sums.revenue[row] = orders * sold;
    sums.storeOrders[row] = orders + store;
  });
  const facts: ItemFacts = {
    family: null,
    category: textColumn(rows.map(() => "Lamps")),
    paid: Float64Array.from(rows, ({ paid = 30_000 }) => paid),
    soldOut: Uint8Array.from(rows, ({ out }) => (out ? 1 : 0)),
    newness: new Float64Array(rows.length),
  };
  return { sums, facts };
}

/** Many items about which something is known, drawn at a rate. */
function crowd(seed: string, rateOf: (i: number) => { rate: number; paid: number; store: number }) {
  const random = randomFrom("crowd", seed);
  return Array.from({ length: 400 }, (_, i) => {
    const { rate, paid, store } = rateOf(i);
    const clicks = 20 + Math.floor(150 * random());
    return { clicks, orders: poisson(random, rate * clicks), paid, store: poisson(random, store) };
  });
}

describe("the evidence of items", () => {
  it("expects of an item without clicks what its price says", () => {
    // Those at 10 convert at 8 %, those at 40 at 2 %.
    const known = crowd("price", (i) => ({ rate: i % 2 ? 0.08 : 0.02, paid: i % 2 ? 10_000 : 40_000, store: 0 }));
    const { sums, facts } = items([
      ...known,
      { clicks: 0, orders: 0, paid: 10_000 },
      { clicks: 0, orders: 0, paid: 40_000 },
    ]);
    const { orderRate } = itemEvidence(sums, facts);
    expect(orderRate[400]!).toBeGreaterThan(0.055);
    expect(orderRate[401]!).toBeLessThan(0.03);
  });

  it("expects more of what sells in the shop without ads", () => {
    const known = crowd("store", (i) => ({ rate: i % 2 ? 0.06 : 0.02, paid: 30_000, store: i % 2 ? 40 : 3 }));
    const { sums, facts } = items([...known, { clicks: 5, orders: 0, store: 40 }, { clicks: 5, orders: 0, store: 3 }]);
    const { orderRate } = itemEvidence(sums, facts);
    expect(orderRate[400]! / orderRate[401]!).toBeGreaterThan(2);
  });

  it("values an order at what shoppers pay, also where they pay less than the feed says", () => {
    // Listed at 100 and sold at 50 with 30 orders: the return is 30 × 50 ÷ 300.
    const rows = Array.from({ length: 40 }, () => ({ clicks: 1000, orders: 30, paid: 100_000, sold: 50_000 }));
    const { sums, facts } = items(rows);
    expect(pooledReturn(itemEvidence(sums, facts), 0)!.mean).toBeCloseTo(5, 0);
  });

  it("gives sold-out items that sold nothing a chance of selling nothing, and the others none", () => {
    const sold = Array.from({ length: 60 }, () => ({ clicks: 100, orders: 3 }));
    const out = Array.from({ length: 20 }, () => ({ clicks: 100, orders: 0, out: true }));
    const { sums, facts } = items([...sold, ...out, { clicks: 100, orders: 2, out: true }]);
    const evidence = itemEvidence(sums, facts);
    expect(evidence.nothing[0]).toBe(0);
    expect(evidence.nothing[65]!).toBeGreaterThan(0.9);
    expect(evidence.nothing[80]).toBe(0);
    expect(pooledReturn(evidence, 65)!.low).toBe(0);
    // What sold nothing for want of stock does not make the others look worse.
    expect(evidence.orderRate[0]!).toBeGreaterThan(0.027);
    expect(chanceOfGoal(evidence, 65, 1)).toBeLessThan(0.1);
  });

  it("counts clicks of days that are not complete in part", () => {
    const rows = Array.from({ length: 80 }, () => ({ clicks: 100, orders: 3 }));
    const { sums, facts } = items(rows);
    const whole = itemEvidence(sums, facts).orderRate[0]!;
    const half = itemEvidence(sums, { ...facts, seenClicks: sums.clicks.map((clicks) => clicks / 2) }).orderRate[0]!;
    expect(half / whole).toBeCloseTo(2, 1);
  });

  it("reads category paths as a ladder", () => {
    const ladder = categoryLadder(textColumn(["A > B > C", "A > B > D", "A > E", "F"]), 4);
    const alike = (level: number) => [0, 1, 2, 3].map((row) => ladder[level]!.indexOf(ladder[level]![row]!));
    expect(alike(0)).toEqual([0, 1, 2, 3]);
    expect(alike(1)).toEqual([0, 0, 2, 3]);
    expect(alike(2)).toEqual([0, 0, 0, 3]);
  });
});

/** A line whose orders bring so much each. */
function line(clicks: number, values: number[], cost = clicks * 300): Told {
  const revenue = values.reduce((a, b) => a + b, 0);
  const squares = values.reduce((a, b) => a + b * b, 0);
  return { clicks, seenClicks: clicks, cost, orders: values.length, revenue, squares };
}

describe("the evidence of lines", () => {
  it("does not call an hour hot for one dear order", () => {
    // 24 hours with 12 orders of 80 each; one of them has an order of 2,086 more.
    const usual = Array.from({ length: 23 }, () => line(900, Array<number>(12).fill(80_000)));
    const lucky = line(900, [...Array<number>(12).fill(80_000), 2_086_000]);
    const evidence = linesEvidence([...usual, lucky], 6);
    // Raw returns are 3.6 and 11.3.
    expect(lucky.revenue / lucky.cost).toBeGreaterThan(11);
    expect(evidence.of(lucky)!.chance).toBeLessThan(0.7);
    expect(evidence.of(lucky)!.mean).toBeLessThan(7);
  });

  it("says the same of a campaign among the others and seen alone", () => {
    const all = [
      line(500, Array<number>(10).fill(40_000)),
      line(300, Array<number>(2).fill(30_000)),
      line(60, [50_000]),
    ];
    const evidence = linesEvidence(all, 3);
    expect(evidence.of({ ...all[1]! })).toEqual(evidence.of(all[1]!));
  });

  it("is unread where so few clicks could not have brought an order, and without spend nothing", () => {
    const others = Array.from({ length: 20 }, () => line(2000, Array<number>(20).fill(40_000)));
    // 27 clicks for 8 euros at an order in 100 clicks.
    const thin = line(27, [], 8_000);
    expect(linesEvidence([...others, thin], 3).of(thin)!.heat).toBe("unread");
    expect(linesEvidence(others, 3).of(toldNothing())).toBeNull();
  });

  it("is less sure where the value of orders differs more", () => {
    const even = Array.from({ length: 12 }, () => line(800, Array<number>(16).fill(40_000)));
    const uneven = even.map(() =>
      line(
        800,
        Array.from({ length: 16 }, (_, i) => (i % 8 ? 10_000 : 250_000)),
      ),
    );
    const width = (lines: Told[]) => {
      const { low, high } = linesEvidence(lines, 3).of(lines[0]!)!;
      return Math.log(high / low);
    };
    expect(width(uneven)).toBeGreaterThan(1.2 * width(even));
  });
});

describe("heat", () => {
  const known = { clicks: 100, orders: 2, expected: 2 };

  it("turns a chance into a step, and thin evidence into unread", () => {
    const steps = [0.95, 0.75, 0.5, 0.25, 0.05].map((chance) => heatOf(chance, known, DEFAULT_HEAT_RULES));
    expect(steps).toEqual(["hot", "warm", "mild", "cool", "cold"]);
    const heat = (clicks: number, orders: number, expected: number) =>
      heatOf(0.99, { clicks, orders, expected }, DEFAULT_HEAT_RULES);
    expect(heat(19, 2, 2)).toBe("unread");
    expect(heat(100, 0, 0.9)).toBe("unread");
    expect(heat(100, 0, 1.1)).toBe("hot");
    expect(heat(5, 3, 0.1)).toBe("hot");
  });
});

describe("lines that may sell nothing at all", () => {
  it("are told from those without luck by how many such lines there are and how much they were clicked", () => {
    const selling = Array.from({ length: 40 }, () => line(400, Array<number>(8).fill(40_000)));
    const idle = Array.from({ length: 10 }, () => line(400, []));
    const evidence = linesEvidence([...selling, ...idle], 3);
    // Eight orders were to be expected of each: that ten of fifty had none is no luck.
    expect(evidence.of(idle[0]!)!.low).toBe(0);
    expect(evidence.of(idle[0]!)!.mean).toBeLessThan(0.2);
    const few = line(20, []);
    expect(evidence.of(few)!.mean).toBeGreaterThan(2 * evidence.of(idle[0]!)!.mean);
    // With an order there is no doubt that it sells.
    expect(evidence.of(line(400, [40_000]))!.low).toBeGreaterThan(0);
  });

  it("have a share that is the one found by trying them all (property)", () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0.01, max: 0.95, noNaN: true }), { minLength: 1, maxLength: 12 }),
        fc.integer({ min: 0, max: 20 }),
        (luck, more) => {
          const asked = luck.length + more;
          const share = shareIdle(luck, asked);
          // Penalised likelihood: one member's worth a side.
          const logLikely = (s: number) =>
            Math.log(s) +
            (1 + more) * Math.log(1 - s) +
            luck.reduce((sum, one) => sum + Math.log(s + (1 - s) * one), 0);
          const best = Math.max(...Array.from({ length: 999 }, (_, i) => logLikely((i + 1) / 1000)));
          expect(logLikely(share)).toBeGreaterThan(best - 0.02);
        },
      ),
    );
  });
});
