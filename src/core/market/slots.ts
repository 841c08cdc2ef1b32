/** A class of place where ads show, and how ads do there. The test market's own figures; `docs/market.md` says why. */
export interface Slot {
  key: SlotKey;
  label: string;
  /** Added to the mean of the rivals' log score: how hard the place is to win. */
  hardness: number;
  /** Clicks an impression for a middling item. */
  ctr: number;
  /** Conversion against the item's own. */
  cvr: number;
  /** Share of a query's or page's views at which this place is seen at all. */
  seen: number;
}

export const SLOT_KEYS = ["lead-row", "lower-results", "item-pages", "partner-media"] as const;
export type SlotKey = (typeof SLOT_KEYS)[number];

export const SLOTS: Slot[] = [
  { key: "lead-row", label: "Lead row", hardness: 0.45, ctr: 0.034, cvr: 1.1, seen: 1 },
  { key: "lower-results", label: "Lower results", hardness: -0.35, ctr: 0.011, cvr: 1, seen: 0.7 },
  { key: "item-pages", label: "Item pages", hardness: -0.1, ctr: 0.008, cvr: 0.75, seen: 1 },
  { key: "partner-media", label: "Partner media", hardness: -0.6, ctr: 0.003, cvr: 0.35, seen: 1 },
];

/** Share of a day's traffic in each hour, 0 to 23: a shop's day with its evening peak. */
export const HOUR_SHARE: number[] = (() => {
  const raw = [8, 5, 3, 2, 2, 4, 10, 20, 32, 40, 45, 47, 46, 45, 44, 44, 46, 50, 56, 64, 68, 60, 40, 20];
  const sum = raw.reduce((a, b) => a + b, 0);
  return raw.map((weight) => weight / sum);
})();

/** The hour (with fraction, 0 to 24) by which a share of the day's traffic has passed. */
export function hourAtShare(share: number): number {
  let passed = 0;
  for (let hour = 0; hour < 24; hour++) {
    const width = HOUR_SHARE[hour] as number;
    if (passed + width >= share) return hour + (share - passed) / width;
    passed += width;
  }
  return 24;
}
