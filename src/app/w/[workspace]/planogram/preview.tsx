"use client";

import { ChevronRight, RotateCcw, TriangleAlert } from "lucide-react";
import { Fragment, useState } from "react";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney, millsToDecimal, parseMoney } from "@/core/kit/money";
import type { PlannedCampaign, PlannedGroup } from "@/core/planogram/planned-campaigns";
import type { Planogram } from "@/core/planogram/planogram";
import type { PlanogramPreview } from "@/core/planogram/preview";
import type { PlannedItems } from "@/server/planogram/planograms";
import type { PlanProof } from "@/server/planogram/prove";
import { cx } from "@/ui/cx";
import { SidePanel } from "@/ui/dialog";
import { ItemTag } from "@/ui/item-tag";
import { Loading } from "@/ui/notes";
import { Button } from "@/ui/button";
import { Surface } from "@/ui/page";
import { apiSend } from "../../../_lib/api";
import { useApiPath, useWorkspace } from "../../../_lib/workspace";
import { useQuery } from "@tanstack/react-query";
import { Proof } from "./proof";

/** Campaigns drawn at once; more are shown on asking. */
const SHOWN = 100;

/** What a planogram would make: the proof, warnings, and every campaign down to its items. */
export function Preview({
  planogram,
  preview,
  proof,
  isProofStale,
  onBudget,
}: {
  planogram: Planogram;
  preview: PlanogramPreview;
  proof: PlanProof | undefined;
  /** Whether the proof is of the plan before the last change. */
  isProofStale: boolean;
  /** Sets a campaign's budget by hand, mills a day; null lets it share again. */
  onBudget: (campaign: string, mills: number | null) => void;
}) {
  const { currency } = useWorkspace();
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const [shown, setShown] = useState(SHOWN);
  const [drill, setDrill] = useState<PlannedGroup | null>(null);
  const { counts } = preview;
  const toggle = (key: string) =>
    setOpen((old) => {
      const next = new Set(old);
      if (!next.delete(key)) next.add(key);
      return next;
    });
  const itemsButton = (group: PlannedGroup) => (
    <button type="button" className="text-petrol hover:underline num" onClick={() => setDrill(group)}>
      {formatCount(group.items)}
    </button>
  );
  return (
    <div className="space-y-4">
      <Surface>
        <Proof planogram={planogram} proof={proof} isStale={isProofStale} />
        {preview.warnings.map((warning) => (
          <p key={warning} className="mt-2 flex items-center gap-2 text-sm">
            <TriangleAlert aria-hidden className="size-4 text-ember" />
            <span>{warning}</span>
          </p>
        ))}
      </Surface>
      <div className="overflow-x-auto rounded-lg border border-line bg-surface">
        <table className="w-full text-sm">
          <thead>
            <tr className="border-b border-line text-left text-soft">
              <th className="px-3 py-2 font-normal">Campaign and ad groups</th>
              <th className="w-20 px-3 py-2 text-right font-normal">Items</th>
              <th className="w-28 px-2 py-2 text-right font-normal">Sales, 90 days</th>
              <th className="w-28 px-2 py-2 text-right font-normal">Spend, 90 days</th>
              <th className="w-24 px-3 py-2 text-right font-normal">Budget a day</th>
            </tr>
          </thead>
          <tbody>
            {preview.campaigns.slice(0, shown).map((campaign) => (
              <Fragment key={campaign.key}>
                <tr className="border-b border-line/70">
                  <td className="px-3 py-1.5">
                    <button
                      type="button"
                      aria-expanded={open.has(campaign.key)}
                      onClick={() => toggle(campaign.key)}
                      className="flex items-center gap-1 text-left font-semibold"
                    >
                      <ChevronRight
                        aria-hidden
                        className={cx("size-4 transition-transform", open.has(campaign.key) && "rotate-90")}
                      />
                      {campaign.name}
                      <span className="font-normal whitespace-nowrap text-soft">
                        · {plural(campaign.adGroups.length, "ad group")}
                      </span>
                    </button>
                  </td>
                  <td className="px-3 text-right">{itemsButton(campaign)}</td>
                  <Figures group={campaign} currency={currency} />
                  <td className="px-3 text-right font-semibold num">
                    <BudgetCell campaign={campaign} onBudget={onBudget} />
                  </td>
                </tr>
                {open.has(campaign.key) &&
                  campaign.adGroups.slice(0, SHOWN).map((group) => (
                    <tr key={group.key} className="border-b border-line/40">
                      <td className="py-1 pl-10">{group.name}</td>
                      <td className="px-3 text-right">{itemsButton(group)}</td>
                      <Figures group={group} currency={currency} />
                      <td />
                    </tr>
                  ))}
                {open.has(campaign.key) && campaign.adGroups.length > SHOWN && (
                  <tr>
                    <td className="py-1 pl-10 text-soft" colSpan={5}>
                      and {plural(campaign.adGroups.length - SHOWN, "more ad group")}
                    </td>
                  </tr>
                )}
              </Fragment>
            ))}
          </tbody>
          <tfoot>
            <tr className="border-t border-ink/40 font-semibold num">
              <td className="px-3 py-2">{plural(counts.campaigns, "campaign")}</td>
              <td className="px-3 text-right">{formatCount(counts.items)}</td>
              <td className="px-3 text-right">{formatMoney(total(preview.campaigns, "revenue"), currency)}</td>
              <td className="px-3 text-right">{formatMoney(total(preview.campaigns, "cost"), currency)}</td>
              <td className="px-3 text-right">
                {formatMoney(
                  preview.campaigns.reduce((sum, { dailyBudget }) => sum + dailyBudget, 0),
                  currency,
                )}
              </td>
            </tr>
          </tfoot>
        </table>
        {preview.campaigns.length > shown && (
          <Button look="quiet" className="m-2" onClick={() => setShown(shown + SHOWN)}>
            Show {Math.min(SHOWN, preview.campaigns.length - shown)} more campaigns
          </Button>
        )}
      </div>
      <PlannedItemsPanel planogram={planogram} group={drill} onClose={() => setDrill(null)} />
    </div>
  );
}

/** A campaign's budget, to be set by hand; the others share what is left. */
function BudgetCell({
  campaign,
  onBudget,
}: {
  campaign: PlannedCampaign;
  onBudget: (campaign: string, mills: number | null) => void;
}) {
  const { currency } = useWorkspace();
  const shown = millsToDecimal(campaign.dailyBudget);
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
          "h-6 w-20 rounded border border-transparent bg-transparent px-1 text-right hover:border-line focus:border-line",
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

function total(campaigns: PlannedCampaign[], key: "cost" | "revenue"): number {
  return campaigns.reduce((sum, campaign) => sum + campaign[key], 0);
}

function Figures({ group, currency }: { group: PlannedGroup; currency: string }) {
  return (
    <>
      <td className="px-3 text-right num">{formatMoney(group.revenue, currency)}</td>
      <td className="px-3 text-right num">{formatMoney(group.cost, currency)}</td>
    </>
  );
}

const PAGE = 100;

function PlannedItemsPanel({
  planogram,
  group,
  onClose,
}: {
  planogram: Planogram;
  group: PlannedGroup | null;
  onClose: () => void;
}) {
  const apiPath = useApiPath();
  const [limit, setLimit] = useState(PAGE);
  const items = useQuery({
    queryKey: ["api", "planned-items", planogram, group?.node, limit],
    queryFn: () =>
      apiSend<PlannedItems>(apiPath(`planograms/preview/items?node=${group?.node}&limit=${limit}`), planogram),
    enabled: group !== null,
  });
  return (
    <SidePanel
      open={group !== null}
      onClose={onClose}
      title={
        <span className="font-display text-lg font-semibold">
          {group?.name}
          <span className="block text-sm font-normal text-soft">
            {items.data ? plural(items.data.total, "item") : ""}
          </span>
        </span>
      }
    >
      {!items.data && <Loading what="items" />}
      <ul className="divide-y divide-line">
        {items.data?.items.map((item) => (
          <li key={item.id} className="flex items-center justify-between gap-2 py-1.5">
            <ItemTag id={item.id} title={item.title} image={item.image} />
            <span className="font-mono text-xs text-soft">{item.id}</span>
          </li>
        ))}
      </ul>
      {items.data && items.data.total > items.data.items.length && (
        <Button className="mt-3" onClick={() => setLimit(limit + PAGE * 5)}>
          Show more
        </Button>
      )}
    </SidePanel>
  );
}
