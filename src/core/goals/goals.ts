/** Where a goal in force comes from. */
export type GoalFrom = "campaign" | "shelf" | "workspace" | "break-even";

export interface GoalInForce {
  goal: number;
  from: GoalFrom;
}

/** Goals that may hold, each a return: sales per unit of cost. Null or left out where there is none. */
export interface Goals {
  workspace: number;
  /** Of the shelf that it stands on. */
  shelf?: number | null | undefined;
  /** Of the campaign that is looked at. */
  campaign?: number | null | undefined;
  /** The return at which the margin of what is sold is just used up; NaN where costs are not known, Infinity where no return pays. */
  breakEven?: number | null | undefined;
}

/**
 * The goal in force, and where it comes from: the most particular one that somebody set, campaign before shelf before
 * workspace; never below break-even, since below it every sale loses money.
 */
export function goalInForce({ workspace, shelf, campaign, breakEven }: Goals): GoalInForce {
  const set: GoalInForce =
    campaign != null
      ? { goal: campaign, from: "campaign" }
      : shelf != null
        ? { goal: shelf, from: "shelf" }
        : { goal: workspace, from: "workspace" };
  return breakEven != null && breakEven > set.goal ? { goal: breakEven, from: "break-even" } : set;
}
