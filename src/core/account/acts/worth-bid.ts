import { z } from "zod";
import { BID_TOWARDS, bidByWorth, type BidTowards } from "../../goals/click-worth";
import { CHANNEL_LIMITS } from "../../channel/limits";
import { fail } from "../../kit/outcome";
import { toUnits } from "../../kit/money";
import { defineAct } from "../act";
import { bidItems } from "./item-bid";
import { keysSchema } from "./on-records";

const TOWARDS: Record<BidTowards, string> = { goal: "the goal", contribution: "contribution" };

/** A bid of its own for each item by what its clicks are worth, in the home that serves it first. */
export const worthBid = defineAct({
  schema: z.object({
    action: z.literal("worth-bid"),
    items: keysSchema,
    towards: z.enum(BID_TOWARDS),
    /** The largest step, in percent of the present bid. */
    most: z.int("A whole number of percent.").min(5, "At least 5 percent.").max(400, "At most 400 percent."),
  }),
  button: "Bid by worth",
  title: "Bid by worth",
  fits: [],
  affects: ["homes"],
  asks: ["worth"],
  words: ({ towards, most }) => `Bid what a click is worth, towards ${TOWARDS[towards]}, by ${most} % at most`,
  apply: (draft, { items, towards, most }, factsOf) => {
    const bids = new Map<string, { mills: number; reason: string }>();
    for (const item of items) {
      const facts = factsOf(item);
      const mills =
        facts?.home && facts.worth
          ? bidByWorth(facts.worth, towards, facts.home.bid, most / 100, CHANNEL_LIMITS.lowestBid)
          : null;
      if (mills === null) draft.leftOut.add(item);
      else bids.set(item, { mills, reason: reasonFor(facts!.worth!, towards) });
    }
    if (bids.size === 0) {
      return fail(
        "worth-unknown",
        "Of none of these items is known what a click on it is worth.",
        towards === "contribution"
          ? "It takes results, a home that serves them, and their costs; towards the goal no costs are needed."
          : "It takes results and a home that serves them.",
      );
    }
    return bidItems(
      draft,
      bids.keys(),
      factsOf,
      (item) => bids.get(item)!.mills,
      (item) => bids.get(item)!.reason,
    );
  },
});

function reasonFor(
  { sales, margin, goal }: { sales: number; margin: number | null; goal: number },
  towards: BidTowards,
) {
  const worth = `A click is worth ${toUnits(sales).toFixed(2)} of sales by evidence`;
  return towards === "goal"
    ? `${worth}; the goal is ${Number.isFinite(goal) ? goal.toFixed(2) : "out of reach"}`
    : `${worth}, of which ${Math.round(100 * (margin ?? 0))} % is left`;
}
