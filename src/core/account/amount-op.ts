import { z } from "zod";
import { formatMoney } from "../kit/money";
import { amountSchema } from "./records/basics";

/** A plain operation on an amount. Money in mills. */
export const amountOpSchema = z.discriminatedUnion("how", [
  z.object({ how: z.literal("set"), mills: amountSchema }),
  z.object({ how: z.literal("percent"), percent: z.number().min(-90).max(400) }),
  z.object({ how: z.literal("add"), mills: z.int().min(-1_000_000_000).max(1_000_000_000) }),
  /** To the nearest multiple. */
  z.object({ how: z.literal("round"), mills: z.int().min(1).max(1_000_000_000) }),
  z.object({ how: z.literal("at-least"), mills: amountSchema }),
  z.object({ how: z.literal("at-most"), mills: amountSchema }),
]);

export type AmountOp = z.infer<typeof amountOpSchema>;

/** The amount after an operation, whole mills and never below `least`, which only `set` may undercut. */
export function operate(op: AmountOp, amount: number, least: number): number {
  switch (op.how) {
    case "set":
      return op.mills;
    case "percent":
      return Math.max(least, Math.round(amount * (1 + op.percent / 100)));
    case "add":
      return Math.max(least, amount + op.mills);
    case "round":
      return Math.max(least, Math.round(amount / op.mills) * op.mills);
    case "at-least":
      return Math.max(amount, op.mills);
    case "at-most":
      return Math.max(least, Math.min(amount, op.mills));
  }
}

/** An operation in words, as what follows "Bid" or "Daily budget". */
export function operationInWords(op: AmountOp, currency: string): string {
  switch (op.how) {
    case "set":
      return `set to ${formatMoney(op.mills, currency)}`;
    case "percent":
      return `changed by ${op.percent > 0 ? "+" : ""}${op.percent} %`;
    case "add":
      return `${op.mills < 0 ? "lowered" : "raised"} by ${formatMoney(Math.abs(op.mills), currency)}`;
    case "round":
      return `rounded to ${formatMoney(op.mills, currency)}`;
    case "at-least":
      return `raised to at least ${formatMoney(op.mills, currency)}`;
    case "at-most":
      return `lowered to at most ${formatMoney(op.mills, currency)}`;
  }
}
