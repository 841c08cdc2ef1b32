import { wholeCents } from "../kit/money";

/** What a click on an item is worth, as an edit of its bid asks. Money in mills. */
export interface ClickWorth {
  /** Sales a click is expected to bring, by evidence. */
  sales: number;
  /** Share of sales left after costs; null where costs are not known. */
  margin: number | null;
  /** The return in force for it: sales per unit of cost. */
  goal: number;
}

/** What bids are set towards: a return of the goal at the price of a click, or the most contribution at any return. */
export const BID_TOWARDS = ["goal", "contribution"] as const;
export type BidTowards = (typeof BID_TOWARDS)[number];

/**
 * For contribution bids stand at this share of what a click leaves: part of what looks good was luck, and more of one's own
 * ads meet at higher bids (`docs/formulas.md` 5).
 */
export const CAUTION = 0.8;

/**
 * The bid for what a click is worth: sales a click ÷ goal, or 0.8 × sales a click × margin; moved from the present bid by no
 * more than a share, and never below the least.
 * @param most largest step, as a share of the present bid: 0.5 lets 0.40 become 0.27 to 0.60
 * @param least mills
 * @returns mills, in whole cents; null where the costs that it takes are not known
 */
export function bidByWorth(
  { sales, margin, goal }: ClickWorth,
  towards: BidTowards,
  present: number,
  most: number,
  least: number,
): number | null {
  if (towards === "contribution" && margin === null) return null;
  // An item that loses money on every sale is worth no bid; it goes down as far as one step may.
  const wanted = towards === "goal" ? sales / goal : CAUTION * sales * Math.max(0, margin as number);
  const held = Math.max(present / (1 + most), Math.min(present * (1 + most), wanted));
  return Math.max(least, wholeCents(held));
}
