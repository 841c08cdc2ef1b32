import { z } from "zod";
import { millsToDecimal } from "../../kit/money";
import { defineKind } from "../record-kind";
import { readAmount } from "./read-cells";
import { amountSchema, keySchema, nameSchema } from "./basics";

/** One daily budget that several campaigns draw on together, beside their own. */
export const poolSchema = z.object({
  type: z.literal("pool"),
  key: keySchema,
  name: nameSchema,
  /** Mills a day. */
  dailyBudget: amountSchema,
});

export type Pool = z.infer<typeof poolSchema>;

export const poolKind = defineKind<Pool>({
  schema: poolSchema,
  label: ["budget pool", "budget pools"],
  place: 10,
  parents: () => [],
  fields: {
    name: { label: "name", byHand: true },
    dailyBudget: { label: "daily budget", money: true, byHand: true, decides: "spending", untold: true },
  },
  name: ({ name }) => name,
  budget: ({ dailyBudget }) => dailyBudget,
  added: ({ dailyBudget }, { name, money }) => `New budget pool "${name}" with ${money(dailyBudget)} a day`,
  removed: ({ dailyBudget }, { name, money }) => `Budget pool "${name}" of ${money(dailyBudget)} a day removed`,
  reads: { daily_budget: readAmount("dailyBudget") },
  cells: ({ name, dailyBudget }) => ({ product_group: name, daily_budget: millsToDecimal(dailyBudget) }),
});
