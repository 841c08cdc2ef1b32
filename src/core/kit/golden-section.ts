const GOLDEN = (Math.sqrt(5) - 1) / 2;

/**
 * Where a function with one lowest point between two ends has it: golden-section search (Kiefer 1953), one evaluation a
 * step, each of which narrows the span to 0.618 of it.
 */
export function lowestBetween(of: (x: number) => number, from: number, to: number, steps: number) {
  let [low, high] = [from, to];
  let [a, b] = [high - GOLDEN * (high - low), low + GOLDEN * (high - low)];
  let [atA, atB] = [of(a), of(b)];
  for (let step = 0; step < steps; step++) {
    if (atA < atB) {
      [high, b, atB] = [b, a, atA];
      a = high - GOLDEN * (high - low);
      atA = of(a);
    } else {
      [low, a, atA] = [a, b, atB];
      b = low + GOLDEN * (high - low);
      atB = of(b);
    }
  }
  return { at: (low + high) / 2, least: Math.min(atA, atB) };
}
