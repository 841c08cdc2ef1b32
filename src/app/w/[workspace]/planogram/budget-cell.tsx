"use client";

import { RotateCcw } from "lucide-react";
import { formatMoney, millsToField, parseMoney } from "@/core/kit/money";
import type { PlannedCampaign } from "@/core/planogram/planned-campaigns";
import { cx } from "@/ui/cx";
import { useWorkspace } from "../../../_lib/workspace";

/** A campaign's budget, to be set by hand; the others share what is left. */
export function BudgetCell({
  campaign,
  onBudget,
}: {
  campaign: PlannedCampaign;
  onBudget: (campaign: string, mills: number | null) => void;
}) {
  const { currency } = useWorkspace();
  const shown = millsToField(campaign.dailyBudget);
  return (
    <span className="flex items-center justify-end gap-1">
      {campaign.isSetByHand && (
        <button
          type="button"
          aria-label={`Let ${campaign.name} share again`}
          title="Set by hand; let it share again"
          onClick={() => onBudget(campaign.key, null)}
          className="text-petrol"
        >
          <RotateCcw aria-hidden className="size-3.5" />
        </button>
      )}
      <input
        key={shown}
        aria-label={`Budget a day of ${campaign.name}`}
        title={formatMoney(campaign.dailyBudget, currency)}
        inputMode="decimal"
        className={cx(
          "h-6 w-full min-w-0 rounded border border-transparent bg-transparent px-1 text-right hover:border-line focus:border-line",
          campaign.isSetByHand && "border-line bg-surface",
        )}
        defaultValue={shown}
        onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
        onBlur={(event) => {
          const text = event.currentTarget.value.trim();
          const parsed = parseMoney(text);
          if (text === "") onBudget(campaign.key, null);
          else if (parsed.ok && parsed.mills !== campaign.dailyBudget) onBudget(campaign.key, parsed.mills);
          else event.currentTarget.value = shown;
        }}
      />
    </span>
  );
}
