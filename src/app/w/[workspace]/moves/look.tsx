"use client";

import { plural } from "@/core/kit/format";
import { formatChange, formatMoney } from "@/core/kit/money";
import type { EditLook } from "@/server/account/homes-between";
import type { WhichMoves } from "@/server/moves/moves";
import { useAsk } from "../../../_lib/api";
import { useApiPath, useWorkspace } from "../../../_lib/workspace";
import { EditLookWords } from "../edit-effect";

type Look = EditLook & { changed: string[]; moves: number; stake: number; spend: number };

/** What accepting moves would change, before it is done. */
export function MovesLook({ which }: { which: WhichMoves }) {
  const apiPath = useApiPath();
  const { currency } = useWorkspace();
  const look = useAsk<Look>(apiPath("moves/look"), which, { isLong: true, placeholderData: (before) => before });
  if (look.error) {
    return <p className="rounded-md bg-raised px-3 py-2 text-sm text-ember-strong">{look.error.message}</p>;
  }
  return (
    <div
      role="status"
      aria-label="What that changes"
      className="min-h-20 space-y-1 rounded-md bg-raised px-3 py-2 text-sm num"
    >
      {!look.data ? (
        <span className="text-soft">Looking what that changes …</span>
      ) : (
        <>
          <p className="font-semibold">
            {plural(look.data.moves, "move")}, {formatMoney(look.data.stake, currency)} a month at stake; spend a day{" "}
            {formatChange(look.data.spend, currency)} expected.
          </p>
          {look.data.changed.length > 0 && (
            <p className="text-ember-strong">
              {plural(look.data.changed.length, "move was", "moves were")} worked out anew since and would be left.
            </p>
          )}
          <EditLookWords look={look.data} />
        </>
      )}
    </div>
  );
}
