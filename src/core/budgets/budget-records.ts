import { z } from "zod";

const key = z.string().min(1).max(600);
const amount = z.int().min(0).max(1_000_000_000);

/** One daily budget that several campaigns draw on together, beside their own. */
export const poolSchema = z.object({
  type: z.literal("pool"),
  key,
  name: z.string().trim().min(1).max(200),
  /** Mills a day. */
  dailyBudget: amount,
});

/** The most a whole workspace spends in a day, whatever its campaigns' budgets sum to. */
export const dayCapSchema = z.object({
  type: z.literal("dayCap"),
  key: z.literal("day-cap"),
  /** Mills a day. */
  dailyBudget: amount,
});

export type Pool = z.infer<typeof poolSchema>;
