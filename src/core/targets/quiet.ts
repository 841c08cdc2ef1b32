/** Why a target got no impression, as far as the account and the rate card tell. */
export const QUIET_REASONS = {
  paused: "it is paused",
  "campaign-off": "its campaign or ad group is paused",
  waiting: "it was not sent yet",
  "no-items": "its ad group shows no item that can be bought",
  silenced: "a negative of yours stops it",
  "no-traffic": "nobody looks there",
  "bid-low": "its bid is below what a fifth of the auctions take",
  elsewhere: "the same target with a higher bid stands elsewhere",
  homes: "the homes of its items serve first: an earlier serve order, or a higher bid in the same",
  inside: "a dearer target of its campaign takes its place",
  "out-of-budget": "its campaign spends all it has on others",
} as const;
export type QuietReason = keyof typeof QUIET_REASONS;
