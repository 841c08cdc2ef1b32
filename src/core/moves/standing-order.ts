import { z } from "zod";
import { plural } from "../kit/format";
import { formatMoney } from "../kit/money";
import { adjusted } from "./accept";
import { scaleExpected, type Move } from "./move";

/** Which moves may go out by themselves, within what limits, and what stops them. Money in mills a day. */
export const standingOrderSchema = z.object({
  name: z.string().trim().min(1, "It needs a name.").max(60),
  /** Proposers whose moves it takes. */
  kinds: z.array(z.string().min(1).max(60)).min(1, "Choose at least one kind of moves.").max(30),
  /** Days of results between two times. */
  every: z.int("A whole number of days.").min(1).max(28),
  /** Moves at a time, those with the most at stake first. */
  most: z.int("A whole number of moves.").min(1).max(10_000),
  /** How far an amount goes from where it stands, per cent, at most; null for as far as the house rules let it. */
  step: z.number().min(1).max(400).nullable(),
  /** What all moves of one time may be expected to spend more a day; null for any. */
  spend: z.int().min(0).max(1_000_000_000).nullable(),
  /** Amounts that are raised, that are lowered, or both; with one of them moves without an amount are left. */
  direction: z.enum(["both", "raise", "lower"]),
  /** Campaigns that it never touches. */
  never: z.array(z.string()).max(1_000),
  guard: z.object({
    /** Stops where the return of the last seven days is below this. */
    leastReturn: z.number().positive().max(1000).nullable(),
    /** Stops where more was spent a day over the last seven days. */
    mostSpend: z.int().min(1).max(1_000_000_000).nullable(),
  }),
});
export type StandingOrder = z.output<typeof standingOrderSchema>;

/** Why moves of its kinds were left. */
export const LEFT_BECAUSE = {
  never: "in campaigns that it never touches",
  direction: "in the other direction",
  step: "with a step too small for whole cents",
  spend: "beyond what it may spend more",
  most: "beyond its number at a time",
} as const;
export type LeftBecause = keyof typeof LEFT_BECAUSE;

/** Moves that a standing order takes, and how many of its kinds it leaves for which reason. */
export interface Taken {
  moves: Move[];
  left: Partial<Record<LeftBecause, number>>;
}

/**
 * Takes the moves of a standing order, the most at stake first. A move that saves money makes room for none that spends: what is
 * expected of it is less sure than that it is spent.
 * @param moves open ones, sorted by money at stake
 */
export function takeMoves(order: StandingOrder, moves: readonly Move[], currency: string): Taken {
  const kinds = new Set(order.kinds);
  const never = new Set(order.never);
  const taken: Taken = { moves: [], left: {} };
  let spent = 0;
  for (const whole of moves) {
    if (!kinds.has(whole.proposer)) continue;
    const move = withinStep(whole, order.step, currency);
    const more = Math.max(0, move?.expected.cost ?? 0);
    const because =
      whyLeft(order, never, whole) ?? (move === null ? "step" : taken.moves.length >= order.most ? "most" : null);
    if (move !== null && because === null && (order.spend === null || spent + more <= order.spend)) {
      taken.moves.push(move);
      spent += more;
      continue;
    }
    const reason = because ?? "spend";
    taken.left[reason] = (taken.left[reason] ?? 0) + 1;
  }
  return taken;
}

function whyLeft({ direction }: StandingOrder, never: ReadonlySet<string>, move: Move): LeftBecause | null {
  const touched = [move.campaign, ...move.touches.map((name) => name.split("/")[0]!), ...keysOf(move)];
  if (touched.some((key) => key !== null && never.has(key))) return "never";
  const { amount } = move;
  return direction !== "both" && (!amount || amount.to > amount.from !== (direction === "raise")) ? "direction" : null;
}

/** A move that goes no further than a step, in whole cents, and is expected to do so much less; null where that is no step at all. */
function withinStep(move: Move, step: number | null, currency: string): Move | null {
  const { amount } = move;
  if (step === null || !amount) return move;
  const most = 1 + step / 100;
  const held = Math.min(amount.from * most, Math.max(amount.from / most, amount.to));
  if (held === amount.to) return move;
  const to = CENT * (amount.to > amount.from ? Math.floor(held / CENT) : Math.ceil(held / CENT));
  // Whole cents may lie on the other side of where it stands, or on it.
  if ((to - amount.from) * (amount.to - amount.from) <= 0) return null;
  const expected = scaleExpected(move.expected, (to - amount.from) / (amount.to - amount.from));
  return { ...adjusted(move, to), expected, what: `${move.what}, held to ${formatMoney(to, currency)}` };
}

/** Mills. */
const CENT = 10;

/** Records that a move's acts name. */
function keysOf({ acts }: Move): string[] {
  return acts.flatMap((act) => ("keys" in act ? act.keys : []));
}

/** What a workspace did over the last seven days, as a guard asks. Money in mills. */
export interface LastDays {
  /** Spend, and sales with late orders allowed for, a day; null where there were no seven days. */
  cost: number;
  sales: number;
}

/** Why a guard stops a standing order, in words; null where all is within its bounds. */
export function stoppedBy({ guard }: StandingOrder, last: LastDays | null, currency: string): string | null {
  if (!last) return null;
  if (guard.mostSpend !== null && last.cost > guard.mostSpend) {
    return `${formatMoney(last.cost, currency)} a day were spent over the last seven days, more than ${formatMoney(guard.mostSpend, currency)}`;
  }
  if (guard.leastReturn !== null && last.cost > 0 && last.sales / last.cost < guard.leastReturn) {
    return `the return of the last seven days was ${(last.sales / last.cost).toFixed(2)}, below ${guard.leastReturn.toFixed(2)}`;
  }
  return null;
}

/** Its limits in one sentence. */
export function limitsInWords(order: StandingOrder, currency: string): string {
  const parts = [
    order.every === 1 ? "every day" : `every ${order.every} days`,
    `at most ${plural(order.most, "move")}`,
    ...(order.step === null ? [] : [`amounts by ${order.step} % at most`]),
    ...(order.spend === null ? [] : [`${formatMoney(order.spend, currency)} more a day at most`]),
    ...(order.direction === "both" ? [] : [order.direction === "raise" ? "raising alone" : "lowering alone"]),
    ...(order.never.length === 0 ? [] : [`never in ${plural(order.never.length, "campaign")}`]),
  ];
  const { leastReturn, mostSpend } = order.guard;
  const guards = [
    ...(leastReturn === null ? [] : [`the return falls below ${leastReturn.toFixed(2)}`]),
    ...(mostSpend === null ? [] : [`more than ${formatMoney(mostSpend, currency)} a day is spent`]),
  ];
  return `${parts.join(", ")}${guards.length > 0 ? `; stops where ${guards.join(" or ")}` : "; no guard"}`;
}
