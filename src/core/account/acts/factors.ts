import { z } from "zod";
import { fail, ok, type Outcome } from "../../kit/outcome";
import { CHANNEL_LIMITS } from "../../channel/limits";
import type { Draft } from "../draft";
import { highestBids, mostOfBid } from "../effective-bid";

/** The most that a factor may do to a bid. */
export const factorSchema = z.number().min(0).max(10);

/** Refuses factors under which a bid would be more than the channel takes. */
export function factorsHold(draft: Draft, keys: ReadonlySet<string>): Outcome<Draft> {
  const bids = highestBids(draft.after(), keys);
  for (const key of keys) {
    const campaign = draft.find("campaign", key);
    if (campaign && mostOfBid(bids.get(key) ?? 0, campaign) > CHANNEL_LIMITS.highestBid) {
      return fail(
        "factor-high",
        `With its other factors this takes a bid of “${campaign.name}” above what the channel takes a click.`,
        "Take a smaller factor, or lower that bid first.",
      );
    }
  }
  return ok(draft);
}
