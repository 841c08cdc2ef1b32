/** What a line of results tells of its return. Orders and sales are those seen so far. Money in mills. */
export interface Told {
  clicks: number;
  /** Clicks whose orders have come in: clicks of days that are not complete count in part. */
  seenClicks: number;
  cost: number;
  orders: number;
  revenue: number;
  /** Σ sales² ÷ orders over what the line is the sum of: how much single orders differ. */
  squares: number;
}

/** A line that tells nothing. */
export function toldNothing(): Told {
  return { clicks: 0, seenClicks: 0, cost: 0, orders: 0, revenue: 0, squares: 0 };
}

/** Sales² ÷ orders of one row of a report; nothing without an order. */
export function squareOf(orders: number, revenue: number): number {
  return orders > 0 ? (revenue * revenue) / orders : 0;
}
