import type { Planogram } from "@/core/planogram/planogram";

/** Places in the serve order, from 1 on. */
export const SERVE_LABEL = ["first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "last"];

/** How a plan's ad groups come to their bids. */
export const BIDS_BY: Record<NonNullable<Planogram["bidBy"]>, string> = {
  same: "All the same",
  worth: "By what a click is worth",
};

export const BIDDING_LABEL: Record<Planogram["bidding"], string> = {
  fixed: "Bids as given",
  clicks: "As many clicks as the budget buys",
  return: "Towards a return",
};
