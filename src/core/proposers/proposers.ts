import { itemBids } from "../bids/item-bids";
import { pushEnds } from "../bids/push-ends";
import { hourFactors, slotFactors } from "../bids/slots-hours";
import { dryCampaigns } from "../budgets/dry";
import { overlaps, withoutCampaigns } from "../budgets/overlap";
import { letInAgain, withoutMargin } from "../exclusions/margin-and-stock";
import { wastedPlaces } from "../exclusions/waste";
import { namedPlaces } from "../targets/place-moves";
import { splitBrands } from "../targets/brand-mix";
import { splitHogs } from "../targets/starvation";
import { targetBids } from "../targets/target-bids";
import type { Ground } from "../moves/ground";
import { atStake, type Expected, type Move } from "../moves/move";

/** All that proposes moves, each with its name, in the order in which their moves are made when all are accepted. */
export const PROPOSERS = {
  "push-ends": { name: "Pushes that are over", propose: pushEnds },
  overlap: { name: "Overlapping campaigns", propose: overlaps },
  dry: { name: "Dry campaigns", propose: dryCampaigns },
  waste: { name: "Terms and pages that only cost", propose: wastedPlaces },
  "no-margin": { name: "Items without a margin", propose: withoutMargin },
  "let-in": { name: "Items to let in again", propose: letInAgain },
  starved: { name: "Starved keywords and listings", propose: splitHogs },
  "brand-mix": { name: "Own brands among generic keywords", propose: splitBrands },
  places: { name: "Terms and pages by name", propose: namedPlaces },
  "target-bids": { name: "Bids of keywords and listings", propose: targetBids },
  "item-bids": { name: "Bids of items", propose: itemBids },
  slots: { name: "Slots", propose: slotFactors },
  hours: { name: "Hours", propose: hourFactors },
} as const satisfies Record<string, { name: string; propose(ground: Ground): Move[] }>;

export type ProposerKey = keyof typeof PROPOSERS;
export const PROPOSER_KEYS = Object.keys(PROPOSERS) as ProposerKey[];

/**
 * All moves of a ground. Of moves that touch the same only the first proposer's stands: what is kept out needs no bid. What
 * comes after campaigns that are in the way is said as if these were paused.
 * @param leaveOut proposers that are not asked
 * @param declined keys of moves that a person does not want: nothing is built on them
 */
export function proposeMoves(
  ground: Ground,
  leaveOut: ReadonlySet<ProposerKey> = new Set(),
  declined: ReadonlySet<string> = new Set(),
): Move[] {
  const touched = new Set(ground.settling);
  let on = ground;
  return PROPOSER_KEYS.filter((key) => !leaveOut.has(key)).flatMap((key) => {
    const moves = PROPOSERS[key]
      .propose(on)
      .filter(
        ({ touches, expected }) => !touches.some((name) => touched.has(name)) && !(GAINS.has(key) && isLoss(expected)),
      );
    for (const move of moves) for (const name of move.touches) touched.add(name);
    if (key === "overlap") {
      on = withoutCampaigns(
        ground,
        new Set(moves.flatMap((move) => (declined.has(move.key) || !move.campaign ? [] : [move.campaign]))),
      );
    }
    return moves;
  });
}

/**
 * Changes of what there is are proposed only where they are expected to gain. Bids and factors follow what clicks are worth
 * with caution, so some come down from where a little more would be expected.
 */
const GAINS: ReadonlySet<ProposerKey> = new Set(["overlap", "dry", "waste", "places"]);

const isLoss = ({ contribution }: Expected) => contribution !== null && contribution.mean < 0;

/** Moves by money at stake, the most first. */
export function byStake(moves: readonly Move[]): Move[] {
  return [...moves].sort((a, b) => atStake(b) - atStake(a) || (a.key < b.key ? -1 : 1));
}
