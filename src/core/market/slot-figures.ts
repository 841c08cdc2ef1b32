import { SLOT_KEYS, SLOT_LABEL, type SlotKey } from "../kit/slots";
import type { Nature } from "./nature";
import type { SurfaceKind } from "./world-types";

/** A class of place where ads show, and how ads do there. The test market's own figures; `docs/market.md` says why. */
export interface Slot {
  key: SlotKey;
  label: string;
  /** Added to the mean of the rivals' log score: how hard the place is to win. */
  hardness: number;
  /** Clicks an impression for a middling item. */
  ctr: number;
  /** Share of a query's or page's views at which this place is seen at all. */
  seen: number;
}

const FIGURES: Record<SlotKey, Omit<Slot, "key" | "label">> = {
  "lead-row": { hardness: 0.45, ctr: 0.034, seen: 1 },
  "lower-results": { hardness: -0.35, ctr: 0.011, seen: 0.7 },
  "item-pages": { hardness: -0.1, ctr: 0.008, seen: 1 },
  "partner-media": { hardness: -0.6, ctr: 0.003, seen: 1 },
};

export const SLOTS: Slot[] = SLOT_KEYS.map((key) => ({ key, label: SLOT_LABEL[key], ...FIGURES[key] }));

/** Conversion in each slot against an item's own, in the order of {@link SLOTS}. */
export function slotBuying({ leadBuying, lowerBuying, pagesBuying, partnerBuying }: Nature): number[] {
  return [leadBuying, lowerBuying, pagesBuying, partnerBuying];
}

const QUERY_SLOTS = [0, 1];
const PAGE_SLOTS = [2];
const PARTNER_SLOTS = [3];

/** The slots of a place, best first. */
export function slotsOf(kind: SurfaceKind): number[] {
  return kind === "query" ? QUERY_SLOTS : kind === "placement" ? PARTNER_SLOTS : PAGE_SLOTS;
}
