"use client";

import { formatCount, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { EditLook, HomesBetween } from "@/server/account/homes-between";
import { useSettled } from "@/ui/use-settled";
import { useAsk } from "../../_lib/api";
import { useApiPath, useWorkspace } from "../../_lib/workspace";
import type { Edit } from "./use-edit";

/** What an act changes, from what is set now, and what becomes of the items and the budgets that it is about. */
export function EditEffect({ edit }: { edit: Edit }) {
  const apiPath = useApiPath();
  const asked = useSettled(JSON.stringify(edit), 300);
  const effect = useAsk<EditLook>(apiPath("account/edits/look"), JSON.parse(asked), {
    isLong: true,
    placeholderData: (before) => before,
  });
  if (effect.error)
    return <p className="rounded-md bg-raised px-3 py-2 text-sm text-ember-strong">{effect.error.message}</p>;
  const look = effect.data;
  // The place is there from the start: what comes later must not push the buttons away from under somebody's hand.
  return (
    <div
      role="status"
      aria-label="What that changes"
      className="min-h-20 space-y-1 rounded-md bg-raised px-3 py-2 text-sm num"
    >
      {!look ? (
        <span className="text-soft">Looking what that changes …</span>
      ) : look.changes === 0 ? (
        "That is how it is already."
      ) : (
        <EditLookWords look={look} />
      )}
    </div>
  );
}

/** The first changes in words, budgets before and after, and what becomes of homes. */
export function EditLookWords({ look }: { look: EditLook }) {
  const { currency } = useWorkspace();
  return (
    <>
      <ul>
        {look.words.map((words) => (
          <li key={words} className="truncate" title={words}>
            {words}
          </li>
        ))}
        {look.changes > look.words.length && (
          <li className="text-soft">and {plural(look.changes - look.words.length, "other change")}</li>
        )}
      </ul>
      {look.budget.before !== look.budget.after && (
        <p>
          Daily budgets in all: {formatMoney(look.budget.before, currency)} → {formatMoney(look.budget.after, currency)}
          .
        </p>
      )}
      {look.homes && (
        <p>
          <EffectWords {...look.homes} />
        </p>
      )}
    </>
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
        <span className="font-semibold text-ember-strong">
          {plural(homeless, "item")} would have no home, so no ads.{" "}
        </span>
      )}
      {leaks.after > leaks.before && (
        <span className="font-semibold text-ember-strong">
          {plural(leaks.after - leaks.before, "open remainder")} more bids on what nobody named.
        </span>
      )}
    </>
  );
}
