"use client";

import { RotateCcw } from "lucide-react";
import { formatMoney, millsToField, parseMoney } from "@/core/kit/money";
import type { PlannedCampaign } from "@/core/planogram/planned-campaigns";
import { cx } from "@/ui/cx";
import { SettledInput } from "@/ui/settled-input";
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
      <SettledInput
        aria-label={`Budget a day of ${campaign.name}`}
        title={formatMoney(campaign.dailyBudget, currency)}
        inputMode="decimal"
        className={cx(
          "h-6! min-w-0 border-transparent bg-transparent px-1! text-right hover:border-line focus:border-line",
          campaign.isSetByHand && "border-line bg-surface",
        )}
        value={millsToField(campaign.dailyBudget)}
        onSettle={(text) => {
          const parsed = parseMoney(text);
          if (text === "") onBudget(campaign.key, null);
          else if (parsed.ok && parsed.mills !== campaign.dailyBudget) onBudget(campaign.key, parsed.mills);
          else return false;
        }}
      />
    </span>
  );
}
