"use client";

import { formatCount, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { PlannedTarget } from "@/server/targets/aim";
import { useWorkspace } from "../../_lib/workspace";

/** Targets shown one by one. */
const MOST_SHOWN = 8;

/** Targets as they would be made, with what a click costs there, the bid, and where they are used already. */
export function AimTargets({ targets }: { targets: PlannedTarget[] }) {
  const { currency } = useWorkspace();
  const money = (mills: number) => formatMoney(mills, currency);
  if (targets.length === 0) return null;
  return (
    <div className="text-sm num">
      <table className="w-full" aria-label="Targets">
        <thead>
          <tr className="text-left text-xs text-soft">
            <th className="font-normal">Target</th>
            <th className="font-normal">Match</th>
            <th className="text-right font-normal">Views a month</th>
            <th className="text-right font-normal">Click costs</th>
            <th className="pl-3 text-right font-normal">Bid</th>
          </tr>
        </thead>
        <tbody>
          {targets.slice(0, MOST_SHOWN).map(({ label, match, card, bid, usedIn, isSilenced, isUnheard }) => (
            <tr key={`${label}/${match}`} className="border-t border-line/60 align-top">
              <td className="py-1 pr-2">
                {label}
                {usedIn.length > 0 && (
                  <span className="block text-xs text-soft">
                    used already in{" "}
                    {usedIn.map(({ campaign, isOn }) => `${campaign}${isOn ? "" : " (paused)"}`).join(", ")}
                  </span>
                )}
                {isSilenced && (
                  <span className="block text-xs font-semibold text-ember">
                    ▾ a negative of yours keeps it from showing
                  </span>
                )}
              </td>
              <td className="py-1 pr-2 text-soft">{match || "page"}</td>
              <td className="py-1 text-right">{card?.monthlyViews ? formatCount(card.monthlyViews) : "–"}</td>
              <td className="py-1 text-right">
                {card
                  ? card.low !== null && card.high !== null
                    ? `${money(card.low)} to ${money(card.high)}`
                    : money(card.typical)
                  : isUnheard
                    ? "nobody looks there"
                    : "–"}
              </td>
              <td className="py-1 pl-3 text-right font-semibold">{money(bid)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {targets.length > MOST_SHOWN && (
        <p className="text-soft">and {plural(targets.length - MOST_SHOWN, "more target")}.</p>
      )}
    </div>
  );
}
