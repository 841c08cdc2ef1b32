import type { Planogram } from "@/core/planogram/planogram";

/** Places in the serve order, from 1 on. */
export const SERVE_LABEL = ["first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "last"];

export const BIDDING_LABEL: Record<Planogram["bidding"], string> = {
  fixed: "Bids as given",
  clicks: "As many clicks as the budget buys",
  return: "Towards a return",
};
