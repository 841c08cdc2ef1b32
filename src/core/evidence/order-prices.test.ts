import { describe, expect, it } from "vitest";
import { randomFrom } from "../kit/random";
import { orderPrices } from "./order-prices";

describe("the price an order is expected to be of", () => {
  const kinds = Uint8Array.from({ length: 400 }, (_, row) => row % 20);
  const random = randomFrom("order prices");
  const paid = Float64Array.from(kinds, () => 10_000 * Math.exp(1.2 * (random() - 0.5)));
  const means = Array.from({ length: 20 }, (_, kind) => {
    const own = [...paid].filter((__, row) => kinds[row] === kind);
    return own.reduce((sum, price) => sum + price, 0) / own.length;
  });

  /** Orders of every row of which a share are of another of its kind, at its mean price. */
  function worth(share: number, orders: number): Float64Array {
    return paid.map((price, row) => orders * ((1 - share) * price + share * means[kinds[row]!]!));
  }

  it("finds the share that is of other items of the kind, and mixes prices by it", () => {
    for (const share of [0, 0.15, 0.3]) {
      const orders = new Float64Array(400).fill(60);
      const found = orderPrices(worth(share, 60), orders, paid, kinds);
      expect(found.share).toBeCloseTo(share, 1);
      paid.forEach((price, row) => {
        const mixed = (1 - found.share) * price + found.share * means[kinds[row]!]!;
        expect(found.prices[row]).toBeCloseTo(mixed, 6);
      });
    }
  });

  it("takes what is usual where nothing was sold, and leaves what has no price unknown", () => {
    const none = new Float64Array(400);
    const unpriced = paid.map((price, row) => (row < 40 ? NaN : price));
    const { prices, share } = orderPrices(none, none, unpriced, kinds);
    expect(share).toBeCloseTo(0.08, 12);
    expect([...prices.slice(0, 40)].every(Number.isNaN)).toBe(true);
    expect([...prices.slice(40)].every((price) => price > 0)).toBe(true);
  });
});
