"use client";

import { X, Undo2 } from "lucide-react";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import { START_FROM, type StartBid } from "@/core/targets/start-bid";
import type { PlannedTarget } from "@/server/targets/aim";
import { useWorkspace } from "../../_lib/workspace";
import { MoneyCell } from "./money-cell";

/** Targets as they would be made, each with what a click costs there, its bid and what that stands on; bids are set and lines left out here. */
export function AimTargets({
  targets,
  leftOut,
  onBid,
  onLeave,
}: {
  targets: PlannedTarget[];
  leftOut: readonly string[];
  onBid: (id: string, mills: number) => void;
  onLeave: (id: string, isOut: boolean) => void;
}) {
  const { currency } = useWorkspace();
  const money = (mills: number) => formatMoney(mills, currency);
  if (targets.length === 0) return null;
  const kept = targets.filter(({ id }) => !leftOut.includes(id)).length;
  return (
    <div className="max-h-64 overflow-y-auto text-sm num">
      <table className="w-full" aria-label="Targets">
        <thead className="sticky top-0 bg-surface">
          <tr className="text-left text-xs text-soft">
            <th className="font-normal">
              Target{targets.length > 1 && ` (${formatCount(kept)} of ${formatCount(targets.length)})`}
            </th>
            <th className="font-normal">Match</th>
            <th className="text-right font-normal">Views a month</th>
            <th className="text-right font-normal">Click costs</th>
            <th className="pl-3 text-right font-normal">Bid</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {targets.map(({ id, label, match, card, start, bid, usedIn, isSilenced, isUnheard }) => {
            const isOut = leftOut.includes(id);
            return (
              <tr key={id} className={`border-t border-line/60 align-top ${isOut ? "text-soft line-through" : ""}`}>
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
                  {!isOut && <span className="block text-xs text-soft">{standsOn(start, bid, money)}</span>}
                </td>
                <td className="py-1 pr-2 text-soft">{match || "page"}</td>
                <td className="py-1 pl-3 text-right">{card?.monthlyViews ? formatCount(card.monthlyViews) : "–"}</td>
                <td className="py-1 pl-3 text-right whitespace-nowrap">
                  {card
                    ? card.low !== null && card.high !== null
                      ? `${money(card.low)} to ${money(card.high)}`
                      : money(card.typical)
                    : isUnheard
                      ? "nobody looks there"
                      : "–"}
                </td>
                <td className="py-1 pl-3 text-right font-semibold">
                  <MoneyCell
                    label={`Bid of ${label}${match && ` (${match})`}`}
                    value={bid}
                    onSave={(mills) => {
                      onBid(id, mills);
                      return Promise.resolve(true);
                    }}
                  />
                </td>
                <td className="py-1 pl-1">
                  <button
                    type="button"
                    className="rounded p-0.5 text-soft hover:bg-raised"
                    aria-label={isOut ? `Take ${label} back in` : `Leave ${label} out`}
                    onClick={() => onLeave(id, !isOut)}
                  >
                    {isOut ? <Undo2 aria-hidden className="size-3.5" /> : <X aria-hidden className="size-3.5" />}
                  </button>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {targets.length > 1 && kept === 0 && (
        <p className="text-ember">{plural(targets.length, "line")}, all left out.</p>
      )}
    </div>
  );
}

/** What the proposed bid stands on, in a few words; of another bid, what was proposed. */
function standsOn(
  { bid: proposed, from, worth, paid, home, isBelowLow, limitedBy }: StartBid,
  bid: number,
  money: (mills: number) => string,
) {
  const parts = [
    worth !== null ? `a click is worth ${money(Math.round(worth))}` : null,
    from === "paid" ? `paid ${money(Math.round(paid!))} so far` : null,
    from === "home" ? `its home bids ${money(home!)}` : null,
    from === "typical" && worth === null ? START_FROM.typical : null,
    from === "blind" && worth === null ? START_FROM.blind : null,
    limitedBy === "largestStep" ? "held to one step" : null,
    isBelowLow && bid === proposed ? "below what a fifth of the auctions take: hardly shows" : null,
  ].filter((part) => part !== null);
  const told = parts.join(", ");
  return bid === proposed ? told : `proposed ${money(proposed)}: ${told}`;
}
