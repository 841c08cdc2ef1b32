"use client";

import { useState } from "react";
import { formatCount, formatMetric, plural } from "@/core/kit/format";
import { METRICS } from "@/core/kit/metrics";
import { formatMoney, toUnits } from "@/core/kit/money";
import { quietInWords } from "@/core/targets/quiet";
import type { AimedTarget } from "@/server/targets/aimed-at";
import { Button } from "@/ui/button";
import { DataTable, type TableColumn } from "@/ui/data-table";
import { ChoiceSelect, TextInput } from "@/ui/field";
import { EmptyNote } from "@/ui/notes";
import { PageHead, PageWaiting } from "@/ui/page";
import { useApi } from "../../../_lib/api";
import { useApiPath, useDays, useWorkspace } from "../../../_lib/workspace";
import { LaunchDialog } from "../launch-dialog";
import { MoneyCell } from "../money-cell";
import { PickBar } from "../pick-bar";
import { RecordDialog, type RecordAction } from "../record-dialogs";
import { useEdit } from "../use-edit";
import { useList } from "../use-list";
import { NewTargets } from "./new-targets";
import { TargetsTabs } from "./tabs";

const SHOWN = {
  all: "all targets",
  running: "running",
  quiet: "without impressions",
  waste: "clicks and no order",
  keyword: "keywords",
  listingTarget: "listing targets",
  reach: "reaches",
} as const;

/** All that is aimed at, with bids and results; nothing is hidden for having none, and quiet ones say why. */
export default function TargetsPage() {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  const [days] = useDays();
  const [shown, setShown] = useState<keyof typeof SHOWN>("all");
  const [doing, setDoing] = useState<RecordAction | null>(null);
  const [isNew, setNew] = useState(false);
  const [isLaunch, setLaunch] = useState(false);
  const targets = useApi<{ version: number; targets: AimedTarget[] }>(apiPath(`targets?days=${days}`));
  const edit = useEdit();
  const rows = (targets.data?.targets ?? []).filter((target) => isShown(target, shown));
  const money = (mills: number) => formatMoney(mills, currency);
  const list = useList({
    rows,
    keyOf: ({ key }) => key,
    textOf: ({ name, how, campaignName, adGroupName }) => `${name} ${how} ${campaignName} ${adGroupName}`,
    sorts: {
      name: ({ name }) => name,
      campaign: ({ campaignName }) => campaignName,
      bid: ({ bid }) => bid,
      impressions: ({ sums }) => sums.impressions,
      clicks: ({ sums }) => sums.clicks,
      cost: ({ sums }) => sums.cost,
      orders: ({ sums }) => sums.orders,
      revenue: ({ sums }) => sums.revenue,
      roas: ({ sums }) => METRICS.roas.of(sums),
    },
    copy: [
      { heading: "target", of: ({ name }) => name },
      { heading: "match", of: ({ how }) => how },
      { heading: "campaign", of: ({ campaignName }) => campaignName },
      { heading: "ad group", of: ({ adGroupName }) => adGroupName },
      { heading: "status", of: ({ status }) => status },
      { heading: "bid", of: ({ bid }) => toUnits(bid) },
      { heading: "impressions", of: ({ sums }) => sums.impressions },
      { heading: "clicks", of: ({ sums }) => sums.clicks },
      { heading: "spend", of: ({ sums }) => toUnits(sums.cost) },
      { heading: "orders", of: ({ sums }) => sums.orders },
      { heading: "ad sales", of: ({ sums }) => toUnits(sums.revenue) },
    ],
  });
  if (targets.error || !targets.data)
    return (
      <PageWaiting title="Targets" what="the targets" error={targets.error}>
        <TargetsTabs />
      </PageWaiting>
    );
  const all = targets.data.targets;
  const quiet = all.filter(({ quiet: why }) => why !== null).length;
  const keys = list.picked.map(({ key }) => key);
  const picked = (of: (target: AimedTarget) => number) => list.picked.reduce((sum, target) => sum + of(target), 0);
  const columns: TableColumn<AimedTarget>[] = [
    { key: "name", label: "Target", width: "1fr", sort: "name", cell: (target) => <TargetName target={target} /> },
    {
      ...{ key: "campaign", label: "Campaign", width: 190, sort: "campaign" },
      cell: ({ campaignName, purpose }) => (
        <span title={campaignName}>
          <span className="block truncate leading-tight">{campaignName}</span>
          <span className="block text-xs leading-tight text-soft">{purpose}</span>
        </span>
      ),
    },
    {
      ...{ key: "status", label: "Status", width: 76 },
      cell: ({ key, status }) => (
        <button
          type="button"
          className="rounded border border-line px-1.5 py-0.5 text-xs hover:bg-raised"
          title={status === "on" ? "Pause it" : "Switch it on"}
          onClick={() => void edit({ action: "status", keys: [key], status: status === "on" ? "paused" : "on" })}
        >
          {status}
        </button>
      ),
    },
    {
      ...{ key: "bid", label: "Bid", width: 92, align: "right", sort: "bid" },
      cell: ({ key, name, bid, card }) => (
        <span
          title={
            card
              ? `Rate card: ${[card.low, card.typical, card.high].map((price) => (price === null ? "–" : money(price))).join(" · ")}`
              : "No rate card"
          }
        >
          <MoneyCell
            label={`Bid of ${name}`}
            value={bid}
            onSave={(mills) => edit({ action: "bid", keys: [key], op: { how: "set", mills } })}
          />
          {card && <span className="block text-[11px] leading-tight text-soft">typical {money(card.typical)}</span>}
        </span>
      ),
    },
    {
      ...{ key: "impressions", label: "Impr.", width: 76, align: "right", sort: "impressions" },
      cell: ({ sums }) => formatCount(sums.impressions),
    },
    {
      ...{ key: "clicks", label: "Clicks", width: 66, align: "right", sort: "clicks" },
      cell: ({ sums }) => formatCount(sums.clicks),
    },
    {
      ...{ key: "cost", label: "Spend", width: 84, align: "right", sort: "cost" },
      cell: ({ sums }) => money(sums.cost),
    },
    {
      ...{ key: "orders", label: "Orders", width: 66, align: "right", sort: "orders" },
      cell: ({ sums }) => formatCount(sums.orders),
    },
    {
      ...{ key: "revenue", label: "Ad sales", width: 90, align: "right", sort: "revenue" },
      cell: ({ sums }) => money(sums.revenue),
    },
    {
      ...{ key: "roas", label: "ROAS", width: 60, align: "right", sort: "roas" },
      cell: ({ sums }) => formatMetric("roas", METRICS.roas.of(sums), currency),
    },
  ];
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <PageHead
        title="Targets"
        facts={`${plural(all.length, "target")}, ${formatCount(quiet)} without impressions in ${plural(days, "day")}`}
      >
        <Button onClick={() => setNew(true)}>Aim at terms</Button>
        <Button look="ember" onClick={() => setLaunch(true)}>
          Launch items
        </Button>
      </PageHead>
      <TargetsTabs />
      {all.length === 0 ? (
        <EmptyNote
          title="Nothing is aimed at yet"
          action={
            <Button look="ember" onClick={() => setNew(true)}>
              Aim at terms
            </Button>
          }
        >
          Terms that sold under Results, or rivals’ listings, become targets here: with bids of their own and the items
          of yours that fit.
        </EmptyNote>
      ) : (
        <>
          <div className="flex flex-wrap items-center gap-2">
            <TextInput
              type="search"
              aria-label="Search targets"
              placeholder="Search targets  ( / )"
              className="w-64!"
              {...list.search}
            />
            <ChoiceSelect aria-label="Shown" className="w-52!" value={shown} onChange={setShown} choices={SHOWN} />
            <span className="text-sm text-soft num">{plural(list.found.length, "target")}</span>
          </div>
          {keys.length > 0 && (
            <PickBar
              label={`${plural(keys.length, "target")} picked`}
              sums={`spend ${money(picked(({ sums }) => sums.cost))} · ad sales ${money(picked(({ sums }) => sums.revenue))} · ${formatCount(picked(({ sums }) => sums.orders))} orders`}
              onCopy={list.copyRows}
              onClear={list.clear}
            >
              <Button onClick={() => void edit({ action: "status", keys, status: "paused" })}>Pause</Button>
              <Button onClick={() => void edit({ action: "status", keys, status: "on" })}>Switch on</Button>
              <Button onClick={() => setDoing("bid")}>Change bids</Button>
              <Button onClick={() => setDoing("move-target")}>Own campaign</Button>
            </PickBar>
          )}
          <DataTable
            label="Targets"
            columns={columns}
            rowHeight={44}
            empty={<p className="p-4 text-sm text-soft">No target is like that.</p>}
            {...list.table}
          />
        </>
      )}
      <RecordDialog
        action={doing}
        on={{ keys, label: keys.length === 1 ? list.picked[0]!.name : plural(keys.length, "target") }}
        onClose={() => setDoing(null)}
        onDone={list.clear}
      />
      {isLaunch && <LaunchDialog items={[]} onClose={() => setLaunch(false)} />}
      {isNew && <NewTargets onClose={() => setNew(false)} />}
    </div>
  );
}

function isShown({ type, isRunning, quiet, sums }: AimedTarget, shown: keyof typeof SHOWN): boolean {
  if (shown === "running") return isRunning;
  if (shown === "quiet") return quiet !== null || sums.impressions === 0;
  if (shown === "waste") return sums.clicks > 0 && sums.orders === 0;
  return shown === "all" || type === shown;
}

function TargetName({ target: { name, how, waiting, quiet, sums } }: { target: AimedTarget }) {
  return (
    <span className="block min-w-0" title={quiet ? `${name}: no impressions, ${quietInWords(quiet)}` : name}>
      <span className="flex items-center gap-1.5 leading-tight">
        <span className="truncate">{name}</span>
        {waiting && (
          <span className="rounded bg-petrol-wash px-1 text-xs text-petrol">
            {waiting === "new" ? "not sent" : "changed"}
          </span>
        )}
      </span>
      <span className="block truncate text-xs leading-tight text-soft">
        {how}
        {sums.impressions === 0 && (
          <span className="text-ember"> · no impressions{quiet ? `: ${quietInWords(quiet)}` : ""}</span>
        )}
      </span>
    </span>
  );
}
