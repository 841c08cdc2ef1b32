"use client";

import { plural } from "@/core/kit/format";
import { formatChange } from "@/core/kit/money";
import { LEFT_BECAUSE, type LeftBecause, type StandingOrder } from "@/core/moves/standing-order";
import type { OrderLook } from "@/server/moves/standing-orders";
import { useSettled } from "@/ui/use-settled";
import { useAsk } from "../../../../_lib/api";
import { useApiPath, useWorkspace } from "../../../../_lib/workspace";

/** What a standing order would do now, in numbers. */
export function OrderLookWords({ order }: { order: StandingOrder | null }) {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  const asked = useSettled(JSON.stringify(order), 300);
  const question = JSON.parse(asked) as StandingOrder | null;
  const look = useAsk<OrderLook>(apiPath("standing-orders/look"), question, {
    isLong: true,
    enabled: question !== null && order !== null,
    placeholderData: (before) => before,
  });
  const signed = (mills: number) => formatChange(mills, currency);
  const left = Object.entries(look.data?.left ?? {}) as [LeftBecause, number][];
  return (
    <div
      role="status"
      aria-label="What it would do now"
      className="min-h-24 space-y-1 rounded-md bg-raised px-3 py-2 text-sm num"
    >
      {look.error ? (
        <p className="text-ember-strong">
          {look.error.failure.message} {look.error.failure.hint}
        </p>
      ) : !look.data || order === null ? (
        <p className="text-soft">{order === null ? "Mend what is marked first." : "Working it out …"}</p>
      ) : (
        <>
          {look.data.stops && (
            <p className="font-semibold text-ember-strong">Its guard would stop it: {look.data.stops}.</p>
          )}
          <p className="font-semibold">
            {look.data.moves === 0
              ? "Now it would do nothing."
              : `Now it would send ${plural(look.data.moves, "move")}: spend a day ${signed(look.data.spend)}${
                  look.data.contribution
                    ? `, contribution ${signed(look.data.contribution.mean)} (${signed(look.data.contribution.low)} to ${signed(look.data.contribution.high)})`
                    : ""
                } expected.`}
          </p>
          <ul className="text-soft">
            {look.data.words.map((words) => (
              <li key={words} className="truncate" title={words}>
                {words}
              </li>
            ))}
          </ul>
          {left.length > 0 && (
            <p className="text-soft">
              Left: {left.map(([because, count]) => `${count} ${LEFT_BECAUSE[because]}`).join(", ")}.
            </p>
          )}
        </>
      )}
    </div>
  );
}
