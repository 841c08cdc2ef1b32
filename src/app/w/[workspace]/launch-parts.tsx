"use client";

import { Undo2, X } from "lucide-react";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { LaunchCampaign } from "@/server/targets/launch";
import { useWorkspace } from "../../_lib/workspace";
import { MoneyCell } from "./money-cell";

/** The campaigns of a launch, each with its money and what it aims at; single targets are priced or left out here. */
export function LaunchParts({
  campaigns,
  onBid,
  onLeave,
}: {
  campaigns: LaunchCampaign[];
  onBid: (id: string, mills: number) => void;
  onLeave: (id: string, isOut: boolean) => void;
}) {
  const { currency } = useWorkspace();
  const money = (mills: number) => formatMoney(mills, currency);
  return (
    <div className="max-h-[26rem] overflow-y-auto pr-1 text-sm num">
      {campaigns.map(({ name, purpose, dailyBudget, targets, negatives, keptApart, items }) => (
        <section key={name} aria-label={name} className="border-t border-line py-2 first:border-t-0 first:pt-0">
          <h3 className="flex items-baseline gap-2 font-semibold">
            <span className="min-w-0 truncate" title={name}>
              {name}
            </span>
            <span className="shrink-0 text-xs font-normal text-soft">
              {purpose} · {plural(items, "item")}
            </span>
            <span className="ml-auto shrink-0">{dailyBudget > 0 ? `${money(dailyBudget)} a day` : "left out"}</span>
          </h3>
          <ul>
            {targets.map(({ id, label, title, match, card, bid, start, isOut }) => (
              <li key={id} className={`flex items-center gap-2 ${isOut ? "text-soft line-through" : ""}`}>
                <span className="min-w-0 flex-1 truncate" title={label}>
                  {label} {title}
                  {match && <span className="text-xs text-soft">{match}</span>}
                </span>
                <span className="w-28 text-right text-xs text-soft">
                  {card?.monthlyViews ? `${formatCount(card.monthlyViews)} views` : ""}
                </span>
                <span className="w-36 text-right text-xs text-soft">
                  {start.isBelowLow
                    ? "hardly shows"
                    : start.worth !== null
                      ? `a click is worth ${money(Math.round(start.worth))}`
                      : card
                        ? `typical ${money(card.typical)}`
                        : ""}
                </span>
                <span className="w-16 text-right">
                  <MoneyCell
                    label={`Bid of ${label} ${match}`.trim()}
                    value={bid}
                    onSave={(mills) => {
                      onBid(id, mills);
                      return Promise.resolve(true);
                    }}
                  />
                </span>
                <button
                  type="button"
                  className="rounded p-0.5 text-soft hover:bg-raised"
                  aria-label={`${isOut ? "Take back" : "Leave out"} ${label} ${match}`.trim()}
                  onClick={() => onLeave(id, !isOut)}
                >
                  {isOut ? <Undo2 aria-hidden className="size-3.5" /> : <X aria-hidden className="size-3.5" />}
                </button>
              </li>
            ))}
          </ul>
          {keptApart > 0 && (
            <p className="text-xs text-soft">
              Kept out of the {plural(keptApart, "keyword or page", "keywords and pages")} below, which bid for
              themselves
            </p>
          )}
          {negatives.length > 0 && (
            <p className="text-xs text-soft">Kept out, since these items are dear: {negatives.join(", ")}</p>
          )}
        </section>
      ))}
    </div>
  );
}
