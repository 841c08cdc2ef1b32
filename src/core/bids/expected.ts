import type { Ground } from "../moves/ground";
import { between, type Expected } from "../moves/move";
import { atBid, landscapeOfClicks } from "./landscape";
import type { Worths } from "./worths";

/** How unsure the landscape is: standard deviation of the logarithm of clicks for a change of the bid by e. */
const LANDSCAPE_UNSURE = 0.5;

/**
 * What another bid for some rows is expected to change a day: clicks and their cost by the landscape that the present bid
 * was seen in, cut off where the campaign's own money, or that of all, ends now and then; worth by evidence.
 * @param seenBid the bid under which a row's clicks were seen, mills, where that is not the present one
 */
export function expectedOfBid(
  ground: Ground,
  worths: Worths,
  campaign: string,
  rows: readonly number[],
  present: number,
  bid: number,
  seenBid?: (row: number) => number,
): Expected {
  const { sums, days, evidence } = ground;
  const alive = worths.alive.get(campaign) ?? 1;
  const ofAll = worths.full > 0 ? worths.money / (worths.full * (worths.factor.next / worths.factor.now)) : 1;
  const seen: { row: number; now: Clicks; next: Clicks }[] = [];
  let [fullNow, fullNext] = [0, 0];
  for (const row of rows) {
    const clicks = sums.clicks[row]! / days;
    if (clicks <= 0 || !Number.isFinite(worths.sales[row]!)) continue;
    const cpc = sums.cost[row]! / sums.clicks[row]!;
    const under = Math.max(seenBid?.(row) ?? present, cpc);
    const landscape = landscapeOfClicks(under, cpc);
    const full = { bid: under, clicks: clicks / Math.max(0.05, alive), cpc };
    const [now, next] = [atBid(landscape, full, present), atBid(landscape, full, bid)];
    fullNow += now.clicks * now.cpc;
    fullNext += next.clicks * next.cpc;
    // Where the clicks were seen under the present bid, they are the present state as they are.
    seen.push({ row, now: under === Math.max(present, cpc) ? { clicks, cpc } : cut(now, alive), next });
  }
  // Its own budget ends the day sooner or later as full days cost more or less; its other bids are taken to go along.
  const own = ((worths.room.get(campaign) ?? Infinity) * fullNow) / Math.max(1e-9, fullNext);
  const then = Math.min(1, ofAll, own);
  let [clicks, cost, revenue, mean, variance, isKnown] = [0, 0, 0, 0, 0, true];
  for (const { row, now, next: whole } of seen) {
    const next = cut(whole, then);
    clicks += next.clicks - now.clicks;
    cost += next.clicks * next.cpc - now.clicks * now.cpc;
    revenue += (next.clicks - now.clicks) * worths.sales[row]!;
    const left = worths.left[row]!;
    if (Number.isNaN(left)) {
      isKnown = false;
      continue;
    }
    mean += next.clicks * (left - next.cpc) - now.clicks * (left - now.cpc);
    const cpc = sums.cost[row]! / sums.clicks[row]!;
    const unsureClicks = LANDSCAPE_UNSURE * Math.log(bid / Math.max(present, cpc)) * next.clicks * (left - next.cpc);
    variance += (next.clicks - now.clicks) ** 2 * left ** 2 * Math.expm1(evidence.variance[row]!) + unsureClicks ** 2;
  }
  return { clicks, cost, revenue, contribution: isKnown ? between(mean, variance) : null };
}

/** Clicks a day and what one costs, mills. */
interface Clicks {
  clicks: number;
  cpc: number;
}

const cut = ({ clicks, cpc }: Clicks, share: number): Clicks => ({ clicks: clicks * share, cpc });
