import { z } from "zod";
import { SLOT_KEYS, SLOT_LABEL, type SlotKey } from "../../kit/slots";
import { defineAct } from "../act";
import type { Campaign } from "../records/campaign";
import { factorSchema, factorsHold } from "./factors";
import { eachCampaign, keysSchema } from "./on-records";

/** What bids are worth in one slot, as a factor. */
export const slotFactor = defineAct({
  schema: z.object({
    action: z.literal("slot-factor"),
    keys: keysSchema,
    slot: z.enum(SLOT_KEYS),
    factor: factorSchema,
  }),
  button: "Slot factor",
  title: "Slot factor",
  fits: ["campaign", "slot"],
  affects: [],
  words: ({ slot, factor }) => `Bids × ${factor} in ${SLOT_LABEL[slot].toLowerCase()}`,
  apply: (draft, { keys, slot, factor }) => eachCampaign(draft, keys, (campaign) => withSlot(campaign, slot, factor)),
  holds: factorsHold,
});

/** A factor of 1 is none. */
function withSlot(campaign: Campaign, slot: SlotKey, factor: number): Campaign {
  const { slots = {}, ...plain } = campaign;
  const { [slot]: _, ...others } = slots;
  const next = factor === 1 ? others : { ...others, [slot]: factor };
  return Object.keys(next).length > 0 ? { ...plain, slots: next } : plain;
}
