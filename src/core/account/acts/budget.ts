import { z } from "zod";
import { amountOpSchema, operate, operationInWords } from "../amount-op";
import { defineAct } from "../act";
import { CHANNEL_LIMITS } from "../../channel/limits";
import { kindOf } from "../records";
import { each, keysSchema } from "./on-records";

/** What may be spent a day, of campaigns and pools. */
export const budget = defineAct({
  schema: z.object({ action: z.literal("budget"), keys: keysSchema, op: amountOpSchema }),
  button: "Change budgets",
  title: "Change daily budgets",
  fits: ["campaign"],
  affects: ["budgets"],
  words: ({ op }, currency) => `Daily budget ${operationInWords(op, currency)}`,
  apply: (draft, { keys, op }) =>
    each(draft, keys, (record) => {
      const before = kindOf(record.type).budget?.(record);
      if (before === undefined) return null;
      return { ...record, dailyBudget: operate(op, before, CHANNEL_LIMITS.lowestDailyBudget) } as typeof record;
    }),
});
