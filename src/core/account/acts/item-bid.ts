import { z } from "zod";
import { fail, ok, type Outcome } from "../../kit/outcome";
import { defineAct, type FactsOf } from "../act";
import { amountOpSchema, operate, operationInWords } from "../amount-op";
import { CHANNEL_LIMITS } from "../../channel/limits";
import type { Draft } from "../draft";
import { liftItem } from "../lift-item";
import { keysSchema } from "./on-records";

/** A bid of its own for each item, in the home that serves it first. */
export const itemBid = defineAct({
  schema: z.object({ action: z.literal("item-bid"), items: keysSchema, op: amountOpSchema }),
  button: "Set bid",
  title: "Bid",
  fits: ["item"],
  affects: ["homes"],
  words: ({ op }, currency) => `Bid ${operationInWords(op, currency)}`,
  apply: (draft, { items, op }, factsOf) =>
    bidItems(draft, items, factsOf, (_, bid) => operate(op, bid, CHANNEL_LIMITS.lowestBid)),
});

/** Gives each item a bid of its own in the home that serves it first; items without a home are left out, which the draft tells. */
export function bidItems(
  draft: Draft,
  items: Iterable<string>,
  factsOf: FactsOf,
  bidOf: (item: string, current: number) => number,
  reasonOf?: (item: string) => string | undefined,
): Outcome<Draft> {
  let done = 0;
  for (const item of items) {
    const home = factsOf(item)?.home;
    if (!home) {
      draft.leftOut.add(item);
      continue;
    }
    const lifted = draft.because(reasonOf?.(item), () => liftItem(draft, home.group, item, bidOf(item, home.bid)));
    if (!lifted.ok) return lifted;
    done++;
  }
  if (done > 0) return ok(draft);
  return fail(
    "item-homeless",
    "None of these items is served by any group, so there is no bid to set.",
    "Plan them first.",
  );
}
