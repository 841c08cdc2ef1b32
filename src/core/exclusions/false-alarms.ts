/** The chance of so few orders or fewer where so many are expected (Poisson). */
export function poissonTail(orders: number, expected: number): number {
  let term = Math.exp(-expected);
  let sum = term;
  for (let n = 1; n <= orders; n++) {
    term *= expected / n;
    sum += term;
  }
  return Math.min(1, sum);
}

/**
 * Which of many chances are small enough together (Benjamini and Hochberg 1995): of those named at most a share is expected
 * to be false alarms, however many were looked at.
 */
export function sureAmong(chances: readonly number[], share: number): boolean[] {
  const order = chances.map((chance, at) => ({ chance, at })).sort((a, b) => a.chance - b.chance);
  let last = -1;
  order.forEach(({ chance }, rank) => {
    if (chance <= ((rank + 1) / chances.length) * share) last = rank;
  });
  const sure = chances.map(() => false);
  for (let rank = 0; rank <= last; rank++) sure[order[rank]!.at] = true;
  return sure;
}
