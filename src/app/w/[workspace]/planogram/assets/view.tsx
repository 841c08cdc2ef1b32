"use client";

import { useRouter } from "next/navigation";
import { useState } from "react";
import { CHANNEL_LIMITS } from "@/core/channel/limits";
import { ASSET_LISTS, type AssetSet } from "@/core/account/records/assets";
import { formatCount, formatMetric, plural } from "@/core/kit/format";
import { METRICS } from "@/core/kit/metrics";
import { formatMoney, toUnits } from "@/core/kit/money";
import type { AssetGroupLine, AssetGroups } from "@/server/assets/asset-groups";
import { Button } from "@/ui/button";
import { DataTable, type TableColumn } from "@/ui/data-table";
import { TextInput } from "@/ui/field";
import { EmptyNote } from "@/ui/notes";
import { PageHead, PageWaiting } from "@/ui/page";
import { apiGet, toastError, useApi } from "../../../../_lib/api";
import { useApiPath, useDays, useWorkspace } from "../../../../_lib/workspace";
import { useFields } from "../../catalogue/use-feeds";
import { PickBar } from "../../pick-bar";
import { useEdit } from "../../use-edit";
import { useList } from "../../use-list";
import { AssetDialog } from "../asset-dialog";
import { startAssets } from "../start-assets";
import { PlanogramTabs } from "../tabs";

/** Why a group's ads are not shown, or not for all items; "" where nothing stands in their way. */
function hindrance({ wrong, items, complete, status }: AssetGroupLine): string {
  if (status === "paused") return "paused";
  if (wrong.length > 0) return `waits for ${wrong.join(" and ")}`;
  if (items === 0) return "no item";
  return complete < items ? `${plural(items - complete, "item")} without a whole ad` : "";
}

/** Every asset group: what its ads are put together from, how far they reach, what they share with others, what they did. */
export default function AssetGroupsPage() {
  const { slug, currency } = useWorkspace();
  const router = useRouter();
  const apiPath = useApiPath();
  const [days] = useDays();
  const groups = useApi<AssetGroups>(apiPath(`asset-groups?days=${days}`));
  const edit = useEdit();
  const fields = useFields();
  const [open, setOpen] = useState<{ keys: string[]; title: string; start: AssetSet } | null>(null);
  const money = (mills: number) => formatMoney(mills, currency);
  const list = useList({
    rows: groups.data?.groups ?? [],
    keyOf: ({ adGroup }) => adGroup,
    textOf: (group) => `${group.name} ${group.campaignName} ${hindrance(group)}`,
    sorts: {
      name: ({ name }) => name,
      campaign: ({ campaignName }) => campaignName,
      items: ({ items }) => items,
      missing: ({ items, complete }) => items - complete,
      shared: ({ shared }) => shared,
      clicks: ({ sums }) => sums.clicks,
      cost: ({ sums }) => sums.cost,
      revenue: ({ sums }) => sums.revenue,
      roas: ({ sums }) => METRICS.roas.of(sums),
    },
    copy: [
      { heading: "asset group", of: ({ name }) => name },
      { heading: "campaign", of: ({ campaignName }) => campaignName },
      { heading: "state", of: hindrance },
      { heading: "items", of: ({ items }) => items },
      { heading: "with a whole ad", of: ({ complete }) => complete },
      { heading: "in other asset groups", of: ({ shared }) => shared },
      ...ASSET_LISTS.map((name) => ({ heading: name, of: ({ counts }: AssetGroupLine) => counts[name] })),
      { heading: "clicks", of: ({ sums }) => sums.clicks },
      { heading: "spend", of: ({ sums }) => toUnits(sums.cost) },
      { heading: "ad sales", of: ({ sums }) => toUnits(sums.revenue) },
    ],
  });
  if (groups.error || !groups.data)
    return (
      <PageWaiting title="Asset groups" what="the asset groups" error={groups.error}>
        <PlanogramTabs />
      </PageWaiting>
    );
  const all = groups.data.groups;
  const plan = () => router.push(`/w/${slug}/planogram?plan=new&kind=asset`);
  const openFor = async (picked: AssetGroupLine[]) => {
    const [first] = picked;
    if (!first) return;
    try {
      const path = apiPath(`asset-groups/assets?adGroup=${encodeURIComponent(first.adGroup)}`);
      const start = (await apiGet<AssetSet | null>(path)) ?? startAssets(fields);
      const title =
        picked.length === 1 ? `Assets of ${first.name}` : `Assets of ${plural(picked.length, "asset group")}`;
      setOpen({ keys: picked.map(({ adGroup }) => adGroup), title, start });
    } catch (error) {
      toastError(error);
    }
  };
  const columns: TableColumn<AssetGroupLine>[] = [
    {
      ...{ key: "name", label: "Asset group", width: "1fr", sort: "name" },
      cell: (group) => (
        <button
          type="button"
          className="block max-w-full text-left hover:underline"
          title={`${group.campaignName} · ${group.name}`}
          onClick={() => void openFor([group])}
        >
          <span className="block truncate leading-tight">{group.name}</span>
          <span className="block truncate text-xs leading-tight text-soft">
            {group.campaignName}
            {group.waiting && ` · ${group.waiting === "new" ? "not sent yet" : "changed in the basket"}`}
          </span>
        </button>
      ),
    },
    {
      ...{ key: "state", label: "Ads", width: 210, sort: "missing" },
      cell: (group) => {
        const why = hindrance(group);
        return why === "" ? (
          <span className="text-soft">for all items</span>
        ) : (
          <span className="block truncate text-ember" title={why}>
            {why}
          </span>
        );
      },
    },
    {
      ...{ key: "counts", label: "Lines · pictures", width: 120, align: "right" },
      cell: ({ counts }) => (
        <span
          className="num"
          title={ASSET_LISTS.map((name) => `${name}: ${counts[name]} of ${CHANNEL_LIMITS.assets[name].most}`).join(
            ", ",
          )}
        >
          {ASSET_LISTS.map((name) => counts[name]).join(" · ")}
        </span>
      ),
    },
    {
      ...{ key: "items", label: "Items", width: 72, align: "right", sort: "items" },
      cell: ({ items }) => formatCount(items),
    },
    {
      ...{ key: "shared", label: "Shared", width: 76, align: "right", sort: "shared" },
      cell: ({ shared, sharesWith }) => (
        <span title={sharesWith ? `Most of them with ${sharesWith}` : "No other asset group holds its items"}>
          {shared === 0 ? "–" : formatCount(shared)}
        </span>
      ),
    },
    {
      ...{ key: "clicks", label: "Clicks", width: 72, align: "right", sort: "clicks" },
      cell: ({ sums }) => formatCount(sums.clicks),
    },
    {
      ...{ key: "cost", label: "Spend", width: 90, align: "right", sort: "cost" },
      cell: ({ sums }) => money(sums.cost),
    },
    {
      ...{ key: "revenue", label: "Ad sales", width: 96, align: "right", sort: "revenue" },
      cell: ({ sums }) => money(sums.revenue),
    },
    {
      ...{ key: "roas", label: "ROAS", width: 64, align: "right", sort: "roas" },
      cell: ({ sums }) => formatMetric("roas", METRICS.roas.of(sums), currency),
    },
  ];
  const without = all.filter((group) => hindrance(group) !== "").length;
  const keys = list.picked.map(({ adGroup }) => adGroup);
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <PageHead
        title="Asset groups"
        facts={`${plural(all.length, "asset group")}${without > 0 ? ` · ${formatCount(without)} not shown, or not for all items` : ""}`}
      >
        <Button look="ember" onClick={plan}>
          Plan asset groups
        </Button>
      </PageHead>
      <PlanogramTabs />
      {all.length === 0 ? (
        <EmptyNote
          title="No asset groups yet"
          action={
            <Button look="ember" onClick={plan}>
              Plan asset groups
            </Button>
          }
        >
          An asset group holds items and the lines and pictures that the channel puts their ads together from. A split
          ladder makes them as it makes ad groups.
        </EmptyNote>
      ) : (
        <>
          <div className="flex items-center gap-2">
            <TextInput
              type="search"
              aria-label="Search asset groups"
              placeholder="Search asset groups  ( / )"
              className="w-64!"
              {...list.search}
            />
            <span className="text-sm text-soft num">{plural(list.found.length, "asset group")}</span>
          </div>
          {keys.length > 0 && (
            <PickBar
              label={`${plural(keys.length, "asset group")} picked`}
              sums={`spend ${money(list.picked.reduce((sum, { sums }) => sum + sums.cost, 0))}`}
              onCopy={list.copyRows}
              onClear={list.clear}
            >
              <Button onClick={() => void openFor(list.picked)}>Change their assets</Button>
              <Button onClick={() => void edit({ action: "status", keys, status: "paused" })}>Pause</Button>
              <Button onClick={() => void edit({ action: "status", keys, status: "on" })}>Switch on</Button>
            </PickBar>
          )}
          <DataTable label="Asset groups" columns={columns} rowHeight={44} {...list.table} />
        </>
      )}
      {open && (
        <AssetDialog
          title={open.title}
          start={open.start}
          scope={{ adGroup: open.keys[0]! }}
          keep={{
            label: open.keys.length === 1 ? "Put into the basket" : `Give all ${open.keys.length} these assets`,
            run: (assets) => edit({ action: "assets", keys: open.keys, assets }),
          }}
          onClose={() => setOpen(null)}
        />
      )}
    </div>
  );
}
