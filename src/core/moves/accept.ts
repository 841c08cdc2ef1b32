import type { Edit } from "../account/acts";
import type { Move, MoveAct } from "./move";

/** Amounts in one act at most. */
const MOST_AMOUNTS = 50_000;

/**
 * Moves as one edit: acts in the order of the moves, each for its move's reason; amounts of the same kind that follow each
 * other as one act, since each has its reason of its own.
 */
export function editOfMoves(moves: readonly Move[]): Edit | null {
  const acts: { act: MoveAct; reason?: string }[] = [];
  for (const move of moves) {
    for (const act of move.acts) {
      const last = acts[acts.length - 1]?.act;
      if (
        act.action === "amounts" &&
        last?.action === "amounts" &&
        last.of === act.of &&
        last.amounts.length + act.amounts.length <= MOST_AMOUNTS
      ) {
        last.amounts.push(...act.amounts);
      } else {
        acts.push({
          act: act.action === "amounts" ? { ...act, amounts: [...act.amounts] } : act,
          reason: move.why.slice(0, 300),
        });
      }
    }
  }
  return acts.length === 0 ? null : { action: "several", acts };
}

/** A move with another amount than the proposed one; several amounts go along with it. Moves without an amount stay as they are. */
export function adjusted(move: Move, amount: number): Move {
  if (!move.amount) return move;
  const ratio = amount / move.amount.to;
  const acts = move.acts.map((act): MoveAct => {
    if (act.action === "amounts") return { ...act, amounts: act.amounts.map((one) => ({ ...one, mills: amount })) };
    if (act.action !== "name-place") return act;
    return { ...act, items: act.items.map(({ id, bid }) => ({ id, bid: Math.max(1, Math.round(bid * ratio)) })) };
  });
  return { ...move, acts, amount: { ...move.amount, to: amount } };
}
