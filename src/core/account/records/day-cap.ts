import { z } from "zod";
import { millsToDecimal } from "../../kit/money";
import { defineKind } from "../record-kind";
import { readAmount } from "./read-cells";
import { amountSchema } from "./basics";

/** The most a whole workspace spends in a day, whatever its campaigns' budgets sum to. */
export const dayCapSchema = z.object({
  type: z.literal("dayCap"),
  key: z.literal("day-cap"),
  /** Mills a day. */
  dailyBudget: amountSchema,
});

export type DayCap = z.infer<typeof dayCapSchema>;

export const dayCapKind = defineKind<DayCap>({
  schema: dayCapSchema,
  label: ["day cap", "day caps"],
  place: 20,
  parents: () => [],
  fields: { dailyBudget: { label: "daily budget", money: true, byHand: true, decides: "spending", untold: true } },
  name: () => "whole workspace",
  budget: ({ dailyBudget }) => dailyBudget,
  added: ({ dailyBudget }, { money }) => `The whole workspace spends ${money(dailyBudget)} a day at most`,
  removed: ({ dailyBudget }, { money }) => `No day cap any more; it was ${money(dailyBudget)}`,
  reads: { daily_budget: readAmount("dailyBudget") },
  cells: ({ dailyBudget }) => ({ daily_budget: millsToDecimal(dailyBudget) }),
});
