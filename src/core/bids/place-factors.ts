/** What a place brought, and what it shares with others, such as its words. */
export interface PlaceSeen {
  parts: readonly string[];
  orders: number;
  /** Orders that its clicks would have brought at the usual rate of the items clicked. */
  expected: number;
}

/** Usual orders laid beside those of all places that share a word: a word is no reason to believe much at once. */
const PART_PATIENCE = 8;
/** Rounds until words share out among each other what they explain. */
const ROUNDS = 6;
/** What words say together goes no further than this, either way. */
const FAR = 4;

/**
 * How much more or less than usual a click is worth at each place: its own orders, around what its words say of it
 * (`docs/formulas.md` 6). Orders are Poisson around expected × Π of its parts' factors, fitted part by part in turn, each held
 * towards 1; around that a place has `patience` usual orders laid beside its own.
 */
export function placeFactors(places: readonly PlaceSeen[], patience: number): number[] {
  const factors = new Map<string, number>();
  const users = new Map<string, number[]>();
  places.forEach(({ parts }, at) => {
    for (const part of parts) {
      factors.set(part, 1);
      const list = users.get(part);
      if (list) list.push(at);
      else users.set(part, [at]);
    }
  });
  const told = places.map(() => 1);
  for (let round = 0; round < ROUNDS; round++) {
    for (const [part, list] of users) {
      // A word of one place says no more than the place itself.
      if (list.length < 2) continue;
      let [orders, fitted] = [0, 0];
      for (const at of list) {
        orders += places[at]!.orders;
        fitted += places[at]!.expected * told[at]!;
      }
      const present = factors.get(part)!;
      // Held towards 1: usual orders beside both, at the factor as it would be without them.
      const next = (orders + PART_PATIENCE) / (fitted / present + PART_PATIENCE);
      for (const at of list) told[at] = (told[at]! / present) * next;
      factors.set(part, next);
    }
  }
  return places.map(({ orders, expected }, at) => {
    const prior = Math.min(FAR, Math.max(1 / FAR, told[at]!));
    return (orders + patience * prior) / (expected + patience);
  });
}
