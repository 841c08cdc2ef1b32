"use client";

import { toast } from "sonner";
import { plural } from "@/core/kit/format";
import type { Accepted } from "@/server/moves/accept";
import type { MoveLine, WhichMoves } from "@/server/moves/moves";
import { apiSend, toastError } from "../../../_lib/api";
import { sayDone } from "../../../_lib/undo";
import { useApiPath, useRefresh } from "../../../_lib/workspace";
import { useChange } from "../use-edit";

/** Moves as they are seen, for what is done with them. */
export const asSeen = (moves: readonly Pick<MoveLine, "key" | "seal">[]): WhichMoves => ({
  moves: moves.map(({ key, seal }) => ({ key, seal })),
});

/** What is told of moves that were worked out anew meanwhile. */
const left = (changed: string[]) =>
  changed.length > 0
    ? ` ${plural(changed.length, "move was", "moves were")} worked out anew meanwhile and left; look at them again.`
    : "";

/** Accepts moves into the basket; says so, with a way to take it back. Answers whether it worked. */
export function useAccept(): (which: WhichMoves) => Promise<boolean> {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const change = useChange();
  return async (which) => {
    try {
      const { moves, changes, changed, diff } = await change<Accepted>("moves/accept", which);
      sayDone(`${plural(moves, "move")} accepted: ${plural(changes, "change")} in the basket.${left(changed)}`, () =>
        apiSend(apiPath("account/edits/take-back"), diff).then(refresh),
      );
      await refresh();
      return true;
    } catch (error) {
      toastError(error);
      await refresh();
      return false;
    }
  };
}

/** Dismisses moves, puts them off, or opens them again. Answers whether it worked. */
export function useDecide() {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  return async (
    which: WhichMoves,
    how: "dismissed" | "snoozed" | "open",
    more: { reason?: string; until?: string } = {},
  ): Promise<boolean> => {
    try {
      const done = await apiSend<{ moves: number; changed: string[] }>(apiPath("moves/decide"), {
        which,
        how,
        ...more,
      });
      const words = { dismissed: "dismissed", snoozed: `put off till ${more.until}`, open: "open again" }[how];
      const told = `${plural(done.moves, "move")} ${words}.${left(done.changed)}`;
      // All that a filter found are no longer found by it; single ones are opened again by their names.
      if (how === "open" || !("moves" in which)) toast.success(told);
      else sayDone(told, () => apiSend(apiPath("moves/decide"), { which, how: "open" }).then(refresh));
      await refresh();
      return true;
    } catch (error) {
      toastError(error);
      return false;
    }
  };
}
