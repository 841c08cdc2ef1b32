import { touchedBy, type Diff } from "../kit/diff";
import type { ServingGroup } from "../account/walk";
import { firstHomes } from "../account/homes";
import { changedFields, fieldOf, type AccountRecord } from "../account/records";
import type { RowSums } from "../results/window-sums";

/** What a set of changes is expected to do a day, in mills. Only what evidence speaks to is counted. */
export interface Effect {
  /** Spend and ad sales a day that come or go. */
  cost: number;
  revenue: number;
  /** Items whose ads stop, and that had results in the window. */
  stopped: number;
  /** Items whose bid changes. */
  repriced: number;
  /** Changes whose effect is not estimated: new structure has no results to go by. */
  unknown: number;
  /** Whether campaigns come or go: items then stand in other money, and no figure holds for a part of the change. */
  isRestructured: boolean;
}

/** Whether an estimate tells of the whole change: what is new, has another budget or factors has no results to go by. */
export function isTold({ stopped, repriced, unknown }: Effect): boolean {
  return unknown === 0 && stopped + repriced > 0;
}

/**
 * How strongly clicks answer a bid: a bid 10 % higher brings some 6 % more clicks, each some 6 % dearer. A rule of
 * thumb from auctions whose rival scores are log-normal with a spread of about 0.6; the return curve replaces it.
 */
const CLICKS_BY_BID = 0.6;
const CPC_BY_BID = 0.6;

/**
 * Estimates a diff from the results of a window, given who serves before and after it: items that lose their last home stop spending and selling, items whose
 * first home bids otherwise move along the rule of thumb above. An item that only changes its home at an equal bid is
 * taken to go on as before.
 */
export function estimateEffect(
  before: ServingGroup[],
  after: ServingGroup[],
  diff: Diff<AccountRecord>,
  length: number,
  results: RowSums,
  days: number,
): Effect {
  const bidBefore = firstBids(before, length);
  const bidAfter = firstBids(after, length);
  const effect: Effect = { cost: 0, revenue: 0, stopped: 0, repriced: 0, unknown: 0, isRestructured: false };
  for (let row = 0; row < length; row++) {
    const from = bidBefore[row]!;
    const to = bidAfter[row]!;
    const cost = results.cost[row]! / days;
    const revenue = results.revenue[row]! / days;
    if (from === to) continue;
    if (from > 0 && to === 0) {
      effect.cost -= cost;
      effect.revenue -= revenue;
      if (cost > 0) effect.stopped++;
    } else if (from > 0) {
      const clicks = Math.pow(to / from, CLICKS_BY_BID);
      effect.cost += cost * (clicks * Math.pow(to / from, CPC_BY_BID) - 1);
      effect.revenue += revenue * (clicks - 1);
      effect.repriced++;
    } else effect.unknown++;
  }
  const { added, changed, removed } = touchedBy(diff);
  effect.isRestructured = [...added, ...removed].some(({ type }) => type === "campaign");
  for (const record of added) if (!isCounted(record)) effect.unknown++;
  for (const record of removed) if (!isCounted(record)) effect.unknown++;
  for (const [from, to] of changed) {
    if (changedFields(from, to).some((field) => fieldOf(to.type, field)?.untold)) effect.unknown++;
    else if (to.type !== "campaign" && !isCounted(to)) effect.unknown++;
  }
  return effect;
}

/** Whether what a record does shows in who serves which item at what bid; targets, negatives and budgets do it elsewhere. */
function isCounted({ type }: AccountRecord): boolean {
  return type === "adGroup" || type === "productGroup" || type === "exclusion" || type === "labels";
}

/** The bid of each row's first home in serve order, or 0 for none. */
function firstBids(serving: ServingGroup[], length: number): Float64Array {
  return Float64Array.from(firstHomes(serving, length), (place) => serving[place]?.bid ?? 0);
}
