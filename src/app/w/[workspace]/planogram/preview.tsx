"use client";

import { ChevronRight, ShieldCheck, TriangleAlert } from "lucide-react";
import { Fragment, useState } from "react";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { PlannedCampaign, PlannedGroup } from "@/core/planogram/planned-campaigns";
import type { Planogram } from "@/core/planogram/planogram";
import type { PlanogramPreview } from "@/core/planogram/preview";
import type { AccountLine } from "@/server/planogram/workbench";
import type { PlannedItems } from "@/server/planogram/planograms";
import { cx } from "@/ui/cx";
import { SidePanel } from "@/ui/dialog";
import { ItemTag } from "@/ui/item-tag";
import { Loading } from "@/ui/notes";
import { Button } from "@/ui/button";
import { Surface } from "@/ui/page";
import { apiSend } from "../../../_lib/api";
import { useApiPath, useWorkspace } from "../../../_lib/workspace";
import { useQuery } from "@tanstack/react-query";

/** Campaigns drawn at once; more are shown on asking. */
const SHOWN = 100;

/** What a planogram would make: the proof, warnings, and every campaign down to its items. */
export function Preview({
  planogram,
  preview,
  still,
}: {
  planogram: Planogram;
  preview: PlanogramPreview;
  still: AccountLine[];
}) {
  const { currency } = useWorkspace();
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const [shown, setShown] = useState(SHOWN);
  const [drill, setDrill] = useState<PlannedGroup | null>(null);
  const { homes, counts } = preview;
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
        <div className="grid grid-cols-[auto_1fr_1fr_1fr_1fr] items-start gap-6">
          <ShieldCheck aria-hidden className="mt-1 size-8 text-petrol" />
          <Proof label="with one home" value={homes.one} />
          <Proof
            label="without a home"
            value={homes.none}
            note={preview.leftOut > 0 ? "left out: sold out" : undefined}
          />
          <Proof label="with several homes" value={homes.several} />
          <Proof label={preview.leaks === 1 ? "leak" : "leaks"} value={preview.leaks} note="every remainder closed" />
        </div>
        {still.length > 0 && (
          <p className="mt-3 flex items-center gap-2 text-sm">
            <TriangleAlert aria-hidden className="size-4 text-ember" />
            <span>
              {still.map((line) => line.name).join(", ")} {still.length === 1 ? "goes" : "go"} on beside it, so items
              can have several homes; the lower serve order serves first.
            </span>
          </p>
        )}
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
                  <td className="px-3 text-right font-semibold num">{formatMoney(campaign.dailyBudget, currency)}</td>
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
              <td className="px-3 text-right">{formatMoney(planogram.totalBudget, currency)}</td>
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

function Proof({ label, value, note }: { label: string; value: number; note?: string }) {
  return (
    <span>
      <b className="block font-display text-xl leading-tight num">{formatCount(value)}</b>
      <span className="block text-sm">{label}</span>
      {note && <span className="block text-xs text-soft">{note}</span>}
    </span>
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
