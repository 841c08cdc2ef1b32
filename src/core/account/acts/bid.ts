import { z } from "zod";
import { ok } from "../../kit/outcome";
import { amountOpSchema, operate, operationInWords } from "../amount-op";
import { defineAct } from "../act";
import { CHANNEL_LIMITS } from "../../channel/limits";
import type { Draft } from "../draft";
import { kindOf, type AccountRecord } from "../records";
import { each, keysSchema } from "./on-records";

/** What a click may cost, of whatever bids. */
export const bid = defineAct({
  schema: z.object({ action: z.literal("bid"), keys: keysSchema, op: amountOpSchema }),
  button: "Change bids",
  title: "Change bids",
  fits: ["adGroup", "productGroup", "target"],
  affects: ["homes"],
  words: ({ op }, currency) => `Bid ${operationInWords(op, currency)}`,
  apply: (draft, { keys, op }) => {
    const done = each(draft, keys, (record) => {
      const { bid: bidOf } = kindOf(record.type);
      if (!bidOf || kindOf(record.type).bidsNothing?.(record)) return null;
      const before = bidOf(record) ?? groupBid(draft, record) ?? 0;
      return { ...record, bid: operate(op, before, CHANNEL_LIMITS.lowestBid) } as typeof record;
    });
    return done.ok ? ok(draft) : done;
  },
});

/** The bid of the ad group that a record hangs in, which holds where it has none. */
function groupBid(draft: Draft, record: AccountRecord): number | null {
  return "adGroup" in record ? (draft.find("adGroup", record.adGroup)?.bid ?? null) : null;
}
