import { plainAddress } from "@/core/exclusions/placements/address";
import { isToJudge, nextReview } from "@/core/exclusions/placements/review";
import { dayAt, type Day } from "@/core/kit/days";
import type { Account } from "@/core/account/account";
import type { Database } from "@/db/client";
import { recentPast } from "../../results/past-terms";
import type { WorkspaceInfo } from "../../workspaces";
import { readReviews, type PlacementReview } from "./reviews";

/** Placements that wait for somebody's judgement, once a review is due. */
export interface PlacementsDue {
  placements: number;
  /** Their share of all impressions on placements. */
  share: number;
}

/** Addresses of placements that are kept out everywhere, or in part. */
export function keptOutAddresses(account: Account): Map<string, "everywhere" | "in part"> {
  const out = new Map<string, "everywhere" | "in part">();
  for (const { what, scope, value } of account.all("negative")) {
    if (what !== "placement") continue;
    const address = plainAddress(value);
    if (scope === null) out.set(address, "everywhere");
    else if (!out.has(address)) out.set(address, "in part");
  }
  return out;
}

/** When placements were judged last and are to be looked through next, as days, and whether that day has come. */
export function nextLook(
  reviews: readonly PlacementReview[],
  unjudged: number,
  all: number,
  timeZone: string,
): { last: Day | null; next: Day | null; isDue: boolean } {
  const last = reviews.reduce((latest, { at }) => Math.max(latest, at), 0);
  const lastDay = last > 0 ? dayAt(last, timeZone) : null;
  const today = dayAt(Date.now(), timeZone);
  const next = nextReview({ last: lastDay, unjudged, all }, today);
  return { last: lastDay, next, isDue: next !== null && next <= today };
}

/** What a review of placements would be about; null where none is due. */
export async function placementsDue(
  db: Database,
  { timeZone }: Pick<WorkspaceInfo, "timeZone">,
  account: Account,
): Promise<PlacementsDue | null> {
  const found = await recentPast(db, "placement");
  if (!found) return null;
  const { labels, term, sums } = found.past;
  const judged = new Map((await readReviews(db)).map((review) => [review.address, review]));
  const out = keptOutAddresses(account);
  const addresses = labels.map(plainAddress);
  const shown = new Map<string, number>();
  for (let line = 0; line < term.length; line++) {
    const address = addresses[term[line]!]!;
    shown.set(address, (shown.get(address) ?? 0) + sums.impressions[line]!);
  }
  const open = [...shown].filter(([address, impressions]) =>
    isToJudge(judged.get(address)?.impressionsADay ?? null, impressions / found.days, out.get(address) ?? null),
  );
  const sum = (of: Iterable<[string, number]>) => [...of].reduce((all, [, impressions]) => all + impressions, 0);
  const [all, unjudged] = [sum(shown), sum(open)];
  if (!nextLook([...judged.values()], unjudged, all, timeZone).isDue) return null;
  return { placements: open.length, share: unjudged / all };
}
