/** Why a target got no impression, as far as the account and the rate card tell; `by` is the campaign or negative it lies at. */
export const QUIET_REASONS = {
  paused: () => "it is paused",
  "campaign-off": () => "its campaign or ad group is paused",
  waiting: () => "it was not sent yet",
  "no-items": () => "its ad group shows no item that can be bought",
  silenced: (by) => `a negative of yours stops it${by && `: ${by}`}`,
  "no-traffic": () => "nobody looks there; leaving it costs nothing",
  "bid-low": () => "its bid is below what a fifth of the auctions take",
  elsewhere: (by) => `${by || "another campaign"} aims at the same with a higher bid`,
  homes: (by) =>
    `${by || "the home of its items"} serves its items first: an earlier serve order, or a higher bid in the same`,
  inside: (by) => `${by || "a dearer target"} takes its place within its campaign with a higher bid`,
  "out-of-budget": () => "its campaign spends all it has on others",
  outranked: (by) => `other items of the same category bid more in the same auctions: ${by}`,
  narrow: () => "few people look there; leaving it costs nothing",
  rivals: () => "rivals outbid it most of the time: its bid is below the typical price",
} as const satisfies Record<string, (by: string) => string>;
export type QuietReason = keyof typeof QUIET_REASONS;

/** Why a target is quiet, and what it lies at; empty where nothing is to be named. */
export interface Quiet {
  reason: QuietReason;
  by: string;
}

/** Why a target is quiet, in a sentence's end. */
export function quietInWords({ reason, by }: Quiet): string {
  return QUIET_REASONS[reason](by);
}

/** Views a month below which a target hardly shows, whatever it bids. */
export const NARROW_VIEWS = 60;
