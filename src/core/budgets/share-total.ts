import { fail, ok, type Outcome } from "../kit/outcome";
import { salesAt } from "./response";
import { shareByReturn } from "./return-shares";
import type { CampaignReturn } from "./money-desk";
import { CAME } from "./overlap";

/** Ways in which people share a total out over campaigns. */
export const SHARE_WAYS = {
  next: "Next unit brings the same everywhere",
  left: "By what a unit left after costs",
  sales: "By sales",
  spend: "By spend",
  even: "Evenly",
  hand: "By hand, in parts",
} as const;
export type ShareWay = keyof typeof SHARE_WAYS;

/** A running campaign that takes part, and what is known of its money; null where it never spent. Mills a day. */
export interface SharedCampaign {
  key: string;
  budget: number;
  known: CampaignReturn | null;
}

/** How a total is to be shared out. */
export interface ShareAsk {
  /** Mills a day. */
  total: number;
  way: ShareWay;
  /** How far a budget may go up or down from where it stands, per cent; null for any. */
  step: number | null;
  /** How much more than full days cost at present bids a campaign may get, per cent; null for any. */
  room: number | null;
  /** Parts by key, for the way by hand. */
  parts?: Readonly<Record<string, number>> | undefined;
}

export interface SharedOut {
  lines: { key: string; from: number; to: number; spend: Between; sales: Between; limitedBy: "step" | "room" | null }[];
  /** Mills of the total that were not given, since more would not pay or limits hold it back. */
  kept: number;
  /** What the next unit of money would bring after costs; null for ways that don't ask. */
  next: number | null;
}

/** Before and after, mills a day. */
interface Between {
  from: number;
  to: number;
}

/** The least that a campaign's budget may be, mills. */
const LEAST = 1_000;

/**
 * Shares a total of budgets a day over running campaigns, within limits, in whole cents. What a campaign is expected to spend and
 * sell is said at the bids as they stand: no more than full days, and in proportion below.
 */
export function shareTotal(campaigns: readonly SharedCampaign[], ask: ShareAsk): Outcome<SharedOut> {
  if (campaigns.length === 0) {
    return fail("share-nobody", "No campaign runs, so there is nothing to share money out to.");
  }
  const bounds = campaigns.map((one) => boundsOf(one, ask));
  const floors = bounds.reduce((sum, { least }) => sum + least, 0);
  if (floors > ask.total) {
    return fail(
      "share-floors",
      `Within these limits the campaigns keep ${(floors / 1000).toFixed(2)} a day at least, which is more than ${(ask.total / 1000).toFixed(2)}.`,
      "Raise the total, or allow larger steps.",
    );
  }
  const shared = ask.way === "next" ? byNext(campaigns, bounds, ask) : byWeights(campaigns, bounds, ask);
  if (!shared.ok) return shared;
  const { amounts, next } = shared.value;
  const whole = inCents(amounts, bounds, ask.total);
  const lines = campaigns.map(({ key, budget, known }, i) => {
    const to = whole[i]!;
    return {
      ...{ key, from: budget, to, limitedBy: limitOf(to, bounds[i]!) },
      spend: { from: spendAt(known, budget), to: spendAt(known, to) },
      sales: { from: soldAt(known, budget), to: soldAt(known, to) },
    };
  });
  const given = lines.reduce((sum, { to }) => sum + to, 0);
  return ok({ lines, kept: Math.max(0, ask.total - given), next });
}

/** Whole cents of amounts, their sum as it was: cents that rounding leaves go to those that lost most by it. */
function inCents(amounts: readonly number[], bounds: readonly Bounds[], total: number): number[] {
  const whole = amounts.map((amount) => CENT * Math.floor(amount / CENT + 1e-6));
  const sum = amounts.reduce((all, amount) => all + amount, 0);
  let left = Math.floor((Math.min(total, sum) - whole.reduce((all, amount) => all + amount, 0)) / CENT + 1e-6);
  const byLost = amounts
    .map((amount, i) => [amount - whole[i]!, i] as const)
    .sort((a, b) => b[0] - a[0] || a[1] - b[1]);
  for (const [, i] of byLost) {
    if (left <= 0) break;
    if (whole[i]! + CENT > bounds[i]!.most) continue;
    whole[i]! += CENT;
    left--;
  }
  return whole;
}

/** The least that platforms deal in, mills. */
const CENT = 10;

interface Bounds {
  least: number;
  most: number;
  /** What sets the most. */
  by: "step" | "room" | null;
}

function boundsOf({ budget, known }: SharedCampaign, { step, room }: ShareAsk): Bounds {
  const byStep = step === null ? Infinity : budget * (1 + step / 100);
  const least = step === null ? LEAST : Math.max(LEAST, CENT * Math.ceil(budget / (1 + step / 100) / CENT));
  const byRoom = room === null || !known ? Infinity : known.full.cost * (1 + room / 100);
  // Where full days cost less than the smallest step leaves, the step stands: a budget is not cut at one blow.
  const most = Math.max(least, CENT * Math.floor(Math.min(byStep, byRoom) / CENT));
  return { least, most, by: most === Infinity ? null : byRoom < byStep ? "room" : "step" };
}

const limitOf = (to: number, { least, most, by }: Bounds) =>
  to >= most - 10 ? by : to <= least + 10 && least > LEAST ? "step" : null;

/** What a budget is expected to spend a day at present bids. */
function spendAt(known: CampaignReturn | null, budget: number): number {
  return known ? Math.min(budget, known.full.cost) : 0;
}

function soldAt(known: CampaignReturn | null, budget: number): number {
  return known && known.full.cost > 0 ? (known.full.sales * spendAt(known, budget)) / known.full.cost : 0;
}

interface Amounts {
  amounts: number[];
  next: number | null;
}

function byNext(
  campaigns: readonly SharedCampaign[],
  bounds: readonly Bounds[],
  { total }: ShareAsk,
): Outcome<Amounts> {
  const known = campaigns.filter((one) => one.known !== null);
  if (known.length === 0) {
    return fail(
      "share-unknown",
      "No campaign has spent anything yet, so nobody knows what more would bring.",
      "Share evenly or by hand.",
    );
  }
  if (known.every((one) => one.known!.margin === null)) {
    return fail(
      "share-costs",
      "Costs of items are not known, so nobody can say what a sale leaves.",
      "Give costs or margins in the catalogue, or share by sales.",
    );
  }
  // Of what never spent nothing is known: it keeps what it has, as far as that goes within the limits and the total.
  const isTold = ({ known: own }: SharedCampaign) => own !== null && own.margin !== null;
  const present = campaigns.map(({ budget }, i) => Math.min(bounds[i]!.most, Math.max(bounds[i]!.least, budget)));
  const beyond = campaigns.map((one, i) => (isTold(one) ? 0 : present[i]! - bounds[i]!.least));
  const free = total - bounds.reduce((sum, { least }) => sum + least, 0);
  const share = Math.min(
    1,
    free /
      Math.max(
        1e-9,
        beyond.reduce((sum, more) => sum + more, 0),
      ),
  );
  const kept = campaigns.map((one, i) => (isTold(one) ? null : bounds[i]!.least + share * beyond[i]!));
  const rest = total - kept.reduce<number>((sum, amount) => sum + (amount ?? 0), 0);
  const takers = campaigns.flatMap(({ known: own }, i) =>
    kept[i] !== null
      ? []
      : [
          {
            response: own!.response,
            worth: own!.margin! * (1 - CAME * own!.shared),
            least: bounds[i]!.least,
            most: bounds[i]!.most,
          },
        ],
  );
  const { amounts, next } = shareByReturn(takers, Math.max(0, rest));
  let at = 0;
  return ok({ amounts: kept.map((amount) => amount ?? amounts[at++]!), next });
}

function byWeights(campaigns: readonly SharedCampaign[], bounds: readonly Bounds[], ask: ShareAsk): Outcome<Amounts> {
  const weights = campaigns.map((one) => weightOf(one, ask));
  if (weights.some((weight) => !(weight >= 0)) || weights.every((weight) => weight === 0)) {
    return fail(
      "share-parts",
      ask.way === "hand" ? "No part is given." : "Nothing of the kind is known of any campaign yet.",
      ask.way === "hand" ? "Give at least one campaign a part, such as 50." : "Share evenly or by hand.",
    );
  }
  return ok({ amounts: withinBounds(weights, bounds, ask.total), next: null });
}

function weightOf({ key, known }: SharedCampaign, { way, parts }: ShareAsk): number {
  if (way === "even") return 1;
  if (way === "hand") return parts?.[key] ?? 0;
  if (!known) return 0;
  if (way === "sales") return known.sales;
  if (way === "spend") return known.spent;
  // What a unit of money left: sales per unit of spend as pooled by the curve, after costs.
  const { response, margin } = known;
  return Math.max(0, (salesAt(response, response.spend) / response.spend) * (margin ?? 0));
}

/** Shares by weights within bounds: what one can't take goes to the others by theirs; by halving on the common level. */
function withinBounds(weights: readonly number[], bounds: readonly Bounds[], total: number): number[] {
  const at = (level: number) =>
    weights.map((weight, i) => Math.min(bounds[i]!.most, Math.max(bounds[i]!.least, weight * level)));
  const sum = (amounts: readonly number[]) => amounts.reduce((all, amount) => all + amount, 0);
  let [low, high] = [0, 1];
  const widest = sum(bounds.map(({ most, least }, i) => (weights[i]! > 0 ? most : least)));
  if (widest <= total) return at(1e15);
  while (sum(at(high)) < total && high < 1e15) high *= 4;
  for (let i = 0; i < 100; i++) {
    const level = (low + high) / 2;
    if (sum(at(level)) > total) high = level;
    else low = level;
  }
  return at(low);
}
