/**
 * How steeply sales follow spend where nothing better is known: sales ~ spend^b (`docs/formulas.md` 4). Doubling what a campaign
 * spends brings about half as much again.
 */
export const USUAL_RESPONSE = 0.6;

/** Spend that the return of the whole stands in for, as a share of an average campaign's: little spend tells little. */
const POOLED_SHARE = 0.25;

/**
 * Weights by which a total is shared so that the next unit of money brings the same everywhere (`docs/formulas.md` 4). With
 * sales = a·spend^b marginal returns are equal where spend is proportional to a^(1/(1−b)); a comes from what each brought
 * so far, its return pooled towards that of all.
 * @param past spend and sales of each, in any unit of money; nothing spent counts as an average campaign's return
 * @returns weights, none negative; all 1 where nothing is known of any
 */
export function marginalShares(past: { cost: number; revenue: number }[], response = USUAL_RESPONSE): number[] {
  const [cost, revenue] = past.reduce(([c, r], one) => [c + one.cost, r + one.revenue], [0, 0]);
  if (cost <= 0 || revenue <= 0) return past.map(() => 1);
  const pooled = (POOLED_SHARE * cost) / past.length;
  return past.map((one) => {
    const spent = one.cost + pooled;
    const sold = one.revenue + (pooled * revenue) / cost;
    return (sold / spent ** response) ** (1 / (1 - response));
  });
}
