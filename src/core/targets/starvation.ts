import { campaignNamed, freeKey } from "../account/own-tree";
import { Draft } from "../account/draft";
import type { Campaign } from "../account/records/campaign";
import type { Target } from "../account/records";
import { worthsOf, type Worths } from "../bids/worths";
import { comparedWords, matches } from "../channel/matching";
import { formatShare, plural } from "../kit/format";
import { wholeCents } from "../kit/money";
import type { Ground, PlaceLine } from "../moves/ground";
import { between, type Expected, type Move } from "../moves/move";
import { BID_OVER_CPC } from "./start-bid";
import { nameOf, targetWorths, type TargetWorth } from "./target-bids";

/** A campaign in which one target takes the money while others with fair bids get next to nothing. */
interface Starvation {
  campaign: Campaign;
  hog: TargetWorth;
  /** What the hog takes of the campaign's spend. */
  share: number;
  starved: TargetWorth[];
}

/** Share of a campaign's spend from which one target takes it all, and of its fair share below which another one starves. */
const HOG = 0.7;
const STARVED = 0.1;
/** Share of what the hog pays a click from which another bid counts as fair. */
const FAIR_BID = 0.5;
/** Clicks of the campaign before anything is said. */
const LEAST_CLICKS = 50;

/** Campaigns with starved targets (`docs/formulas.md` 7). */
export function starvations(ground: Ground): Starvation[] {
  const byCampaign = new Map<string, TargetWorth[]>();
  for (const one of targetWorths(ground, worthsOf(ground))) {
    if (one.target.status !== "on" || one.adGroup.status !== "on" || one.campaign.status !== "on") continue;
    byCampaign.set(one.campaign.key, [...(byCampaign.get(one.campaign.key) ?? []), one]);
  }
  return [...byCampaign.values()].flatMap((targets): Starvation[] => {
    const cost = targets.reduce((sum, { seen }) => sum + seen.cost, 0);
    const clicks = targets.reduce((sum, { seen }) => sum + seen.clicks, 0);
    if (targets.length < 2 || cost <= 0 || clicks < LEAST_CLICKS) return [];
    const hog = targets.reduce((best, one) => (one.seen.cost > best.seen.cost ? one : best));
    const share = hog.seen.cost / cost;
    if (share <= HOG) return [];
    const price = hog.seen.cost / Math.max(1, hog.seen.clicks);
    const starved = targets.filter(
      (one) => one !== hog && one.seen.cost / cost < STARVED / targets.length && one.present >= FAIR_BID * price,
    );
    return starved.length === 0 ? [] : [{ campaign: hog.campaign, hog, share, starved }];
  });
}

/**
 * The hog into a campaign of its own with its bid, kept out of what the starved ones name, and the money divided between both: what
 * may be spent in all stays.
 */
export function splitHogs(ground: Ground): Move[] {
  const worths = worthsOf(ground);
  return starvations(ground).flatMap(({ campaign, hog, share, starved }): Move[] => {
    const draft = new Draft(ground.account);
    const name = `${nameOf(hog.target)} · ${campaign.name}`.slice(0, 110);
    if (campaign.pool || campaign.bidding === "return" || campaignNamed(draft, name)) return [];
    const key = freeKey(draft, "c", name);
    const theirs = wholeCents(campaign.dailyBudget * Math.min(0.5, starved.length / (starved.length + 1)));
    const names = starved.flatMap(({ target }) => exactName(target) ?? []);
    const words = `${formatShare(share)} of the spend goes to ${nameOf(hog.target)}; ${plural(starved.length, "target")} with fair bids ${starved.length === 1 ? "gets" : "get"} under a tenth of ${starved.length === 1 ? "its" : "their"} share`;
    return [
      {
        ...{ key: `starved/${campaign.key}`, proposer: "starved", about: nameOf(hog.target), campaign: campaign.key },
        what: `Into a campaign of its own with its bid${names.length > 0 ? `, kept out of ${plural(names.length, "term or page", "terms and pages")} of the others` : ""}`,
        why: words,
        acts: [
          { action: "move-target", keys: [hog.target.key], name, dailyBudget: campaign.dailyBudget - theirs },
          { action: "amounts", of: "budget", amounts: [{ key: campaign.key, mills: theirs }] },
          ...(names.length === 0
            ? []
            : [
                { action: "keep-out" as const, scope: key, values: names, reason: "wasteful" as const, reviewOn: null },
              ]),
        ],
        ...{ amount: null, limitedBy: null, rows: [] },
        stands: { clicks: hog.seen.clicks, orders: hog.seen.orders },
        expected: expectedOf(ground, worths, hog, starved),
        touches: [hog.target.key, `${campaign.key}/budget`, ...starved.map(({ target }) => target.key)],
      },
    ];
  });
}

/** What keeps others from what a target names; null for what names nothing. */
function exactName(target: Target): { what: "term" | "listing"; match: "exact"; value: string } | null {
  if (target.type === "keyword") {
    return target.match === "exact" ? { what: "term", match: "exact", value: target.text } : null;
  }
  return target.type === "listingTarget" && target.aim.by === "listing"
    ? { what: "listing", match: "exact", value: target.aim.listing }
    : null;
}

/**
 * What is expected to change a day: at the places that the starved ones name, clicks come at their bids in place of the hog's. What
 * else the hog's money does is left as it is, since nothing tells it.
 */
function expectedOf(ground: Ground, worths: Worths, hog: TargetWorth, starved: TargetWorth[]): Expected {
  const lines = ground.places.filter(({ target }) => target === hog.target.key);
  let [clicks, cost, revenue, mean, variance] = [0, 0, 0, 0, 0];
  for (const one of starved) {
    const own = lines.filter((line) => isNamedBy(one.target, line));
    const had = own.reduce((sum, line) => sum + line.clicks, 0) / ground.days;
    if (had === 0) continue;
    const paid = own.reduce((sum, line) => sum + line.cost, 0) / ground.days / had;
    const price = Math.min(paid, one.present / BID_OVER_CPC);
    // Clicks follow bids as at places aimed at by name: see there.
    const then = had * Math.min(1, price / paid) ** 0.7;
    const left = meanOf(worths.left, one);
    clicks += then - had;
    cost += then * price - had * paid;
    revenue += (then - had) * meanOf(worths.sales, one);
    mean += then * (left - price) - had * (left - paid);
    variance += ((then - had) * left) ** 2 + (0.5 * (then * price - had * paid)) ** 2;
  }
  return { clicks, cost, revenue, contribution: Number.isFinite(mean) ? between(mean, variance) : null };
}

function isNamedBy(target: Target, { place }: PlaceLine): boolean {
  if (target.type === "keyword") return matches(comparedWords(target.text), comparedWords(place), target.match);
  return target.type === "listingTarget" && target.aim.by === "listing" && target.aim.listing === place;
}

function meanOf(values: Float64Array, { weights }: TargetWorth): number {
  const all = weights.reduce((sum, { weight }) => sum + weight, 0);
  return weights.reduce((sum, { row, weight }) => sum + weight * values[row]!, 0) / all;
}
