import { plainAddress } from "@/core/exclusions/placements/address";
import { hasGrown, nextReview } from "@/core/exclusions/placements/review";
import { dayAt } from "@/core/kit/days";
import type { Account } from "@/core/account/account";
import type { Database } from "@/db/client";
import { recentPast } from "../../results/past-terms";
import type { WorkspaceInfo } from "../../workspaces";
import { readReviews } from "./reviews";

/** Placements that wait for somebody's judgement, once a review is due. */
export interface PlacementsDue {
  placements: number;
  /** Their share of all impressions on placements. */
  share: number;
}

/** Keys of placements that are kept out everywhere, or in part. */
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
  const isOpen = (address: string) => {
    const review = judged.get(address);
    const isNew = !review || hasGrown(review.impressionsADay, shown.get(address)! / found.days);
    return isNew && out.get(address) !== "everywhere";
  };
  const open = [...shown].filter(([address]) => isOpen(address));
  const sum = (of: Iterable<[string, number]>) => [...of].reduce((all, [, impressions]) => all + impressions, 0);
  const [all, unjudged] = [sum(shown), sum(open)];
  const today = dayAt(Date.now(), timeZone);
  const last = judged.size > 0 ? dayAt(Math.max(...[...judged.values()].map(({ at }) => at)), timeZone) : null;
  const due = nextReview({ last, unjudged, all }, today);
  if (due === null || due > today) return null;
  return { placements: open.length, share: unjudged / all };
}
