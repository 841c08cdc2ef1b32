/**
 * The chance that what does sell had no order all the same, by bad luck: as for a Gamma of the same relative variance, whose
 * chance of no order has a closed form.
 * @param expected orders at the prior's mean
 * @param variance of the logarithm of the rate in the prior
 */
export function unlucky(expected: number, variance: number): number {
  const shape = 1 / Math.expm1(variance);
  return (shape / (shape + expected)) ** shape;
}

const ROUNDS = 30;

/**
 * The share of members that sell nothing at all (expectation maximisation, begun at one half with one member's worth a side).
 * @param luck of those without an order, the chance of that if they do sell
 * @param asked how many members there are, with orders or without
 */
export function shareIdle(luck: number[], asked: number): number {
  let share = 0.5;
  for (let round = 0; round < ROUNDS; round++) {
    const sure = luck.reduce((sum, one) => sum + share / (share + (1 - share) * one), 0);
    share = (1 + sure) / (2 + asked);
  }
  return share;
}
