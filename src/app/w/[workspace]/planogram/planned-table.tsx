"use client";

import { ChevronRight } from "lucide-react";
import { useState } from "react";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney, formatMoneyShort, millsToField } from "@/core/kit/money";
import { LEAST_ORDERS, ordersAMonth } from "@/core/planogram/enough";
import type { PlanogramPreview } from "@/core/planogram/preview";
import type { Planogram } from "@/core/planogram/planogram";
import type { PlannedGroup } from "@/core/planogram/planned-campaigns";
import { cx } from "@/ui/cx";
import { DataTable, type TableColumn } from "@/ui/data-table";
import type { Unfolded } from "@/ui/use-unfolded";
import { useWorkspace } from "../../../_lib/workspace";
import { BudgetCell } from "./budget-cell";
import { plannedRows, type PlannedRow } from "./planned-rows";

/** The plan as a tree in a table of any size: what each campaign and ad group holds, what that brought, whether it is enough to learn from. */
export function PlannedTable({
  planogram: { each = {}, bidBy },
  preview: { campaigns, days },
  q,
  unfolded: { open, turn },
  picked,
  onPick,
  onItems,
  onBudget,
}: {
  planogram: Planogram;
  preview: PlanogramPreview;
  q: string;
  unfolded: Unfolded;
  /** Keys of picked campaigns and ad groups. */
  picked: ReadonlySet<string>;
  onPick: (picked: ReadonlySet<string>) => void;
  onItems: (group: PlannedGroup) => void;
  onBudget: (campaign: string, mills: number | null) => void;
}) {
  const { currency } = useWorkspace();
  const [sort, setSort] = useState("");
  const rows = plannedRows(campaigns, open, q, sort);
  // Each match type or reach shows the same items; how they would part what these bring is not known.
  const shared = new Set(campaigns.map(({ variant }) => variant)).size;
  const together = shared > 1 ? `, by all ${shared} that show these items together` : "";
  const columns: TableColumn<PlannedRow>[] = [
    {
      ...{ key: "name", label: "Campaign and ad groups", width: "1fr", sort: "name" },
      cell: ({ group, campaign, isOpen }) =>
        campaign ? (
          <button
            type="button"
            aria-expanded={isOpen}
            title={group.name}
            onClick={() => turn(group.key)}
            className="flex w-full min-w-0 items-center gap-1 text-left font-semibold"
          >
            <ChevronRight aria-hidden className={cx("size-4 shrink-0 transition-transform", isOpen && "rotate-90")} />
            <span className="truncate">{group.name}</span>
            <span className="shrink-0 font-normal text-soft num" title={plural(campaign.adGroups.length, "ad group")}>
              · {formatCount(campaign.adGroups.length)}
              <span className="sr-only"> {campaign.adGroups.length === 1 ? "ad group" : "ad groups"}</span>
              {each[group.key] && <Own />}
            </span>
          </button>
        ) : (
          <span className="pl-8" title={group.name}>
            {group.name}
            {each[group.key] && <Own />}
          </span>
        ),
    },
    {
      ...{ key: "items", label: "Items", width: 56, align: "right", sort: "items" },
      cell: ({ group }) => (
        <button type="button" className="text-petrol hover:underline num" onClick={() => onItems(group)}>
          {formatCount(group.items)}
        </button>
      ),
    },
    // Where each ad group bids for itself, that is what is looked at; the groups they form stand below the table.
    bidBy === "worth"
      ? {
          ...{ key: "bid", label: "Bid", width: 74, align: "right" },
          about: "What its ad groups bid a click.",
          cell: ({ bids }) => bidWords(bids),
        }
      : {
          ...{ key: "groups", label: "Groups", width: 64, align: "right", sort: "groups" },
          about: "Product groups that it forms.",
          cell: ({ group }) => formatCount(group.productGroups),
        },
    {
      ...{ key: "revenue", label: "Sales", width: 66, align: "right", sort: "revenue" },
      about: `What its items sold by ads in the last ${plural(days, "day")}.`,
      cell: ({ group }) => (
        <span
          className={shared > 1 ? "text-soft" : undefined}
          title={`${formatMoney(group.revenue, currency)}${together}`}
        >
          {formatMoneyShort(group.revenue, currency)}
        </span>
      ),
    },
    {
      ...{ key: "roas", label: "ROAS", width: 50, align: "right", sort: "roas" },
      cell: ({ group: { cost, revenue } }) => (
        <span title={`spend ${formatMoney(cost, currency)}${together}`}>
          {cost > 0 ? (revenue / cost).toFixed(2) : "–"}
        </span>
      ),
    },
    {
      ...{ key: "orders", label: "Orders/mo", width: 82, align: "right", sort: "orders" },
      about: "What it can expect, from what its items brought. With too few it learns nothing.",
      cell: ({ group, campaign }) =>
        shared > 1 ? (
          <span className="text-soft" title={`Not known for each${together}`}>
            –
          </span>
        ) : (
          <Expected group={group} days={days} isCampaign={campaign !== null} />
        ),
    },
    {
      ...{ key: "budget", label: "Budget", width: 84, align: "right", sort: "budget" },
      cell: ({ campaign }) => campaign && <BudgetCell campaign={campaign} onBudget={onBudget} />,
    },
  ];
  return (
    <DataTable
      label="What it would make"
      columns={columns}
      total={rows.length}
      rowAt={(index) => rows[index]}
      keyOf={({ group }) => group.key}
      sort={sort}
      onSort={setSort}
      selected={picked}
      onToggle={(key) => {
        const next = new Set(picked);
        if (!next.delete(key)) next.add(key);
        onPick(next);
      }}
      isAllSelected={rows.length > 0 && rows.every(({ group }) => picked.has(group.key))}
      onToggleAll={() =>
        onPick(
          rows.every(({ group }) => picked.has(group.key)) ? new Set() : new Set(rows.map(({ group }) => group.key)),
        )
      }
      empty={<p className="p-4 text-sm text-soft">Nothing in the plan is called like that.</p>}
    />
  );
}

/** One bid, or from the least to the most of several. */
function bidWords(bids: readonly number[]): string {
  const [least, most] = [Math.min(...bids), Math.max(...bids)];
  if (bids.length === 0) return "–";
  return least === most ? millsToField(least) : `${millsToField(least)}–${millsToField(most)}`;
}

/** Tells that a campaign or ad group is set otherwise than the rest. */
function Own() {
  return <span className="text-petrol"> · own settings</span>;
}

function Expected({ group, days, isCampaign }: { group: PlannedGroup; days: number; isCampaign: boolean }) {
  const orders = ordersAMonth(group, days);
  if (orders === null) return <span className="text-soft">–</span>;
  const isThin = isCampaign && orders < LEAST_ORDERS;
  return (
    <span className={isThin ? "font-semibold text-ember" : undefined}>
      {isThin && "▾ "}
      {orders < 10 ? orders.toFixed(1) : formatCount(Math.round(orders))}
    </span>
  );
}
