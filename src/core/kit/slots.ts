/** The classes of place where ads show. */
export const SLOT_KEYS = ["lead-row", "lower-results", "item-pages", "partner-media"] as const;
export type SlotKey = (typeof SLOT_KEYS)[number];

export const SLOT_LABEL: Record<SlotKey, string> = {
  "lead-row": "Lead row",
  "lower-results": "Lower results",
  "item-pages": "Item pages",
  "partner-media": "Partner media",
};
