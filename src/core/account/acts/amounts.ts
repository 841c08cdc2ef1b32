import { z } from "zod";
import { plural } from "../../kit/format";
import { ok } from "../../kit/outcome";
import { defineAct } from "../act";
import { operationInWords } from "../amount-op";
import { amountSchema } from "../records/basics";
import { bid } from "./bid";
import { budget } from "./budget";
import { bidItems } from "./item-bid";

/** Amounts at once at most. */
const MOST = 50_000;

const NOUN = { bid: "bid", "item-bid": "bid", budget: "daily budget" } as const;

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** An amount of its own for each of many, as one edit. */
export const amounts = defineAct({
  schema: z.object({
    action: z.literal("amounts"),
    /** What the amounts are: bids of records, bids of items, or budgets a day. */
    of: z.enum(["bid", "item-bid", "budget"]),
    amounts: z
      .array(
        z.object({
          /** A record's key; an item's ID for bids of items. */
          key: z.string().min(1).max(600),
          /** Mills a click, or mills a day. */
          mills: amountSchema,
          /** Why just this amount. */
          reason: z.string().trim().min(1).max(300).optional(),
        }),
      )
      .min(1, "No amount is given.")
      .max(MOST)
      .refine(
        (lines) => new Set(lines.map(({ key }) => key)).size === lines.length,
        "A key is given twice, so it is not clear which amount is meant.",
      ),
  }),
  button: "Amounts",
  title: "Amounts",
  fits: [],
  affects: ["homes", "budgets"],
  words: ({ of, amounts: lines }, currency) => {
    const [first] = lines;
    // One amount for all is said as such, as if it had been set at once.
    return lines.every(({ mills }) => mills === first!.mills)
      ? `${capital(NOUN[of])} ${operationInWords({ how: "set", mills: first!.mills }, currency)}`
      : `${plural(lines.length, NOUN[of])} set, each to its own`;
  },
  apply: (draft, { of, amounts: lines }, factsOf) => {
    if (of === "item-bid") {
      const byItem = new Map(lines.map((line) => [line.key, line]));
      return bidItems(
        draft,
        byItem.keys(),
        factsOf,
        (item) => byItem.get(item)!.mills,
        (item) => byItem.get(item)!.reason,
      );
    }
    for (const { key, mills, reason } of lines) {
      const op = { how: "set", mills } as const;
      const done = draft.because(reason, () =>
        of === "bid"
          ? bid.apply(draft, { action: "bid", keys: [key], op }, factsOf)
          : budget.apply(draft, { action: "budget", keys: [key], op }, factsOf),
      );
      if (!done.ok) return done;
    }
    return ok(draft);
  },
});
