/* What tiers went on to earn: items are put on shelves by what an advertiser saw, and judged by what the world knows. */
import { paidPrices } from "../catalogue/margins";
import { itemEvidence } from "../evidence/item-evidence";
import { asText } from "../kit/columns";
import { assignShelves, blankMemory, shelfDegrees } from "../shelves/assign";
import { metricValues, type MetricInputs } from "../shelves/shelf-metrics";
import { shelvesOf, type ShelfSet } from "../shelves/shelf-set";
import type { SeenWorld } from "./seen-world";

/** One tier: what its items had, and what the same spend on them truly brings. */
export interface JudgedTier {
  name: string;
  items: number;
  /** Mills. */
  cost: number;
  seen: number;
  truth: number;
  /** Share of its read items whose true return reaches the goal. */
  reaching: number;
}

/** Puts a world's items on the shelves of a set and says what each shelf had and is truly worth. Rows without spend are left out. */
export function judgeTiers(set: ShelfSet, { shop, sums, seenClicks, trueReturn }: SeenWorld): JudgedTier[] {
  const column = (name: string) => asText(shop.columns[name]!);
  const availability = column("availability");
  const evidence = itemEvidence(sums, {
    ...{ family: column("family"), category: column("category"), paid: paidPrices(shop), seenClicks },
    soldOut: Uint8Array.from(availability.codes, (code) => (availability.values[code] === "out of stock" ? 1 : 0)),
    newness: new Float64Array(shop.length),
  });
  const inputs = { sums, evidence, goal: set.goal } as MetricInputs;
  const isPooled = set.shelves.some((shelf) => shelf.kind === "band" && shelf.metric === "chance");
  const degrees = shelfDegrees(set, {
    sums,
    expected: isPooled ? evidence.expected : null,
    column: (name) => ({ kind: "number", values: metricValues(name, inputs)! }),
    picked: () => undefined,
  });
  const { shelf } = assignShelves(degrees, blankMemory(shop.length), set);
  return shelvesOf(set).map(({ name }, at) => {
    let [items, cost, seen, truth, reaching] = [0, 0, 0, 0, 0];
    for (let row = 0; row < shop.length; row++) {
      if (shelf[row] !== at || !(sums.cost[row]! > 0) || !Number.isFinite(trueReturn[row]!)) continue;
      items++;
      cost += sums.cost[row]!;
      seen += sums.revenue[row]!;
      truth += trueReturn[row]! * sums.cost[row]!;
      if (trueReturn[row]! >= set.goal) reaching++;
    }
    return { name, items, cost, seen: seen / cost, truth: truth / cost, reaching: reaching / items };
  });
}
