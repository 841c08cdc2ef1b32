import { expect, it } from "vitest";
import { randomFrom } from "../kit/random";
import { poolRates } from "./pool-rates";

/** Items in families in categories; some that nobody clicked among them, in families and categories of their own too. */
function world(withQuiet: boolean) {
  const random = randomFrom("told", 1);
  const rows: { orders: number; clicks: number; family: number; category: number; isQuiet: boolean }[] = [];
  for (let row = 0; row < 600; row++) {
    const clicks = 1 + Math.floor(random() * 80);
    const orders = Math.floor(random() * clicks * 0.1);
    const family = Math.floor(row / 3);
    rows.push({ clicks, orders, family, category: family % 9, isQuiet: false });
    if (!withQuiet || row % 2) continue;
    rows.push({ clicks: 0, orders: 0, family, category: family % 9, isQuiet: true });
    rows.push({ clicks: 0, orders: 0, family: 1000 + row, category: 9 + (row % 4), isQuiet: true });
  }
  const column = (of: (row: (typeof rows)[number]) => number) => Float64Array.from(rows, of);
  const ladder = [column(({ family }) => family), column(({ category }) => category)];
  const pooled = poolRates(
    column(({ orders }) => orders),
    column(({ clicks }) => clicks),
    ladder,
  );
  return { rows, pooled };
}

it("items that nobody clicked move nothing that is known of the others, and are themselves told by their kind", () => {
  const bare = world(false);
  const full = world(true);
  const heard = full.rows.flatMap(({ isQuiet }, row) => (isQuiet ? [] : [row]));
  heard.forEach((row, at) => {
    expect(full.pooled.log[row]).toBeCloseTo(bare.pooled.log[at]!, 10);
    expect(full.pooled.variance[row]).toBeCloseTo(bare.pooled.variance[at]!, 10);
  });
  full.rows.forEach(({ isQuiet }, row) => {
    if (!isQuiet) return;
    expect(full.pooled.priorMean[row]).toBeGreaterThan(0.005);
    expect(full.pooled.priorMean[row]).toBeLessThan(0.2);
    expect(full.pooled.variance[row]).toBeGreaterThan(full.pooled.spread ** 2);
  });
});
