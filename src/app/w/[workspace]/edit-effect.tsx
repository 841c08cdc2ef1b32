"use client";

import { formatCount, plural } from "@/core/kit/format";
import type { HomesBetween } from "@/server/account/homes-between";
import { useSettled } from "@/ui/use-settled";
import { useAsk } from "../../_lib/api";
import { useApiPath } from "../../_lib/workspace";
import type { Edit } from "./use-edit";

/** Acts that can change who serves an item first. */
const MOVING = new Set<Edit["action"]>(["status", "serve-order", "bid", "amount", "move-groups"]);

/** What becomes of the items that an act is about: who serves them then, and how many are left without a home. */
export function EditEffect({ edit }: { edit: Edit }) {
  const apiPath = useApiPath();
  const asked = useSettled(JSON.stringify(edit), 300);
  const isAsked = MOVING.has(edit.action) && !(edit.action === "amount" && edit.field === "dailyBudget");
  const effect = useAsk<HomesBetween>(apiPath("account/edits/look"), JSON.parse(asked), {
    isLong: true,
    enabled: isAsked,
    placeholderData: (before) => before,
  });
  if (!isAsked || effect.isError) return null;
  // The place is there from the start: what comes later must not push the buttons away from under somebody's hand.
  return (
    <p role="status" className="min-h-14 rounded-md bg-raised px-3 py-2 text-sm num">
      {effect.data ? (
        <EffectWords {...effect.data} />
      ) : (
        <span className="text-soft">Looking who serves them then …</span>
      )}
    </p>
  );
}

function EffectWords({ homed, moved, homeless, takers, leaks }: HomesBetween) {
  const taken = homed + moved;
  const named = takers.map(({ name, items }) => `${name} (${formatCount(items)})`).join(", ");
  return (
    <>
      {taken + homeless === 0 && "Who serves each item stays as it is. "}
      {taken > 0 && `${plural(taken, "item")} ${taken === 1 ? "is" : "are"} served by ${named} then. `}
      {homeless > 0 && (
        <span className="font-semibold text-ember">{plural(homeless, "item")} would have no home, so no ads. </span>
      )}
      {leaks.after > leaks.before && (
        <span className="font-semibold text-ember">
          {plural(leaks.after - leaks.before, "open remainder")} more bids on what nobody named.
        </span>
      )}
    </>
  );
}
